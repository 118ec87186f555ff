//! Studies from the command line: the same result whatever the threads, after any kill, on every way to it.

use std::process::Stdio;
use std::time::{Duration, Instant};

use crate::common::{Bench, parts};

const BATCH: &str = "batch piste a=fencer:skill=0.3 b=fencer:skill=0.7 --rules touches=1 --seed 5 --name trial";

#[test]
fn one_thread_and_two_give_equal_output_and_export() {
    let bench = Bench::new();
    let single = bench.ok(&format!("--json --threads 1 --ledger one {BATCH} --matches 300"));
    let two = bench.ok(&format!("--json --threads 2 --ledger two {BATCH} --matches 300"));
    assert_eq!(single, two);
    for format in ["csv", "jsonl", "parquet"] {
        for ledger in ["one", "two"] {
            bench.ok(&format!("--ledger {ledger} ledger export trial --to {format} --out {ledger}.{format}"));
        }
        let bytes = |ledger: &str| std::fs::read(bench.path(&format!("{ledger}.{format}"))).unwrap();
        assert_eq!(bytes("one"), bytes("two"), "{format}");
    }
}

/// Starts a long batch, waits until a part file is there, stops it with `stop`, and gives its exit code.
fn interrupted(bench: &Bench, ledger: &str, matches: u32, stop: impl Fn(u32)) -> Option<i32> {
    let mut child = bench
        .command(&format!("--json --ledger {ledger} {BATCH} --matches {matches}"))
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let begun = Instant::now();
    while parts(&bench.path(ledger), "trial").is_empty() && begun.elapsed() < Duration::from_secs(60) {
        std::thread::yield_now();
        assert!(child.try_wait().unwrap().is_none(), "the batch ended before it could be stopped");
    }
    stop(child.id());
    child.wait().unwrap().code()
}

fn signal(name: &str, process: u32) {
    let sent = std::process::Command::new("kill").args([name, &process.to_string()]).status().unwrap();
    assert!(sent.success());
}

#[test]
#[cfg(unix)]
fn killed_and_resumed_equals_uninterrupted() {
    const MATCHES: u32 = 24_000;
    let bench = Bench::new();
    interrupted(&bench, "killed", MATCHES, |process| signal("-KILL", process));
    let before = bench.console("--ledger killed ledger show trial");
    // How far it got is a matter of luck: nothing that can be shown, or a part.
    let part = before.contains("exit 0") && before.contains("Partial results: ");
    assert!(part || before.contains("exit 1"), "{before}");
    assert!(before.contains("`inkpot --ledger killed resume trial`"), "{before}");
    let resumed = bench.ok("--json --ledger killed resume trial");
    let whole = bench.ok(&format!("--json --ledger whole {BATCH} --matches {MATCHES}"));
    assert_eq!(resumed, whole);
    let export = |ledger: &str| bench.ok(&format!("--ledger {ledger} ledger export trial"));
    assert!(export("killed") == export("whole"), "the rows differ");
    assert!(bench.ok("--ledger killed ledger verify trial").contains("is sound"));
}

#[test]
#[cfg(unix)]
fn an_interrupt_saves_what_is_done_and_says_how_to_go_on() {
    const MATCHES: u32 = 24_000;
    let bench = Bench::new();
    assert_eq!(interrupted(&bench, "ledger", MATCHES, |process| signal("-INT", process)), Some(130));
    assert!(bench.ok("ledger list").contains("interrupted"));
    let summary: serde_json::Value = serde_json::from_str(&bench.ok("--json resume trial")).unwrap();
    assert_eq!(summary["matches"], MATCHES);
}

