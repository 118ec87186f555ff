//! Tournaments, comparisons and pools from the command line: what is printed, and what a build server sees.

use std::process::Command;

use crate::common::Bench;
use insta::assert_snapshot;
use serde_json::Value;

const QUICK: &str = "--rules touches=1 --seed 5";

#[test]
fn round_robin_told() {
    assert_snapshot!(Bench::new().console("tournament piste heron turnstone dunlin godwit -m 60 --seed 2"));
}

#[test]
fn swiss_with_an_anchor_told() {
    let bench = Bench::new();
    let output = bench.ok(
        "tournament sowing m=minimax:depth=1..3/3 grabber drifter --rules pits=3,seeds=2 --format swiss --rounds 4 -m 20 --anchor grabber",
    );
    // Times of decisions differ from run to run.
    let lines = output.lines().filter(|line| !line.contains("µs") && !line.contains(" ms"));
    assert_snapshot!(lines.collect::<Vec<_>>().join("\n"));
}

#[test]
fn knockout_told() {
    let output = Bench::new()
        .console(&format!("tournament piste heron avocet newcomer dunlin drifter {QUICK} --format knockout -m 20"));
    assert_snapshot!(output);
}

/// Who sat where in each match of a study: by match, the entrant of each seat.
fn seats(bench: &Bench, study: &str) -> Vec<Vec<String>> {
    let text = bench.ok(&format!("ledger export {study} --to jsonl --quiet"));
    let mut matches: Vec<Vec<String>> = Vec::new();
    for row in text.lines().map(|line| serde_json::from_str::<Value>(line).expect("a line of JSON")) {
        if row["seat"] == 0 {
            matches.push(Vec::new());
        }
        let name = row["entrant"].as_str().expect("a name").to_string();
        matches.last_mut().expect("seats are in order").push(name);
    }
    matches
}

#[test]
fn two_boats_meet_wherever_two_are_named_and_sail_alone_where_that_is_asked_for() {
    let bench = Bench::new();
    for verb in ["batch", "tournament", "compare"] {
        bench.ok(&format!("{verb} regatta tacker beeline -m 4 --name {verb} --quiet"));
        let sat = seats(&bench, verb);
        assert_eq!(sat.len(), 4, "{verb}");
        assert!(sat.iter().all(|seats| seats.len() == 2), "{verb}: {sat:?}");
        assert!(sat.chunks(2).all(|block| block[0][0] == block[1][1]), "{verb} changes seats: {sat:?}");
    }
    bench.ok("batch regatta tacker beeline --seats 1 -m 4 --name alone --quiet");
    assert!(seats(&bench, "alone").iter().all(|seats| seats.len() == 1));
}

#[test]
fn a_block_of_three_boats_gives_each_every_seat() {
    let bench = Bench::new();
    bench.write(
        "three.toml",
        "kind = \"tournament\"\ngame = \"regatta\"\nseats = 3\nmatches = 6\n[[entrant]]\nagent = \"tacker\"\n\
         [[entrant]]\nagent = \"beeline\"\n[[entrant]]\nagent = \"drifter\"\n[[entrant]]\nname = \"other\"\nagent = \"beeline\"\n",
    );
    let found = bench.json("run three.toml --name three");
    // Four tables of three, and two blocks of three matches at each.
    assert_eq!((found["matches"].as_u64(), found["pairings"].as_array().map(Vec::len)), (Some(24), Some(6)));
    let sat = seats(&bench, "three");
    assert_eq!(sat.len(), 24);
    for block in sat.chunks(3) {
        for seat in 0..3 {
            let mut sat: Vec<&String> = block.iter().map(|seats| &seats[seat]).collect();
            sat.sort();
            sat.dedup();
            assert_eq!(sat.len(), 3, "{block:?}");
        }
    }
    let printed = bench.ok("run three.toml --print-brief");
    assert!(printed.contains("seats = 3"), "{printed}");
}

