//! Tuning, driven through the program: rungs, proof, sheet, verification, modifiers, fitting, resuming.

use crate::common::{Bench, json, timeless};
use inkpot_ledger::{Phase, State};
use serde_json::Value;

const LADDER: &str = r#"kind = "tune"
game = "piste"
seed = 4
budget = 1200
proof = 2000

[opponent]
agent = "fencer"

[[free]]
knob = "skill"
across = "rising"

[[rung]]
name = "gentle"
stand_in = "newcomer"
targets = [{ figure = "win_rate", value = 0.7, within = 0.08 }]

[[rung]]
name = "fierce"
stand_in = "veteran"
targets = [{ figure = "win_rate", value = 0.45, within = 0.08 }]
"#;

fn sheet(bench: &Bench, study: &str) -> Value {
    json(&bench.read(&format!("ledger/{study}/sheet.json")))
}

#[test]
fn a_ladder_is_tuned_proved_and_told() {
    let bench = Bench::new();
    bench.write("ladder.toml", LADDER);
    insta::assert_snapshot!(bench.console("tune ladder.toml --name ladder"));
    let sheet = sheet(&bench, "ladder");
    let rungs = sheet["rung"].as_array().expect("rungs");
    let skill = |rung: usize| rungs[rung]["opponent"]["skill"].as_f64().expect("a number");
    assert!(skill(0) < skill(1), "a higher rung is never easier");
    assert_eq!(sheet["proof"]["first_block"], 1u64 << 32);
}

#[test]
fn the_sheet_is_one_in_both_formats_and_fits_its_published_schema() {
    let bench = Bench::new();
    bench.write("ladder.toml", LADDER);
    bench.ok("tune ladder.toml --name ladder --quiet");
    let from_json = sheet(&bench, "ladder");
    let from_toml: Value = toml::from_str(&bench.read("ledger/ladder/sheet.toml")).expect("the sheet is TOML");
    assert_eq!(from_json, from_toml);
    let published = include_str!("../../../../docs/schema/difficulty-sheet.json");
    let schema = json(published);
    assert_eq!(schema, inkpot_lab::Sheet::schema(), "docs/schema/difficulty-sheet.json is out of date");
    let errors: Vec<String> = jsonschema::validator_for(&schema)
        .expect("a schema")
        .iter_errors(&from_json)
        .map(|error| error.to_string())
        .collect();
    assert!(errors.is_empty(), "{errors:?}");
}

#[test]
fn a_sheet_holds_tomorrow_and_fails_once_a_rule_has_changed() {
    let bench = Bench::new();
    bench.write("ladder.toml", LADDER);
    bench.ok("tune ladder.toml --name ladder --quiet");
    let sheet = bench.read("ledger/ladder/sheet.toml");
    assert!(sheet.contains("\ntouches = 5\n") && sheet.starts_with("# A difficulty sheet."), "{sheet}");
    let same = bench.run("tune --verify ledger/ladder/sheet.toml");
    let output = String::from_utf8_lossy(&same.stdout).to_string();
    assert_eq!(same.status.code(), Some(0));
    assert!(output.starts_with("Measured again with the sheet's own rules, values and seed."), "{output}");
    assert!(output.contains("Every figure is the sheet's own, to the last digit."), "{output}");
    let ruled = bench.run("tune --verify ledger/ladder/sheet.json --rules touches=25");
    let output = String::from_utf8_lossy(&ruled.stdout).to_string();
    assert_eq!(ruled.status.code(), Some(3), "{output}");
    assert!(output.starts_with("Measured again with changes: touches is 25 instead of 5."), "{output}");
    assert!(output.contains("then, ") && output.trim_end().ends_with("now: lower."), "{output}");
    let edited = sheet.replace("touches = 5\n", "touches = 25\n");
    bench.write("edited.toml", edited);
    assert_eq!(bench.run("tune --verify edited.toml --quiet").status.code(), Some(3));
}