#[test]
fn a_damaged_part_is_named_and_resume_mends_it() {
    let bench = Bench::new();
    let whole = bench.ok(&format!("--json {BATCH} --matches 200"));
    let rows = bench.ok("ledger export trial");
    let part = parts(&bench.path("ledger"), "trial").remove(0);
    let bytes = std::fs::read(&part).unwrap();
    std::fs::write(&part, &bytes[..bytes.len() - 100]).unwrap();
    let console = bench.console("ledger export trial");
    assert!(
        console.contains("exit 1") && console.contains("is damaged") && console.contains("inkpot resume trial"),
        "{console}"
    );
    assert!(bench.console("ledger verify trial").contains("exit 1"));
    assert_eq!(bench.ok("--json resume trial"), whole);
    assert_eq!(bench.ok("ledger export trial"), rows);
    assert!(bench.ok("ledger verify trial").contains("is sound"));
}

#[test]
fn every_way_to_a_study_gives_the_same_summary() {
    let bench = Bench::new();
    let command = "sweep piste --entrant guest=newcomer --against house=fencer --vary house.skill=0..1/5 --target 0.55 --matches 40 --seed 3";
    let direct = bench.ok(&format!("--json {command} --name trial"));
    let brief = bench.ok(&format!("{command} --print-brief"));
    bench.write("brief.toml", &brief);
    assert_eq!(bench.ok("--json --ledger other run brief.toml --name trial"), direct);
    assert_eq!(bench.ok("run brief.toml --print-brief"), brief, "a resolved brief resolves to itself");
    assert_eq!(bench.read("ledger/trial/resolved.toml"), brief);
    assert_eq!(bench.ok("--json ledger show trial"), direct);
    assert_eq!(bench.read("ledger/trial/summary.json"), direct);
}

#[test]
fn a_stored_match_plays_again_as_it_was() {
    let bench = Bench::new();
    bench.ok(&format!("{BATCH} --matches 20 --quiet"));
    let again: serde_json::Value = serde_json::from_str(&bench.ok("--json match --again trial/13")).unwrap();
    let rows = bench.ok("ledger export trial --to jsonl");
    let stored: Vec<serde_json::Value> = rows
        .lines()
        .map(|line| serde_json::from_str(line).unwrap())
        .filter(|row: &serde_json::Value| row["match"] == 13)
        .collect();
    for (seat, row) in stored.iter().enumerate() {
        let stored_seat = &again["seats"][seat];
        assert_eq!(stored_seat["entrant"], row["entrant"]);
        assert_eq!(stored_seat["score"], row["score"]);
        assert_eq!(stored_seat["measures"]["run_m"], row["run_m"]);
        assert_eq!(again["world_seed"], row["world_seed"]);
    }
}

#[test]
fn a_trace_holds_every_perception_and_choice() {
    let bench = Bench::new();
    let summary: serde_json::Value =
        serde_json::from_str(&bench.ok("--json match piste newcomer heron --seed 7 --trace trace.jsonl")).unwrap();
    let trace = bench.read("trace.jsonl");
    let choices = trace.lines().filter(|line| line.contains("\"event\":\"choice\"")).count() as u64;
    assert_eq!(choices, 2 * summary["ticks"].as_u64().unwrap());
    let first: serde_json::Value = serde_json::from_str(trace.lines().next().unwrap()).unwrap();
    assert!(first["view"]["gap_m"].is_number() && first["action"]["throttle"].is_number(), "{first}");
}

#[test]
fn plot_draws_what_fits_and_the_same_bytes_twice() {
    let bench = Bench::new();
    bench.ok("batch piste heron turnstone dunlin --matches 20 --name birds --quiet");
    let files = bench.ok("plot birds");
    for figure in ["rates", "matrix", "scores", "lengths", "measures"] {
        assert!(files.contains(&format!("figures/{figure}.svg")) && files.contains(&format!("figures/{figure}.png")));
    }
    let svg = bench.read("ledger/birds/figures/matrix.svg");
    bench.ok("plot birds --figure matrix --out again.svg");
    assert_eq!(bench.read("again.svg"), svg);
    assert!(svg.contains("turnstone") && svg.contains("width=\"1280\""));
    bench.ok("plot birds --figure lengths --out lengths.png");
    assert!(std::fs::read(bench.path("lengths.png")).unwrap().starts_with(b"\x89PNG"));
}

