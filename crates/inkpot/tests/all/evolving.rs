//! Evolutions by the program: the same champion whatever the threads, an agent file for every verb, briefs that make no
//! sense.

use std::fs;
use std::process::{Command, Stdio};
use std::time::Duration;

use crate::common::{Bench, KNOBS, timeless};
use inkpot_ledger::Ledger;
use insta::assert_snapshot;

/// Where a search keeps what was seen of the round under way.
const ROUND: &str = "checkpoints/round-1.txt";

const NETWORK: &str = r#"kind = "evolve"
game = "regatta"
level = "reach"
seed = 4
seeds = 2
matches = 400
blocks = 1
proof = 100

[subject]
agent = "policy"
layers = [6]

[method]
name = "cma-es"

[[term]]
figure = "water_left_m"
weight = -1

[yardstick]
every = 5
matches = 40
"#;

const RIVALS: &str = r#"kind = "evolve"
game = "piste"
seed = 6
seeds = 2
matches = 900
blocks = 1
proof = 100
rules = { touches = 2 }

[subject]
agent = "fencer"

[[free]]
knob = "aggression"

[method]
population = 8

[[term]]
figure = "score_margin"

[rivals]
populations = 2
current = 1
past = 2

[yardstick]
every = 4
matches = 40

[[yardstick.opponent]]
pool = "birds.toml"
"#;

const BIRDS: &str = r#"game = "piste"

[[entrant]]
agent = "heron"

[[entrant]]
agent = "avocet"
"#;

/// What a study found: its history, and the agents that it hands over.
fn found(bench: &Bench, study: &str) -> Vec<(String, Vec<u8>)> {
    let folder = bench.path("ledger").join(study);
    let mut all: Vec<(String, Vec<u8>)> = fs::read_dir(folder)
        .expect("the study is there")
        .flatten()
        .map(|entry| (entry.file_name().to_string_lossy().into_owned(), entry.path()))
        .filter(|(name, _)| name.starts_with("champion") || name == "history.csv")
        .map(|(name, path)| (name, fs::read(path).expect("it can be read")))
        .collect();
    all.sort();
    all
}

/// One generation that takes seconds.
fn long_round() -> String {
    KNOBS.replace("matches = 800", "matches = 16000").replace("blocks = 2", "blocks = 400")
}