#[test]
fn summary_has_the_keys_that_scripts_read() {
    let bench = Bench::new();
    let found = bench.json(&format!("tournament piste heron dunlin godwit {QUICK} -m 20"));
    for key in
        ["study", "kind", "game", "seed", "matches", "blocks", "ticks", "entrants", "pairings", "ratings", "notes"]
    {
        assert!(!found[key].is_null(), "{key}");
    }
    let first = &found["ratings"][0];
    assert!(first["name"].is_string() && first["points_share"].is_number());
    assert!(["value", "low", "high"].iter().all(|end| first["rating"][end].is_number()), "{first}");
    assert!(found["tournament"]["circles"]["by_chance"].is_number());
    assert!(found["tournament"]["first_seat"]["low"].is_number());
}

#[test]
fn printed_briefs_do_the_same() {
    let bench = Bench::new();
    for line in [
        format!("tournament piste heron f=fencer:skill=0..1/3 {QUICK} -m 6 --format swiss --rounds 2 --anchor heron"),
        format!("compare piste heron dunlin {QUICK} -m 40 --until clear --equal-within 0.2"),
    ] {
        bench.write("b.toml", bench.ok(&format!("{line} --print-brief")));
        let typed = bench.json(&format!("--ledger one {line} --name x"));
        let read = bench.json("--ledger two run b.toml --name x");
        assert_eq!(typed, read, "{line}");
        bench.ok("--ledger one ledger remove x");
        bench.ok("--ledger two ledger remove x");
    }
}

#[test]
fn figures_of_a_field_and_of_a_comparison() {
    let bench = Bench::new();
    bench.ok(&format!("tournament piste heron dunlin godwit {QUICK} -m 20 --name field --quiet"));
    bench.ok(&format!("compare piste heron dunlin {QUICK} -m 20 --name pair --quiet"));
    let drawn = bench.ok("plot field") + &bench.ok("plot pair");
    for name in ["ratings", "matrix", "residuals", "rounds", "running"] {
        assert!(drawn.contains(&format!("figures/{name}.png")), "{name}: {drawn}");
    }
    assert!(bench.console("plot pair --figure ratings").contains("exit 2"));
}

/// A shell script as a build server would run it: the gate's exit code decides.
#[cfg(unix)]
fn gate(bench: &Bench, new: &str, require: &str) -> (String, String) {
    let script = format!(
        "\"$INKPOT\" --quiet compare piste new={new} old=fencer:skill=0.5 {QUICK} -m 3000 --until clear \
         --equal-within 0.08 --require {require} --junit gate.xml > gate.txt 2> gate.err\n\
         code=$?\n\
         if [ $code -eq 0 ]; then echo passed; elif [ $code -eq 3 ]; then echo refused; else echo broken $code; fi\n"
    );
    let output = Command::new("sh")
        .args(["-c", &script])
        .env("INKPOT", assert_cmd::cargo::cargo_bin!("inkpot"))
        .env_remove("INKPOT_LEDGER")
        .current_dir(bench.path(""))
        .output()
        .unwrap();
    (String::from_utf8(output.stdout).unwrap().trim().to_string(), bench.read("gate.xml"))
}

#[test]
#[cfg(unix)]
fn a_build_gate_by_exit_code_and_junit() {
    let bench = Bench::new();
    let cases = [
        ("fencer:skill=0.5", "not-worse", "passed", "0"),
        ("fencer:skill=0.1", "not-worse", "refused", "1"),
        ("fencer:skill=0.9", "better", "passed", "0"),
        ("fencer:skill=0.1", "better", "refused", "1"),
    ];
    for (new, require, outcome, failures) in cases {
        let (output, xml) = gate(&bench, new, require);
        assert_eq!(output, outcome, "{new} {require}");
        let document = roxmltree::Document::parse(&xml).expect("JUnit XML is well-formed");
        let suite = document.descendants().find(|node| node.has_tag_name("testsuite")).unwrap();
        assert_eq!((suite.attribute("tests"), suite.attribute("failures")), (Some("1"), Some(failures)), "{xml}");
        let case = suite.children().find(|node| node.has_tag_name("testcase")).unwrap();
        assert!(case.attribute("name").unwrap().starts_with("new is "));
        let failed = case.children().any(|node| node.has_tag_name("failure"));
        assert_eq!(failed, failures == "1");
    }
}