#[test]
fn json_of_a_batch_has_the_promised_keys() {
    let bench = Bench::new();
    let summary: serde_json::Value = serde_json::from_str(&bench.ok(&format!("--json {BATCH} --matches 20"))).unwrap();
    for key in
        ["study", "kind", "game", "seed", "matches", "blocks", "ticks", "entrants", "pairings", "first_seat", "notes"]
    {
        assert!(!summary[key].is_null(), "{key}");
    }
    let entrant = &summary["entrants"][0];
    for key in ["name", "matches", "wins", "draws", "losses", "win_rate", "faults", "measures"] {
        assert!(!entrant[key].is_null(), "{key}");
    }
    assert!(entrant["win_rate"]["low"].as_f64() < entrant["win_rate"]["high"].as_f64());
    assert!(entrant["measures"]["reversals_per_s"]["value"].is_number());
    assert_eq!((&summary["matches"], &summary["blocks"]), (&20.into(), &10.into()));
}

#[test]
fn levels_and_their_knobs_are_typed_varied_and_kept() {
    let bench = Bench::new();
    let short = bench.ok("match piste newcomer heron --level pier:strip=8 --seed 3");
    assert!(short.contains("level pier:strip=8"), "{short}");
    // The jetty is a pier of nine metres.
    let last = |text: String| text.lines().skip(1).map(String::from).collect::<Vec<_>>();
    let pier = bench.ok("match piste newcomer heron --level pier:strip=9 --seed 3");
    assert_eq!(last(pier), last(bench.ok("match piste newcomer heron --level jetty --seed 3")));
    let sweep = "--json sweep piste --entrant newcomer --against heron --rules touches=1 --matches 20 --quiet";
    let levels: serde_json::Value =
        serde_json::from_str(&bench.ok(&format!("{sweep} --vary level=pier,jetty --name names"))).unwrap();
    assert_eq!(levels["points"][1]["knobs"]["level"], "jetty");
    let strips: serde_json::Value =
        serde_json::from_str(&bench.ok(&format!("{sweep} --vary level.strip=9..14/2 --name strips"))).unwrap();
    // The same two strips on the same blocks.
    assert_eq!(strips["points"][0]["win_rate"], levels["points"][1]["win_rate"]);
    assert_eq!(strips["points"][1]["win_rate"], levels["points"][0]["win_rate"]);
    for study in ["names", "strips"] {
        assert!(bench.ok(&format!("ledger verify {study}")).contains("is sound"));
        let brief = bench.read(&format!("ledger/{study}/resolved.toml"));
        bench.write("again.toml", brief);
        let again: serde_json::Value = serde_json::from_str(&bench.ok("--json run again.toml --quiet")).unwrap();
        let first: serde_json::Value =
            serde_json::from_str(&bench.read(&format!("ledger/{study}/summary.json"))).unwrap();
        assert_eq!(again["points"], first["points"], "the resolved brief does the same");
    }
}

#[test]
fn a_study_on_a_level_file_needs_the_file_no_more() {
    let bench = Bench::new();
    bench.write("boards/late.txt", "0,0,2,0,0,1/1,0,0,3,0,1/18:22/south");
    let arguments = "batch sowing grabber drifter --level boards/late.txt --rules opening=0 -m 40 --name late --quiet";
    let _ = bench.ok(arguments);
    let output = bench.ok("ledger show late");
    assert!(output.contains("level boards/late.txt"), "{output}");
    std::fs::remove_file(bench.path("boards/late.txt")).unwrap();
    assert!(bench.ok("ledger verify late").contains("is sound"));
    assert!(bench.ok("match --again late/3").contains("level boards/late.txt"));
    assert!(bench.ok("plot late").contains("rates.svg"));
}