#[test]
fn a_search_that_was_stopped_comes_to_the_same_end_on_any_threads() {
    let bench = Bench::new();
    bench.write("ladder.toml", LADDER);
    let whole = bench.ok("tune ladder.toml --name ladder --json --quiet --threads 1");
    // What a kill after some rounds leaves: a checkpoint of then, and no sheet; the history is for people alone.
    let history = bench.read("ledger/ladder/history.csv");
    let cut: Vec<&str> = history.lines().take_while(|line| !line.starts_with("3,")).collect();
    assert!(cut.len() < history.lines().count());
    let folder = bench.path("ledger/ladder");
    bench.write("ledger/ladder/history.csv", "");
    bench.write("ledger/ladder/checkpoints/search-1.txt", cut.join("\n") + "\n");
    for name in ["sheet.json", "sheet.toml", "summary.json", "plan.json"] {
        std::fs::remove_file(folder.join(name)).expect("the file is there");
    }
    std::fs::remove_dir_all(folder.join("rows")).expect("the rows are there");
    bench.change("ladder", |manifest| {
        (manifest.state, manifest.phase) = (State::Interrupted, Phase::Search);
        (manifest.blocks_done, manifest.matches_done) = (0, 0);
        manifest.files.retain(|name, _| ["brief.toml", "resolved.toml", "search.json"].contains(&name.as_str()));
    });
    assert_eq!(bench.ok("resume ladder --json --quiet --threads 2"), whole);
    assert_eq!(bench.read("ledger/ladder/history.csv"), history);
}

#[test]
fn what_cannot_be_met_is_said_with_what_stands_against_it() {
    let bench = Bench::new();
    bench.write(
        "calm.toml",
        r#"kind = "tune"
game = "piste"
seed = 3
budget = 2400
proof = 2000
[opponent]
agent = "fencer"
[[free]]
knob = "aggression"
from = 0.3
to = 2
[[free]]
knob = "reaction"
from = 8
to = 20
[[rung]]
name = "calm"
stand_in = "regular"
targets = [
  { figure = "win_rate", value = 0.5, within = 0.1 },
  { figure = "length_s", from = 60, to = 90 },
  { figure = "reversals_per_s", side = "opponent", to = 9, soft = true },
]
"#,
    );
    insta::assert_snapshot!(bench.console("tune calm.toml --name calm"));
    let files = bench.ok("plot calm --quiet");
    assert!(files.contains("front.svg") && files.contains("ladder.png"), "{files}");
}

#[test]
fn profiles_inherit_and_percentages_are_taken_of_the_base() {
    let bench = Bench::new();
    let text = LADDER.replace(
        "[[rung]]\nname = \"gentle\"",
        "[[profile]]\nname = \"slow\"\nopponent = { reaction = \"+50 %\", gain = \"-10 %\" }\nrules = { touches = 3 }\n\n[[rung]]\nname = \"gentle\"\nextends = \"slow\"\nopponent = { gain = \"+20 %\" }\nplayer = { reaction_ms = \"-10 %\" }",
    );
    bench.write("ladder.toml", text);
    let brief = bench.ok("tune ladder.toml --print-brief");
    let ladder: toml::Table = brief.parse().expect("the brief is TOML");
    assert_eq!(ladder["rung"][0]["opponent"]["gain"].as_str(), Some("+20 %"));
    bench.run("tune ladder.toml --name ladder --quiet");
    let sheet = sheet(&bench, "ladder");
    let rung = &sheet["rung"][0];
    let at = |side: &str, knob: &str| rung[side][knob].as_f64().expect("a number");
    let skill = at("opponent", "skill");
    let expected = |plain: f64, percent: f64| plain * (1.0 + percent / 100.0);
    assert!((at("opponent", "reaction") - expected(21.0 - 10.0 * skill, 50.0)).abs() < 1e-9);
    assert!((at("opponent", "gain") - expected(3.0 - 1.5 * skill, 20.0)).abs() < 1e-9);
    assert_eq!(at("rules", "touches"), 3.0);
    assert_eq!(rung["player"][0]["knobs"]["reaction_ms"], 279.0); // 310 less 10 %
    assert_eq!(rung["modifiers"]["player"]["reaction_ms"], "-10.0 %");
    // A brief with everything filled in does the same.
    bench.write("whole.toml", brief);
    bench.run("tune whole.toml --name whole --quiet");
    assert_eq!(bench.read("ledger/ladder/history.csv"), bench.read("ledger/whole/history.csv"));
}

#[test]
fn a_modifier_without_effect_is_told_when_matches_are_asked() {
    let bench = Bench::new();
    // A fencer that never feints is not changed by a percentage of its feints.
    let text = LADDER.replace(
        "[[rung]]\nname = \"gentle\"",
        "[[rung]]\nname = \"gentle\"\nopponent = { feint_rate = 0, reaction = \"+60 %\" }\nplayer = { feint_rate = \"-20 %\" }",
    );
    bench.write("ladder.toml", text);
    insta::assert_snapshot!(timeless(&bench.console("check ladder.toml --effects")));
}