#[test]
fn names_are_escaped_in_junit() {
    let bench = Bench::new();
    bench.ok(&format!("compare piste heron dunlin {QUICK} -m 4 --junit gate.xml"));
    let xml = bench.read("gate.xml");
    let document = roxmltree::Document::parse(&xml).unwrap();
    assert!(document.descendants().any(|node| node.has_tag_name("skipped")), "nothing was required: {xml}");
}

#[test]
fn a_comparison_told() {
    assert_snapshot!(Bench::new().console(&format!(
        "compare piste new=fencer:skill=0.7 old=fencer:skill=0.5 --against newcomer {QUICK} -m 200 --require better"
    )));
}

#[test]
fn the_smallest_difference_that_matters_sets_what_a_fixed_design_needs() {
    let bench = Bench::new();
    let needed = |smallest: &str| {
        let name = smallest.replace([' ', '.', '-'], "");
        let summary = bench.json(&format!("compare piste heron godwit {QUICK} -m 400 --name c{name} {smallest}"));
        let smallest = &summary["comparison"]["smallest"];
        (smallest["difference"].as_f64().expect("a difference"), smallest["fixed_matches"].as_u64().expect("a number"))
    };
    let (usual, fine, coarse) = (needed(""), needed("--smallest 0.025"), needed("--smallest 0.1"));
    assert_eq!((usual.0, fine.0, coarse.0), (0.05, 0.025, 0.1));
    // Matches grow with the square of how fine a difference is.
    for (more, fewer) in [(fine.1, usual.1), (usual.1, coarse.1)] {
        let ratio = more as f64 / fewer as f64;
        assert!((3.8..4.2).contains(&ratio), "{more} against {fewer}");
    }
    for wrong in ["0", "0.5", "-1", "nan"] {
        let console = bench.console(&format!("compare piste heron godwit -m 40 --smallest={wrong}"));
        assert!(console.contains("exit 2") && console.contains("smallest"), "{console}");
    }
}

#[test]
fn stored_entrants_are_compared_as_they_stand() {
    let bench = Bench::new();
    bench.ok(&format!("batch piste guest=newcomer house=fencer:skill=0.3 {QUICK} -m 300 --name monday --quiet"));
    bench.ok(&format!("batch piste guest=newcomer house=fencer:skill=0.7 {QUICK} -m 300 --name tuesday --quiet"));
    bench
        .ok("batch piste guest=newcomer house=fencer:skill=0.7 --rules touches=1 --seed 6 -m 300 --name later --quiet");
    let paired = bench.json("compare tuesday/house monday/house");
    assert_eq!(paired["comparison"]["verdict"], "better");
    assert_eq!(paired["comparison"]["against"], serde_json::json!(["guest"]));
    let width = |found: &Value| {
        let d = &found["comparison"]["difference"];
        d["high"].as_f64().unwrap() - d["low"].as_f64().unwrap()
    };
    // Blocks in common narrow the interval; two seeds have none.
    let apart = bench.json("compare later/house monday/house");
    assert!(width(&paired) < width(&apart), "{} {}", width(&paired), width(&apart));
    let alike = bench.json("compare later/house tuesday/house");
    assert_eq!(alike["comparison"]["verdict"], "open");
    // A longer study of the same seed: only the blocks that both have count, and only their matches are told.
    bench.ok(&format!("batch piste guest=newcomer house=fencer:skill=0.3 {QUICK} -m 500 --name longer --quiet"));
    let shared = bench.json("compare tuesday/house longer/house");
    assert_eq!((&shared["comparison"]["blocks"], &shared["comparison"]["matches"]), (&150.into(), &600.into()));
    let met = bench.json("compare monday/house monday/guest");
    assert!(met["comparison"]["win_rate"]["value"].is_number());
    assert!(bench.console("compare monday/house tuesday/house --require better").contains("exit 3"));
    let same = bench.console("compare monday/house monday/house");
    assert!(same.contains("exit 2") && same.contains("compared with itself"), "{same}");
}