#[test]
#[cfg(unix)]
fn an_interrupt_within_a_long_round_loses_nothing_of_it() {
    let bench = Bench::new();
    bench.write("brief.toml", long_round());
    let stopped = |name: &str| {
        let mut command = bench.command(&format!("evolve brief.toml --threads 2 --name {name}"));
        let mut child = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
        while !bench.path(&format!("ledger/{name}/manifest.json")).exists() {
            std::thread::sleep(Duration::from_millis(5));
        }
        std::thread::sleep(Duration::from_millis(300));
        let sent = Command::new("kill").args(["-INT", &child.id().to_string()]).status().unwrap();
        assert!(sent.success());
        assert_eq!(child.wait().unwrap().code(), Some(130));
    };
    stopped("stopped");
    assert_eq!(bench.read("ledger/stopped/history.csv").lines().count(), 1, "no generation is done");
    assert!(bench.ok("ledger list").contains("search at 0 %"), "{}", bench.ok("ledger list"));
    let study = Ledger::at(&bench.path("ledger")).open("stopped").unwrap();
    let round = study.read_sealed(ROUND, "search.json").unwrap().expect("the round is saved");
    let seconds: f64 = round.lines().next().unwrap().split_once(' ').unwrap().1.parse().unwrap();
    bench.ok("resume stopped --threads 1");
    let first: f64 =
        bench.read("ledger/stopped/times.csv").lines().nth(1).unwrap().split_once(',').unwrap().1.parse().unwrap();
    assert!(seconds > 0.0 && first > seconds, "the clock goes on too: {first} after {seconds}");
    assert!(study.read_sealed(ROUND, "search.json").unwrap().is_none(), "no round is under way");
    bench.ok("evolve brief.toml --name whole");
    let history = |name: &str| bench.read(&format!("ledger/{name}/history.csv"));
    assert_eq!(history("stopped"), history("whole"));
    assert_eq!(
        bench.read("ledger/stopped/champion.toml"),
        bench.read("ledger/whole/champion.toml").replace("whole", "stopped")
    );
    // What was saved is gone on with, and not played again: changed, it changes what comes of it.
    stopped("changed");
    let study = Ledger::at(&bench.path("ledger")).open("changed").unwrap();
    let (follows, bits) = round.split_once('\n').unwrap();
    let mut bits: Vec<Vec<Vec<u64>>> = serde_json::from_str(bits).unwrap();
    bits[0][0][1] = 1000_f64.to_bits();
    study.write_sealed(ROUND, "search.json", &format!("{follows}\n{}", serde_json::to_string(&bits).unwrap())).unwrap();
    bench.ok("resume changed");
    assert_ne!(history("changed"), history("whole"));
    // A checkpoint of another search is named and set aside, and the search begins anew to the same end.
    stopped("foreign");
    bench.write("other.toml", KNOBS);
    bench.ok("evolve other.toml --name other");
    let checkpoint = |name: &str| bench.path(&format!("ledger/{name}/checkpoints/search-1.txt"));
    fs::copy(checkpoint("other"), checkpoint("foreign")).unwrap();
    let resumed = bench.run("resume foreign");
    let said = String::from_utf8_lossy(&resumed.stderr);
    assert!(resumed.status.success() && said.contains("it was written by another study"), "{said}");
    assert_eq!(history("foreign"), history("whole"));
    // One of a finished study is a file like any other to `verify`.
    fs::copy(checkpoint("other"), checkpoint("whole")).unwrap();
    fs::write(bench.path("ledger/whole/times.csv"), "round,seconds\n").unwrap();
    let verified = bench.run("ledger verify whole");
    let said = String::from_utf8_lossy(&verified.stdout);
    assert!(
        !verified.status.success() && said.contains("checkpoints/search-1.txt") && said.contains("times.csv"),
        "{said}"
    );
}

/// Of knobs and networks `hard` says so with its kills.
#[test]
fn rivals_come_to_the_same_champion_on_any_number_of_threads() {
    let bench = Bench::new();
    bench.write("birds.toml", BIRDS);
    bench.write("brief.toml", RIVALS);
    bench.ok("--threads 1 evolve brief.toml --name one");
    bench.ok("--threads 3 evolve brief.toml --name three");
    let (single, three) = (found(&bench, "one"), found(&bench, "three"));
    assert!(single.len() >= 2 && single == three);
}

#[test]
fn what_was_seen_and_what_was_proved_stand_side_by_side() {
    let bench = Bench::new();
    bench.write("brief.toml", KNOBS);
    assert_snapshot!(bench.console("evolve brief.toml --name knobs"));
    let summary = bench.json("ledger show knobs");
    let search = &summary["search"];
    assert_eq!((search["method"].as_str(), search["champion"].as_str()), (Some("genetic"), Some("champion.toml")));
    let seeds = search["seeds"].as_array().expect("repetitions");
    assert_eq!(seeds.iter().map(|seed| seed["seed"].as_u64()).collect::<Vec<_>>(), [Some(1), Some(2)]);
    for seed in seeds {
        let proved = |key: &str| seed["proved"][key].as_f64().expect("a number");
        assert!(proved("low") <= proved("value") && proved("value") <= proved("high"));
        assert!(seed["seen"].is_number() && seed["matches"].as_u64() <= Some(800));
    }
    assert_snapshot!(bench.read("ledger/knobs/champion.toml"));
    let history = bench.read("ledger/knobs/history.csv");
    let head = history.lines().next().expect("a heading");
    assert!(head.starts_with("seed,round,matches,steps,best,median,low,high,yardstick,yardstick_low,yardstick_high,"));
    assert!(head.contains("win_rate") && head.contains("length"));
}

