//! Games in other processes that play whole matches by themselves: shell scripts here, and the example in Python.

use std::process::Command;

use crate::common::Bench;

/// A game of a shell script: who has the larger remainder of the seed wins.
const REMAINDER: &str = r#"
while read -r line; do
    world=${line#*\"seed\":}; world=${world%%,*}
    first=${line#*\"seats\":}; first=${first#*\"seed\":}; first=${first%%,*}
    power=${line#*\"power\":}; power=${power%%\}*}; power=${power%%,*}
    a=$(( (first % 7) + power )); b=$(( world % 9 ))
    echo "{\"scores\": [$a, $b], \"length\": 4, \"measures\": {\"luck\": [$((first % 3)), 1]}, \"changes\": [{\"at\": 1, \"scores\": [0, $b], \"by\": \"luck\"}]}"
done
"#;

const SHEET: &str = r#"name = "remainder"
help = "who has the larger remainder wins"
command = ["sh", "remainder.sh"]
steps = false
seats = 2

[[agent]]
name = "roller"
help = "rolls"
[[agent.knob]]
name = "power"
from = 0
to = 5
default = 0
whole = true
[[agent.preset]]
name = "ruff"
help = "a strong one"
knobs = { power = 3 }

[[measure]]
name = "luck"
label = "Luck"
"#;

fn bench(script: &str, sheet: &str) -> Bench {
    let bench = Bench::new();
    bench.write("game/remainder.sh", script);
    bench.write("game/remainder.toml", sheet);
    bench
}

#[test]
fn a_game_that_plays_by_itself_has_every_study() {
    let bench = bench(REMAINDER, SHEET);
    bench.ok("--threads 1 batch game/remainder.toml roller ruff -m 60 --seed 5 --name one");
    bench.ok("--threads 2 batch game/remainder.toml roller ruff -m 60 --seed 5 --name two");
    let rows = |study: &str| bench.ok(&format!("ledger export {study} --to csv"));
    assert_eq!(rows("one"), rows("two"));
    bench.write("game/fresh.toml", SHEET.replace("seats = 2", "seats = 2\nper_match = true"));
    bench.ok("batch game/fresh.toml roller ruff -m 60 --seed 5 --name fresh");
    assert_eq!(rows("one"), rows("fresh"), "a process of its own for each match");
    assert!(bench.ok("ledger verify one").contains("is sound"));
    bench.ok("sweep game/remainder.toml --entrant roller --against ruff --vary power=0..5/6 -m 40 --name knob");
    bench.ok("tournament game/remainder.toml roller ruff strong=roller:power=5 -m 40 --name field");
    bench.ok("compare game/remainder.toml ruff roller -m 40 --name which");
    for study in ["one", "knob", "field", "which"] {
        bench.ok(&format!("plot {study}"));
        bench.ok(&format!("ledger show {study}"));
    }
    bench.ok("report one field");
    assert!(bench.ok("match game/remainder.toml roller ruff --seed 2").contains("luck"));
    let points = bench.ok("explain --again one/0");
    assert!(points.contains("Turning points") && !points.contains("--turn"), "{points}");
    assert!(bench.console("explain game/remainder.toml --agent roller").contains("its agents decide unseen"));
    assert!(bench.ok("games game/remainder.toml").contains("who has the larger remainder wins"));
    assert!(bench.ok("agents game/remainder.toml").contains("ruff"));
}

#[test]
fn a_brief_finds_its_game_beside_it_and_a_sheet_is_measured_again() {
    let bench = bench(REMAINDER, SHEET);
    let brief = r#"kind = "tune"
game = "remainder.toml"
seed = 5
budget = 400
proof = 200
[opponent]
agent = "roller"
[[free]]
of = "opponent"
knob = "power"
from = 0
to = 5
[[rung]]
name = "even"
stand_in = "ruff"
targets = [{ figure = "win_rate", value = 0.5, within = 0.4 }]
"#;
    bench.write("game/tune.toml", brief);
    bench.ok("run game/tune.toml --name ladder");
    bench.ok("plot ladder");
    assert!(bench.console("tune --verify ledger/ladder/sheet.toml").contains("there is no game `remainder`"));
    bench.ok("tune --verify ledger/ladder/sheet.toml --game game/remainder.toml --name again");
    bench.ok("ledger show again");
    // The plan keeps the text of the file: another one under the same path changes no stored study.
    bench.write("game/remainder.toml", SHEET.replace("default = 0", "default = 1"));
    assert!(bench.ok("ledger verify ladder").contains("is sound"));
    bench.write(
        "game/brief.toml",
        "kind = \"batch\"\ngame = \"remainder.toml\"\n[[entrant]]\nagent = \"roller\"\n[[entrant]]\nagent = \"ruff\"\n",
    );
    bench.ok("run game/brief.toml --name from-brief");
    let resolved = bench.read("ledger/from-brief/resolved.toml");
    bench.write("elsewhere/again.toml", &resolved);
    bench.ok("run elsewhere/again.toml --name from-resolved");
    let rows = |study: &str| bench.ok(&format!("ledger export {study} --to csv"));
    assert_eq!(rows("from-brief"), rows("from-resolved"));
}

#[test]
fn a_wrong_game_file_is_refused_with_what_to_do() {
    let bench = bench(REMAINDER, SHEET);
    let mut console = Vec::new();
    for (name, from, to) in [
        ("unknown-key", "steps = false", "steps = false\nstep = 1"),
        ("steps", "steps = false", "steps = true"),
        ("no-command", "command = [\"sh\", \"remainder.sh\"]", "command = []"),
        ("no-seat", "seats = 2", "seats = [3, 2]"),
        ("house", "name = \"remainder\"", "name = \"piste\""),
        ("knob", "default = 0", "default = 9"),
        ("preset", "power = 3", "force = 3"),
        ("turns", "seats = 2", "seats = 2\nticks_per_second = 10"),
    ] {
        let file = format!("{name}.toml");
        assert!(SHEET.contains(from), "{from}");
        bench.write(&file, SHEET.replacen(from, to, 1));
        console.push(bench.console(&format!("batch {file} roller ruff -m 20")));
    }
    console.push(bench.console("batch missing.toml roller ruff -m 20"));
    insta::assert_snapshot!("wrong_game_files", console.join("\n\n"));
}

/// A script for each way to give no proper answer, with a part of the incident.
const HOSTILE: [(&str, &str); 12] = [
    ("exit 3", "ended without an answer (exit status: 3)"),
    ("echo oh no >&2; exit 1", "its last words: oh no"),
    ("sleep 600", "gave no answer within 1.5 s"),
    ("while read -r line; do echo nonsense; done", "it is no answer"),
    ("while read -r line; do echo; done", "it is no answer"),
    ("while read -r line; do printf '\\377\\n'; done", "not text in UTF-8"),
    ("while read -r line; do echo '{\"scores\": [1, 2]}'; done", "missing field `length`"),
    ("while read -r line; do echo '{\"scores\": [NaN, 2], \"length\": 1}'; done", "it is no answer"),
    (
        "while read -r line; do echo '{\"scores\": [1, 2], \"length\": 1, \"places\": [2, 2], \"changes\": []}'; done",
        "first place",
    ),
    ("yes | tr -d '\\n'", "is longer than 4 KiB"),
    ("trap '' TERM INT; sleep 600 & sleep 600", "gave no answer within 1.5 s"),
    ("exec 1>&-; sleep 600", "without an answer"),
];

/// The command lines of all processes.
#[cfg(target_os = "linux")]
fn running() -> String {
    let processes = std::fs::read_dir("/proc").expect("processes are listed").flatten();
    let lines = processes.filter_map(|process| std::fs::read(process.path().join("cmdline")).ok());
    lines.map(|line| String::from_utf8_lossy(&line).replace('\0', " ") + "\n").collect()
}

#[cfg(target_os = "linux")]
#[test]
fn a_game_without_a_proper_answer_makes_void_matches_and_leaves_nothing_running() {
    for (place, (script, part)) in HOSTILE.into_iter().enumerate() {
        let mark = format!("remainder-{}-{place}.sh", std::process::id());
        let limits = "seats = 2\n[limits]\nmatch_s = 1.5\nanswer_kb = 4\n";
        let sheet = SHEET.replace("seats = 2\n", "").replace("remainder.sh", &mark);
        let (head, rest) = sheet.split_once("\n[[agent]]").expect("a sheet has agents");
        let bench = bench(REMAINDER, &format!("{head}\n{limits}\n[[agent]]{rest}"));
        // A sleep that nobody else has.
        let nap = format!("sleep 6{}{place}", std::process::id());
        bench.write(&format!("game/{mark}"), script.replace("sleep 600", &nap));
        let _ = bench.run("batch game/remainder.toml roller ruff -m 4 --seed 5 --name bad");
        let incidents = bench.ok("ledger export bad --to csv");
        assert!(incidents.contains(part), "{script}: {incidents}");
        assert_eq!(incidents.lines().filter(|line| line.contains("void")).count(), 8, "{script}: {incidents}");
        let running = running();
        assert!(!running.contains(&mark) && !running.contains(&nap), "{script}: something is left running");
    }
}

#[test]
fn a_game_that_tells_only_its_end_has_no_measures_of_a_course() {
    let script = r#"while read -r line; do echo '{"scores": [1, 2], "length": 4, "measures": {"luck": [1, 2]}}'; done"#;
    let bench = bench(script, SHEET);
    let text = bench.console("batch game/remainder.toml roller ruff -m 20 --seed 5");
    assert!(text.contains("`changes` is missing"), "{text}");
    bench.write("game/remainder.toml", SHEET.replace("seats = 2", "seats = 2\nchanges = false"));
    let text = bench.ok("batch game/remainder.toml roller ruff -m 40 --seed 5");
    for measure in ["Closeness", "First score", "Suspense", "Longest lull"] {
        assert!(!text.contains(measure), "{text}");
    }
    assert!(text.contains("Luck"), "{text}");
}

#[test]
fn a_second_line_for_a_request_is_noticed() {
    let script = r#"while read -r line; do
        echo '{"scores": [1, 2], "length": 4, "changes": []}'; echo '{"scores": [9, 0], "length": 4, "changes": []}'
    done"#;
    let bench = bench(script, SHEET);
    bench.ok("--threads 1 batch game/remainder.toml roller ruff -m 20 --seed 5 --name twice");
    let rows = bench.ok("ledger export twice --to csv");
    assert!(rows.contains("wrote more than one line for a request"), "{rows}");
}

#[test]
fn check_exercises_a_game_file() {
    let bench = bench(REMAINDER, SHEET);
    let text = bench.ok("check game/remainder.toml");
    assert!(text.contains("`remainder` has 1 agent, 0 rules knobs, 1 level."), "{text}");
    assert!(text.contains("The same seeds gave the same matches twice."), "{text}");
    let checked = bench.json("check game/remainder.toml");
    assert_eq!(checked["agents"], serde_json::json!(["roller", "ruff"]));
    assert_eq!(checked["repeats"], true);
    // Processes differ in their number, and so do the scores.
    let forgetful = REMAINDER.replace("(first % 7)", "$$");
    bench.write("game/remainder.sh", forgetful);
    bench.write("game/remainder.toml", SHEET.replace("seats = 2", "seats = 2\nper_match = true"));
    let text = bench.ok("check game/remainder.toml");
    assert!(text.contains("A match of `roller` came out differently the second time"), "{text}");
    bench.write("game/remainder.sh", "echo out of order >&2; exit 1");
    let text = bench.console("check game/remainder.toml");
    assert!(text.contains("exit 1\nerror: A match of `roller` is void: ") && text.contains("out of order"), "{text}");
}

#[test]
fn new_starts_a_game_that_plays() {
    let bench = Bench::new();
    let text = bench.ok("new hoist --game command");
    assert!(text.contains("inkpot check hoist.toml"), "{text}");
    assert!(bench.ok("games hoist/hoist.toml").contains("two cranes unload a barge"));
    if Command::new("python3").arg("--version").output().is_err() {
        return;
    }
    assert!(bench.ok("check hoist/hoist.toml").contains("The same seeds gave the same matches twice."));
    let text = bench.ok("batch hoist/hoist.toml gannet eider -m 40 --seed 3");
    assert!(text.contains("gannet beats eider"), "{text}");
}