#[test]
fn stored_entrants_that_cannot_be_compared() {
    let bench = Bench::new();
    bench.ok(&format!("batch piste heron dunlin {QUICK} -m 4 --name one --quiet"));
    bench.ok(&format!("batch piste godwit avocet {QUICK} -m 4 --name two --quiet"));
    bench.ok("batch piste heron godwit --rules touches=2 --seed 5 -m 4 --name three --quiet");
    let cases = [
        "one/heron two/godwit",
        "one/heron three/godwit",
        "one/hero two/godwit",
        "one/heron nine/godwit",
        "heron dunlin",
        "one/heron two/godwit --until clear",
    ];
    let consoles: Vec<String> = cases.iter().map(|case| bench.console(&format!("compare {case}"))).collect();
    assert_snapshot!(consoles.join("\n\n"));
}

const POOL: &str = "\
# The birds of the pier.
game = \"piste\"
anchor = \"house\"

[rules]
touches = 1

[[entrant]]
name = \"house\"
agent = \"fencer\"
knobs = { skill = 0.5 }

[[entrant]]
agent = \"heron\"

[[entrant]]
agent = \"newcomer\"
";

#[test]
fn a_pool_is_rated_from_all_studies_together() {
    let bench = Bench::new();
    bench.write("birds.toml", POOL);
    bench.ok("tournament piste --pool birds.toml -m 200 --seed 1 --name first --quiet");
    bench.ok("tournament piste --pool birds.toml -m 200 --seed 2 --name second --quiet");
    assert!(bench.ok("pool show birds.toml").contains("no study has been added yet"));
    let pool = bench.json("pool add birds.toml first");
    let two = bench.json("pool add birds.toml second");
    assert!(bench.read("birds.toml").starts_with(POOL), "what was written stays as it is");
    let of = |found: &Value, name: &str| {
        let all = found["ratings"].as_array().unwrap().clone();
        all.into_iter().find(|entrant| entrant["name"] == name).unwrap()
    };
    assert_eq!(of(&two, "house")["rating"]["value"], 0.0);
    assert!(of(&two, "heron")["rating"]["value"].as_f64() > of(&two, "newcomer")["rating"]["value"].as_f64());
    let width =
        |entrant: Value| entrant["rating"]["high"].as_f64().unwrap() - entrant["rating"]["low"].as_f64().unwrap();
    assert!(width(of(&two, "heron")) < 0.9 * width(of(&pool, "heron")));
    assert_eq!(two["studies"], serde_json::json!(["first", "second"]));
    // Adding once more changes nothing, and the order of adding has no bearing.
    let before = bench.read("birds.toml");
    assert_eq!(bench.json("pool add birds.toml second first"), two);
    assert_eq!(bench.read("birds.toml"), before);
    bench.write("other.toml", POOL);
    assert_eq!(bench.json("pool add other.toml second first")["ratings"], two["ratings"]);
    // One study says of its own field what a pool with nothing else does.
    bench.write("one.toml", POOL);
    let (alone, pooled) = (bench.json("pool add one.toml first"), bench.json("ledger show first"));
    assert_eq!(of(&alone, "heron")["rating"], of(&pooled, "heron")["rating"]);
    assert_eq!(bench.json("pool show birds.toml"), two);
    // A brief may name the pool, from beside it.
    bench.write("b.toml", "kind = \"tournament\"\ngame = \"piste\"\nmatches = 2\npool = \"birds.toml\"\n\n[[entrant]]\nagent = \"dunlin\"\n");
    let found = bench.json("run b.toml");
    assert_eq!(
        (found["entrants"].as_array().unwrap().len(), found["tournament"]["anchor"].as_str()),
        (4, Some("house"))
    );
}