/// Matches by generation: a candidate meets one rival of the other population and up to two of its past, and both
/// populations play.
#[test]
fn rivals_are_met_as_the_brief_says() {
    let bench = Bench::new();
    bench.write("birds.toml", BIRDS);
    bench.write("brief.toml", RIVALS);
    assert_snapshot!(bench.console("evolve brief.toml --name rivals"));
    let history = bench.read("ledger/rivals/history.csv");
    let matches = |line: &str| line.split(',').nth(3 - 1).and_then(|cell| cell.parse::<u64>().ok());
    let played: Vec<u64> = history.lines().filter(|line| line.starts_with("1,")).filter_map(matches).collect();
    assert_eq!(played[..4], [32, 96, 192, 288]);
    // The champions stand against the pool, and nobody is said to have learned there.
    let summary = bench.json("ledger show rivals");
    assert_eq!(summary["search"]["learned_on"], "rivals");
    let names = summary["entrants"].as_array().expect("entrants").iter().filter_map(|entrant| entrant["name"].as_str());
    assert_eq!(names.collect::<Vec<_>>(), ["repetition 1", "repetition 2", "heron", "avocet"]);
}

#[test]
fn the_champion_plays_for_every_verb() {
    let bench = Bench::new();
    bench.write("brief.toml", NETWORK);
    bench.ok("evolve brief.toml --name net");
    let proved = &bench.json("ledger show net")["search"]["champion_seed"];
    let champion = "ledger/net/champion.toml";
    bench.ok(&format!("match regatta {champion} --level reach"));
    let summary = bench.json(&format!("batch regatta {champion} --level reach --matches 60 --name own"));
    assert_eq!(summary["entrants"][0]["name"], "champion");
    // The weights go with the study: it is played again from its own folder alone.
    bench.ok("run ledger/own/resolved.toml --name again");
    let again = bench.json("ledger show again");
    assert_eq!(summary["entrants"][0]["measures"], again["entrants"][0]["measures"]);
    let weights = format!("policy:file=ledger/net/champion-{proved}.safetensors");
    let typed = bench.json(&format!("batch regatta {weights} --level reach --matches 60"));
    assert_eq!(summary["entrants"][0]["measures"], typed["entrants"][0]["measures"]);
    bench.ok("ledger verify net");
    bench.ok("plot net --figure paths");
    assert!(bench.path("ledger/net/figures/paths.svg").exists());
    bench.ok("ledger verify own");
}

#[test]
fn a_network_plays_only_where_it_reads_what_there_is() {
    let bench = Bench::new();
    bench.write("brief.toml", NETWORK);
    bench.ok("evolve brief.toml --name net");
    bench.write("broken.safetensors", "no weights");
    let champion = "ledger/net/champion.toml";
    assert_snapshot!(bench.console(&format!("match regatta {champion} --rules rays=5")));
    assert_snapshot!(bench.console(&format!("match piste {champion} heron")));
    assert_snapshot!(bench.console("match regatta policy:file=broken.safetensors"));
    assert_snapshot!(bench.console("match regatta policy:file=missing.safetensors"));
    assert_snapshot!(bench.console("match regatta policy"));
}

