//! Fits of stand-ins to logs, by the program.

use std::fs;
use std::sync::LazyLock;

use crate::common::{Bench, json, parts, timeless};
use inkpot_ledger::Phase;

const PEOPLE: &str = include_str!("../../briefs/people.toml");

/// The shipped log with one free knob: quick.
fn one_knob(bench: &Bench) {
    let cut = PEOPLE.find("[[free]]\nknob = \"aim_noise\"").expect("the brief frees three knobs");
    let opponent = PEOPLE.find("[[opponent]]").expect("the brief has an opponent");
    bench.write(
        "one.toml",
        format!("{}proof = 400\n{}{}", &PEOPLE[..head()], &PEOPLE[head()..cut], &PEOPLE[opponent..]),
    );
    bench.write("people.csv", include_str!("../../briefs/people.csv"));
}

/// Where the keys of the brief end and its tables begin.
fn head() -> usize {
    PEOPLE.find("[standin]").expect("the brief has a stand-in")
}

/// A study of it, made once for all tests, and what was printed.
static MADE: LazyLock<(Bench, String)> = LazyLock::new(|| {
    let bench = Bench::kept("fitting");
    one_knob(&bench);
    let console = bench.console("run one.toml --name one");
    (bench, console)
});

/// A bench of its own with that study.
fn with_study() -> Bench {
    let bench = Bench::new();
    one_knob(&bench);
    for folder in ["ledger/one", "ledger/one/rows", "ledger/one/checkpoints"] {
        for entry in fs::read_dir(MADE.0.path(folder)).expect("the study is there").filter_map(Result::ok) {
            if entry.path().is_file() {
                let bytes = fs::read(entry.path()).expect("the file can be read");
                bench.write(&format!("{folder}/{}", entry.file_name().to_string_lossy()), bytes);
            }
        }
    }
    bench
}

#[test]
fn a_log_gives_back_the_knobs_that_it_was_made_from() {
    let bench = Bench::new();
    bench.write("people.toml", PEOPLE);
    bench.write("people.csv", include_str!("../../briefs/people.csv"));
    let summary = json(&bench.ok("tune people.toml --fit-standin people.csv --out fitted.toml --json --quiet"));
    let knobs = summary["fitted"]["knobs"].as_array().expect("knobs");
    // The log was made by these (docs/tune.md).
    for (knob, truth) in knobs.iter().zip([340.0, 0.3, 1.1]) {
        let (low, high) = (knob["low"].as_f64().unwrap(), knob["high"].as_f64().unwrap());
        assert!((low..=high).contains(&truth), "{knob} does not hold {truth}");
    }
    let fitted = bench.ok("batch piste fitted.toml house=fencer:skill=0.5 --matches 20 --quiet");
    assert!(fitted.contains("fitted"), "the file is an agent file");
}

#[test]
fn a_fit_is_a_study_like_any_other() {
    let bench = with_study();
    insta::assert_snapshot!(timeless(&bench.console("check one.toml")));
    insta::assert_snapshot!(MADE.1);
    assert!(bench.ok("ledger list").contains("one     fit    piste       400   complete"));
    bench.ok("ledger verify one");
    bench.ok("plot one");
    bench.ok("report one");
    assert!(bench.read("ledger/one/report.html").contains("play like a regular"));
    // What a study keeps makes it again.
    let again = json(&bench.ok("run ledger/one/resolved.toml --name two --threads 1 --json --quiet"));
    let whole = json(&bench.read("ledger/one/summary.json"));
    assert_eq!((&again["fitted"], &again["entrants"]), (&whole["fitted"], &whole["entrants"]));
}

#[test]
fn a_fit_that_is_stopped_after_its_search_goes_on_to_the_same_proof() {
    let bench = with_study();
    let whole = bench.ok("resume one --json --quiet");
    for part in parts(&bench.path("ledger"), "one") {
        fs::remove_file(part).expect("a part file is there");
    }
    fs::remove_file(bench.path("ledger/one/summary.json")).expect("the summary is there");
    assert_eq!(bench.ok("resume one --json --quiet"), whole);
}

#[test]
fn what_a_search_has_not_found_yet_is_not_told() {
    let bench = with_study();
    bench.change("one", |manifest| manifest.phase = Phase::Search);
    for verb in ["plot one", "report one", "ledger show one", "ledger export one --to csv --out one.csv"] {
        let console = bench.console(verb);
        assert!(console.contains("the search of `one` has not finished"), "{console}");
        assert!(console.contains("`inkpot resume one` continues it"), "{console}");
    }
}

#[test]
fn what_is_wrong_with_a_fit_is_said_with_its_place() {
    let bench = Bench::new();
    bench.write("people.toml", PEOPLE);
    bench.write("log.csv", "player,won,lunges\na,1,2\nb,x,3\n");
    insta::assert_snapshot!(bench.console("tune people.toml --fit-standin log.csv"));
    bench.write("few.csv", "player,won,lunges,hits\na,1,2,1\nb,0,3,1\n");
    insta::assert_snapshot!(bench.console("tune people.toml --fit-standin few.csv"));
    bench.write("nobody.csv", "won,lunges\n1,2\n");
    insta::assert_snapshot!(bench.console("tune people.toml --fit-standin nobody.csv"));
    insta::assert_snapshot!(bench.console("run people.toml"));
    bench.write("none.toml", PEOPLE.replace("log = \"people.csv\"\n", ""));
    insta::assert_snapshot!(bench.console("run none.toml"));
    bench.write("people.csv", include_str!("../../briefs/people.csv"));
    let wrong = PEOPLE.replace("agent = \"regular\"", "agent = \"regularr\"").replace("skill = 0.5", "skill = 5");
    bench.write("wrong.toml", wrong.replace("seed = 5", "seed = 5\nproof = 3"));
    insta::assert_snapshot!(bench.console("check wrong.toml"));
    bench.write("far.toml", PEOPLE.replace("to = 500", "to = 5000").replace("\"aggression\"", "\"agression\""));
    insta::assert_snapshot!(bench.console("check far.toml"));
    let two = format!("{PEOPLE}[[opponent]]\nname = \"other\"\nagent = \"fencer\"\n");
    bench.write("two.toml", two.clone());
    insta::assert_snapshot!(bench.console("check two.toml"));
    bench.write("met.csv", "player,opponent,won,lunges\na,house,1,2\nb,third,0,3\n");
    bench.write("two.toml", two.replace("people.csv", "met.csv"));
    insta::assert_snapshot!(bench.console("check two.toml"));
    insta::assert_snapshot!(bench.console("tune people.toml"));
}