#[test]
fn wrong_pools_and_studies_are_refused() {
    let bench = Bench::new();
    bench.write("birds.toml", POOL);
    bench.write("missing.toml", POOL.replace("agent = \"heron\"", "agent = \"hern\""));
    bench.write("anchor.toml", POOL.replace("anchor = \"house\"", "anchor = \"hose\""));
    bench.ok("tournament piste --pool birds.toml -m 4 --seed 1 --name first --quiet");
    bench.ok("tournament piste house=fencer:skill=0.9 heron --rules touches=1 -m 4 --name other --quiet");
    bench.ok("tournament piste heron dunlin -m 4 --rules touches=2 --name rules --quiet");
    bench.ok("tournament piste godwit dunlin -m 4 --rules touches=1 --name strangers --quiet");
    bench.ok("tournament piste --pool birds.toml -m 8 --seed 1 --name again --quiet");
    let old = "\n[[added]]\nstudy = \"first\"\nmatches = 4\n\n[added.ratings]\n\"heron\" = [12.5, 60.0, 0.06]\n";
    bench.write("old.toml", format!("{POOL}{old}"));
    bench.ok("pool add birds.toml first --quiet");
    let before = bench.read("birds.toml");
    let cases = [
        "tournament piste --pool missing.toml",
        "pool show anchor.toml",
        "pool show nowhere.toml",
        "tournament sowing --pool birds.toml",
        "pool add birds.toml again",
        "pool show old.toml",
        "pool add birds.toml other",
        "pool add birds.toml rules",
        "pool add birds.toml strangers",
    ];
    let consoles: Vec<String> = cases.iter().map(|case| bench.console(case)).collect();
    assert!(consoles.iter().all(|console| console.contains("exit 2")), "{consoles:?}");
    assert_snapshot!(consoles.join("\n\n"));
    assert_eq!(bench.read("birds.toml"), before);
}

#[test]
fn agent_files_and_patterns_of_them_are_entrants() {
    let bench = Bench::new();
    bench.write("agents/calm.toml", "agent = \"fencer\"\nknobs = { skill = 0.3 }\n");
    bench.write("agents/wild.toml", "name = \"the wild one\"\nagent = \"turnstone\"\n");
    let names = |found: &Value| -> Vec<String> {
        found["entrants"]
            .as_array()
            .unwrap()
            .iter()
            .map(|entrant| entrant["name"].as_str().unwrap().to_string())
            .collect()
    };
    let typed = bench.json(&format!("tournament piste agents/*.toml x=agents/calm.toml:skill=0.5 {QUICK} -m 2"));
    assert_eq!(names(&typed), ["calm", "the wild one", "x"]);
    assert_eq!(typed["entrants"][2]["knobs"]["skill"], 0.5);
    // In a brief the files are looked up beside it, wherever it is run from.
    bench.write(
        "deep/b.toml",
        "kind = \"tournament\"\ngame = \"piste\"\nmatches = 2\n[[entrant]]\nfile = \"../agents/*.toml\"\n[[entrant]]\nname = \"f\"\nagent = \"fencer\"\nvary = { skill = [0.2, 0.8], reaction = { from = 4, to = 12, points = 2 } }\n",
    );
    let read = bench.json("run deep/b.toml");
    assert_eq!(names(&read).len(), 6);
    assert!(names(&read).contains(&"f skill 0.2 reaction 12".to_string()), "{:?}", names(&read));
}

#[test]
fn wrong_agent_files_are_refused() {
    let bench = Bench::new();
    bench.write("agents/calm.toml", "agnt = \"fencer\"\n");
    bench.write("agents/broken.toml", "agent = \n");
    let cases = ["agents/none*.toml", "agents/calm.toml", "agents/broken.toml", "agents/[.toml"];
    let consoles: Vec<String> =
        cases.iter().map(|case| bench.console(&format!("tournament piste heron {case}"))).collect();
    assert!(consoles.iter().all(|console| console.contains("exit 2")), "{consoles:?}");
    assert_snapshot!(consoles.join("\n\n"));
}

#[test]
fn equal_cost_finds_nodes_and_keeps_them_in_the_brief() {
    let bench = Bench::new();
    let brief = bench.ok("tournament sowing minimax treesearch drifter --equal-cost 0.05 -m 4 --print-brief");
    assert_eq!(brief.matches("nodes = ").count(), 2, "{brief}");
    bench.write("equal.toml", &brief);
    // What was found on this machine is played the same again.
    bench.ok("run equal.toml --name first");
    bench.ok("run equal.toml --name second");
    let rows = |study: &str| {
        bench.ok(&format!("ledger export {study} --out {study}.csv"));
        bench.read(&format!("{study}.csv"))
    };
    assert_eq!(rows("first"), rows("second"));
    assert_snapshot!(bench.console("tournament sowing minimax:depth=4 treesearch --equal-cost 1"));
    assert_snapshot!(bench.console("tournament sowing grabber drifter --equal-cost 1"));
}