/// A map of elites: each is an agent that does what its niche says, and is told as it was proved.
#[test]
fn the_niches_of_a_map_are_agents_of_their_own() {
    let bench = Bench::new();
    let map = changed(KNOBS, "[method]\npopulation = 10", "[method]\nname = \"map-elites\"\npopulation = 20").replace(
        "[[term]]\nfigure = \"win_rate\"\n",
        "[[niche]]\nmeasure = \"gap_m\"\nfrom = 1\nto = 4\ncount = 3\n[[niche]]\nmeasure = \"run_m\"\nfrom = 0\nto = 40\ncount = 4\n\
         [[term]]\nfigure = \"win_rate\"\n",
    );
    bench.write("brief.toml", map.replace("\"skill\"", "\"distance\"").replace("matches = 800", "matches = 2000"));
    bench.ok("evolve brief.toml --name map");
    let summary = bench.json("ledger show map");
    let niches = summary["map"]["niches"].as_array().expect("niches");
    assert!(niches.len() >= 4 && niches.len() as u64 <= summary["map"]["reached"].as_u64().expect("a count"));
    for niche in niches {
        let place = |axis: usize| niche["niche"][axis].as_u64().expect("a place") + 1;
        let file = format!("niche-{}-{}.toml", place(0), place(1));
        let head = bench.read(&format!("ledger/map/{file}")).lines().next().expect("a line").to_string();
        assert!(
            head.starts_with("# On fresh blocks: gap_m ") && head.contains("run_m") && head.contains("win_rate"),
            "{head}"
        );
    }
    // What was proved is what the agent does: the same opponent, other blocks.
    let niche = &niches[0];
    let file =
        format!("niche-{}-{}.toml", niche["niche"][0].as_u64().unwrap() + 1, niche["niche"][1].as_u64().unwrap() + 1);
    let again = bench.json(&format!("batch piste ledger/map/{file} heron --rules touches=2 -m 400 --seed 77"));
    let (gap, proved) = (&again["entrants"][0]["measures"]["gap_m"], &niche["measured"][0]);
    let number = |of: &serde_json::Value, key: &str| of[key].as_f64().expect("a number");
    let apart = (number(gap, "value") - number(proved, "value")).abs();
    assert!(apart < 2.0 * (number(proved, "high") - number(proved, "low")), "{gap} {proved}");
    for figure in ["niches", "terms", "knobs"] {
        bench.ok(&format!("plot map --figure {figure}"));
        assert!(bench.path(&format!("ledger/map/figures/{figure}.svg")).exists());
    }
    bench.ok("ledger verify map");
}

/// The brief with one of its lines replaced, or lines added.
fn changed(brief: &str, from: &str, to: &str) -> String {
    assert!(brief.contains(from), "{from}");
    brief.replacen(from, to, 1)
}

#[test]
fn briefs_that_make_no_sense_are_refused() {
    let cases = [
        ("a_term_that_does_not_exist", changed(KNOBS, "figure = \"length\"", "figure = \"lenght\"")),
        (
            "no_mutation_and_no_crossover",
            changed(KNOBS, "population = 10", "population = 10\nmutation_rate = 0\ncrossover = \"none\""),
        ),
        ("a_population_of_none", changed(KNOBS, "population = 10", "population = 0")),
        ("a_population_of_one", changed(KNOBS, "population = 10", "population = 1")),
        ("bounds_the_wrong_way", changed(KNOBS, "knob = \"skill\"", "knob = \"skill\"\nfrom = 0.8\nto = 0.2")),
        ("a_fitness_that_is_no_number", changed(NETWORK, "figure = \"water_left_m\"", "figure = \"finish_s\"")),
        (
            "a_tape_for_a_game_of_turns",
            changed(KNOBS, "piste", "sowing")
                .replace("rules = { touches = 2 }", "")
                .replace("heron", "grabber")
                .replace("\"fencer\"", "\"tape\""),
        ),
        (
            "a_network_without_features",
            changed(KNOBS, "piste", "sowing")
                .replace("rules = { touches = 2 }", "")
                .replace("heron", "grabber")
                .replace("\"fencer\"", "\"policy\""),
        ),
        ("a_key_that_says_nothing", changed(KNOBS, "knob = \"skill\"", "knob = \"skill\"\nstep = 0.1")),
        ("no_opponent", changed(KNOBS, "[[opponent]]\nagent = \"heron\"\n", "")),
        ("an_unknown_knob_of_the_method", changed(KNOBS, "population = 10", "populaton = 10")),
        ("a_budget_below_two_generations", changed(KNOBS, "matches = 800", "matches = 60")),
        (
            "rivals_and_no_yardstick",
            changed(RIVALS, "[[yardstick.opponent]]\npool = \"birds.toml\"\n", "")
                .replace("current = 1", "current = 0"),
        ),
        (
            "rivals_on_a_map",
            changed(RIVALS, "[method]", "[method]\nname = \"map-elites\"")
                .replace("populations = 2", "populations = 3"),
        ),
        ("a_pool_of_another_game", changed(NETWORK, "[subject]", "[[opponent]]\npool = \"birds.toml\"\n\n[subject]")),
        (
            "niches_that_make_no_sense",
            changed(
                KNOBS,
                "[method]",
                "[[niche]]\nmeasure = \"gap\"\n[[niche]]\nmeasure = \"gap_m\"\nfrom = 3\nto = 1\n\n[method]\nname = \"map-elites\"",
            ),
        ),
        ("a_layer_of_no_nodes", changed(NETWORK, "layers = [6]", "layers = [0]")),
    ];
    for (name, brief) in cases {
        let bench = Bench::new();
        bench.write("birds.toml", BIRDS);
        bench.write("brief.toml", brief);
        let console = bench.console("evolve brief.toml");
        assert!(console.contains("exit 2"), "{name}: {console}");
        let studies = fs::read_dir(bench.path("ledger")).map_or(0, Iterator::count);
        assert_eq!(studies, 0, "{name}: what was refused leaves nothing behind");
        assert_snapshot!(name, console);
    }
}