#[test]
fn several_players_count_by_their_weight() {
    let bench = Bench::new();
    let text = r#"kind = "tune"
game = "sowing"
seed = 2
budget = 800
proof = 1000
[opponent]
agent = "minimax"
knobs = { depth = 2 }
[[free]]
knob = "slip"
to = 0.6
from = 0
[[rung]]
name = "table"
targets = [{ figure = "win_rate", value = 0.4, within = 0.1 }]
[[rung.mix]]
agent = "hasty"
weight = 1
[[rung.mix]]
agent = "careful"
weight = 3
"#;
    bench.write("mix.toml", text);
    let summary = json(&bench.ok("tune mix.toml --name mix --json --quiet"));
    let rate = |pairing: usize| summary["pairings"][pairing]["win_rate"]["value"].as_f64().expect("a rate");
    let proved = summary["tune"]["rungs"][0]["target"][0]["measured"]["value"].as_f64().expect("a figure");
    assert!((proved - (rate(0) + 3.0 * rate(1)) / 4.0).abs() < 1e-12);
}

#[test]
fn a_series_tells_how_differently_people_fare() {
    let bench = Bench::new();
    let line =
        "batch piste guest=newcomer:spread=0.5,learning=0.2 house=fencer:skill=0.6 --matches 400 --series 8 --seed 3";
    insta::assert_snapshot!(bench.console(&format!("{line} --name crowd")));
    let two = bench.ok(&format!("{line} --name crowd-2 --json --threads 2"));
    let single = bench.ok(&format!("{line} --name crowd-3 --json --threads 1"));
    assert_eq!(two.replace("crowd-2", ""), single.replace("crowd-3", ""));
    assert_eq!(json(&two)["people"].as_array().map(Vec::len), Some(2));
    // A row a seat, however many matches a block has.
    let exported = bench.run("ledger export crowd --to csv --out crowd.csv");
    let said = String::from_utf8_lossy(&exported.stderr).into_owned();
    assert!(said.contains("800 rows in crowd.csv"), "{said}");
    assert_eq!(bench.read("crowd.csv").lines().count(), 801);
}

#[test]
fn what_would_fail_only_after_the_search_is_said_before_it() {
    let bench = Bench::new();
    bench.write(
        "name.toml",
        LADDER.replace("\"gentle\"", "\"gentle, slow\"").replace("seed = 4", "seed = 9223372036854775808"),
    );
    insta::assert_snapshot!(bench.console("tune name.toml"));
    let two = "[[free]]\nknob = \"depth\"\nfrom = 1\nto = 4\n[[free]]\nknob = \"nodes\"\nfrom = 100\nto = 1000\n";
    let text = LADDER.replace("piste", "sowing").replace("fencer", "minimax").replace("newcomer", "hasty");
    let text = text.replace("veteran", "careful").replace("[[free]]\nknob = \"skill\"\nacross = \"rising\"\n", two);
    bench.write("two.toml", text);
    insta::assert_snapshot!(bench.console("tune two.toml"));
    // Two knobs and series of twenty: the first look alone is more than the budget.
    let text = LADDER.replace("budget = 1200", "series = 20\nbudget = 200");
    bench.write("small.toml", text.replacen("[[rung]]", "[[free]]\nknob = \"gain\"\n[[rung]]", 1));
    insta::assert_snapshot!(bench.console("tune small.toml"));
}

#[test]
fn everything_wrong_with_a_tuning_is_said_at_once() {
    let bench = Bench::new();
    bench.write(
        "wrong.toml",
        r#"kind = "tune"
game = "piste"
languages = ["en", "de"]
proof = 3
[opponent]
agent = "fencer"
[[profile]]
name = "soft"
extends = "nobody"
[[free]]
knob = "skil"
[[free]]
knob = "gain"
from = 4
to = 2
[[free]]
of = "boss"
knob = "gain"
[[rung]]
name = "gentle"
title = { en = "Gentle" }
text = { en = "Easy.", de = "Leicht." }
opponent = { reaction = "+900 %", raction = "+5 %", gain = "+5 %" }
stand_in = "newcomr"
targets = [
  { figure = "win_rat", value = 0.5, within = 0.1 },
  { figure = "win_rate", value = 70, within = 3 },
  { figure = "length_s", value = 40 },
]
[[rung]]
name = "gentle"
stand_in = "newcomer"
"#,
    );
    insta::assert_snapshot!(bench.console("check wrong.toml"));
    bench.write("none.toml", "kind = \"tune\"\ngame = \"piste\"\n[opponent]\nagent = \"fencer\"\n");
    insta::assert_snapshot!(bench.console("tune none.toml"));
    bench.write("not.toml", "format = 9\n");
    insta::assert_snapshot!(bench.console("tune --verify not.toml"));
}