/// Of the first candidates nobody may have finished: the yardstick's figure has no value then.
#[test]
fn a_figure_without_a_value_is_kept_and_read_back() {
    let bench = Bench::new();
    let late = changed(NETWORK, "level = \"reach\"", "level = \"windward\"");
    bench.write("brief.toml", changed(&late, "every = 5", "figure = \"finish_s\"\ntarget = 20\nevery = 5"));
    let summary = bench.json("evolve brief.toml --name late");
    let seeds = summary["search"]["seeds"].as_array().expect("repetitions");
    assert!(seeds.iter().all(|seed| seed["seen"].is_null() && seed["stopped_by"] == "budget"), "{summary}");
    assert_eq!(bench.json("ledger show late"), summary);
    // What is made again from the checkpoint is what was there.
    let history = bench.read("ledger/late/history.csv");
    bench.write("ledger/late/history.csv", "");
    bench.ok("resume late");
    assert_eq!(bench.read("ledger/late/history.csv"), history);
}

#[test]
fn check_says_what_is_searched() {
    let bench = Bench::new();
    bench.write("brief.toml", NETWORK);
    assert_snapshot!(timeless(&bench.console("check brief.toml")));
    assert_snapshot!("watching_needs_a_terminal", bench.console("evolve brief.toml --watch"));
    assert_snapshot!(bench.console("evolve brief.toml --print-brief"));
}

/// Two searches for one target, and what plot refuses to set side by side.
#[test]
fn searches_are_set_side_by_side() {
    let bench = Bench::new();
    let brief = |seed: u64, figure: &str, every: u64| {
        let found = changed(KNOBS, "seed = 3", &format!("seed = {seed}"));
        changed(&found, "every = 5", &format!("every = {every}\nfigure = \"{figure}\"\ntarget = 0.5"))
    };
    for (name, text) in
        [("one", brief(3, "win_rate", 1)), ("two", brief(8, "win_rate", 2)), ("other", brief(3, "score", 5))]
    {
        bench.write("brief.toml", text);
        bench.ok(&format!("evolve brief.toml --name {name} --quiet"));
    }
    bench.ok("batch piste heron avocet --matches 20 --name batch --quiet");
    assert_snapshot!(bench.console("plot one two --by evaluations"));
    let plotted = bench.json("plot one two --by evaluations --out two.png");
    assert_eq!(
        (plotted["files"][0].as_str(), plotted["ratios"][0]["b"]["study"].as_str()),
        (Some("two.png"), Some("two"))
    );
    for by in ["matches", "steps", "time"] {
        bench.ok(&format!("plot one two --by {by}"));
        assert!(bench.path(&format!("ledger/one/figures/learning-by-{by}-two.svg")).exists());
    }
    bench.ok("report one two --out page.html");
    let page = bench.read("page.html");
    assert!(page.contains("times as many matches as") && page.contains("learning of all"));
    // Seconds are nobody's business but this machine's: without them all else is drawn.
    fs::remove_file(bench.path("ledger/two/times.csv")).expect("it is there");
    let refused =
        ["one two --by time", "one other", "one batch", "one two --figure measures", "one --by steps --figure scores"];
    let consoles = refused.map(|arguments| bench.console(&format!("plot {arguments}")));
    assert_snapshot!("what_cannot_be_set_side_by_side", consoles.join("\n"));
}
