//! Trainings by the program: tables that never lose what is won, legs, briefs that make no sense. That threads and kills
//! change no policy, `hard` shows.

use std::fs;

use crate::common::{Bench, NETWORK, TABLE, changed};
use insta::assert_snapshot;
use serde_json::Value;

/// From an easy level to two that are drawn, with others held back.
fn course() -> String {
    changed(NETWORK, "level = \"reach\"", "level = \"waters:waters=2\"")
        .replace(
            "[yardstick]",
            "[[leg]]\nlevel = \"reach\"\npass = 0.3\n\n[yardstick]\nheld_back = [\"channel\", \"waters:seed=9\"]",
        )
        .replace("every = 2_000", "every = 4_000")
        .replace("steps = 6_000", "steps = 20_000")
        .replace("layers = [8]", "layers = [32]")
}

/// Q-learning with a network needs options.
fn dqn() -> String {
    changed(NETWORK, "environments = 4\nhorizon = 100", "environments = 2\nfirst = 200")
        .replace("\"ppo\"", "\"dqn\"")
        .replace("seeds = 2", "seeds = 2\nrules = { rudder = \"discrete\" }")
}

/// Against an opponent that makes no mistake half is all that can be had: the opening decides.
#[test]
fn a_table_learned_by_self_play_never_loses_what_is_won() {
    let bench = Bench::new();
    bench.write("brief.toml", TABLE);
    let summary = bench.json("train brief.toml --json --name table");
    let search = &summary["search"];
    assert_eq!(search["method"], "q-learning");
    for seed in search["seeds"].as_array().expect("there are repetitions") {
        assert_eq!(seed["proved"]["value"], 0.5, "{seed}");
        assert!(seed["decisions"].as_u64() >= Some(40_000) && seed["stopped_by"] == "budget");
    }
    // Its choice two moves into a match is one of those that keep what can be had.
    let position = "##../.#../.#../..../south";
    let explained = |agent: &str| bench.json(&format!("explain berths --agent {agent} --position {position} --json"));
    let (table, exact) = (explained("ledger/table/champion.toml"), explained("minimax:depth=64"));
    let value = |explained: &Value, option: &Value| {
        let options = explained["options"].as_array().expect("there are options").iter();
        options.filter(|weighed| weighed["option"] == *option).find_map(|weighed| weighed["value"].as_f64())
    };
    assert_eq!(value(&exact, &table["best"]), value(&exact, &exact["best"]), "{table}");
    assert!(value(&table, &table["best"]).is_some(), "it knows the position: {table}");
    // It plays for every verb, graded too.
    let beaten = bench.json("batch berths ledger/table/champion.toml drifter -m 100 --json");
    assert!(beaten["entrants"][0]["win_rate"]["value"].as_f64() > Some(0.7));
    bench.ok("sweep berths --entrant ledger/table/champion.toml --against careful --vary slip=0..1/3 -m 40");
}

/// In a basin of 2 x 2 the first boat decides, so that the learner has nothing to decide where the other moves first.
#[test]
fn matches_without_a_decision_are_left_out() {
    let bench = Bench::new();
    let brief = changed(
        TABLE,
        "steps = 40_000\nself_play = true",
        "steps = 1_000\nrules = { width = 2, length = 2, opening = 0 }",
    );
    let brief = changed(&brief, "[[yardstick.opponent]]\nagent = \"minimax\"\nknobs = { depth = 64 }\n", "")
        + "\n[[opponent]]\nagent = \"drifter\"\n";
    bench.write("brief.toml", changed(&brief, "every = 8_000", "every = 500"));
    let summary = bench.json("train brief.toml --json --name small");
    assert_eq!(summary["search"]["seeds"][0]["proved"]["value"], 0.5, "who moves first wins");
    let lines: Vec<String> = bench.read("ledger/small/champion-1.csv").lines().map(String::from).collect();
    assert_eq!(lines.len(), 3, "one position with two options: {lines:?}");
}

/// It goes on to the level of the brief once a look at the leg reaches the pass mark, and not before.
#[test]
fn a_leg_is_passed_by_its_mark() {
    let bench = Bench::new();
    bench.write("brief.toml", course());
    let passed = bench.json("train brief.toml --json --name passed");
    bench.write("hard.toml", changed(&course(), "pass = 0.3", "pass = 1"));
    let hard = bench.console("train hard.toml --name hard");
    let history = bench.read("ledger/passed/history.csv");
    let mut lines = csv::Reader::from_reader(history.as_bytes());
    let names = lines.headers().unwrap().clone();
    let column = |row: &csv::StringRecord, name: &str| {
        let place = names.iter().position(|other| other == name).expect("there is such a column");
        row[place].parse::<f64>().ok()
    };
    for row in lines.records().map(Result::unwrap) {
        let looked = column(&row, "leg_looked");
        assert_eq!(column(&row, "leg"), Some(if looked.is_some() { 1.0 } else { 2.0 }));
        assert!(column(&row, "held_back").is_some() && column(&row, "yardstick").is_some());
    }
    let by = |seed: &Value| seed["legs"][0]["passed"].as_f64();
    assert!(passed["search"]["seeds"].as_array().unwrap().iter().any(|seed| by(seed) < Some(20_000.0)), "{history}");
    for seed in passed["search"]["seeds"].as_array().unwrap() {
        let rows: Vec<_> = csv::Reader::from_reader(history.as_bytes()).records().map(Result::unwrap).collect();
        let is_seed = |row: &&csv::StringRecord| Some(&row[0]) == seed["seed"].to_string().as_str().into();
        let first = rows.iter().filter(is_seed).find(|row| column(row, "leg_looked") >= Some(0.3));
        assert_eq!(seed["legs"][0]["passed"].as_f64(), first.and_then(|row| column(row, "decisions")), "{seed}");
        assert!(seed["held_back"]["value"].is_number(), "{seed}");
    }
    assert_snapshot!(hard);
    assert!(bench.ok("plot passed --figure held-back --out held-back.svg").contains("held-back.svg"));
}

#[test]
fn what_a_training_came_to_is_told_with_what_was_proved() {
    let bench = Bench::new();
    bench.write("brief.toml", NETWORK);
    assert_snapshot!(crate::common::timeless(&bench.console("train brief.toml --name net")));
    assert_snapshot!(bench.console("check brief.toml"));
    let history = bench.read("ledger/net/history.csv");
    assert_eq!(
        history.lines().next(),
        Some(
            "seed,round,matches,steps,best,median,low,high,yardstick,yardstick_low,yardstick_high,held_back,held_back_low,\
             held_back_high,term.water_left_m,outcome,decisions,entropy,explained,moved,loss,positions,leg,leg_looked"
        )
    );
    assert_eq!(history.lines().count(), 1 + 2 * 3);
}

#[test]
fn briefs_that_make_no_sense_are_refused() {
    let cases = [
        ("a_term_that_nobody_knows", changed(NETWORK, "water_left_m", "water_left")),
        ("a_reward_that_is_no_number", changed(NETWORK, "weight = -0.1", "weight = nan")),
        ("a_way_to_pay_that_there_is_not", changed(NETWORK, "weight = -0.1", "pays = \"daily\"")),
        ("a_network_of_width_0", changed(NETWORK, "layers = [8]", "layers = [0]")),
        ("an_unknown_method", changed(NETWORK, "\"ppo\"", "\"pop\"")),
        ("a_method_of_evolution", changed(NETWORK, "\"ppo\"", "\"genetic\"")),
        ("an_unknown_knob_of_a_training", changed(NETWORK, "horizon = 100", "horizont = 100")),
        ("options_where_there_are_none", dqn().replace("rules = { rudder = \"discrete\" }", "")),
        (
            "positions_where_there_are_none",
            changed(NETWORK, "\"ppo\"", "\"q-learning\"").replace("environments = 4\nhorizon = 100\n", ""),
        ),
        ("a_network_for_a_game_of_turns", changed(TABLE, "\"q-learning\"", "\"ppo\"")),
        ("an_agent_that_does_not_learn", changed(TABLE, "agent = \"policy\"", "agent = \"harbourmaster\"")),
        (
            "self_play_without_a_yardstick",
            changed(TABLE, "[[yardstick.opponent]]\nagent = \"minimax\"\nknobs = { depth = 64 }\n", ""),
        ),
        ("exact_against_itself", changed(TABLE, "\"q-learning\"", "\"exact\"")),
        (
            "exact_against_two",
            changed(TABLE, "\"q-learning\"", "\"exact\"").replace("self_play = true\n", "").replace(
                "figure = \"score\"",
                "figure = \"win_rate\"\n[[opponent]]\nagent = \"careful\"\n[[opponent]]\nagent = \"drifter\"",
            ),
        ),
        ("a_leg_without_a_pass_mark", course().replace("pass = 0.3\n", "")),
        ("a_pass_mark_that_nobody_reaches", course().replace("pass = 0.3", "pass = 30")),
        ("a_leg_on_a_level_that_is_held_back", course().replace("level = \"reach\"", "level = \"channel\"")),
        ("a_leg_with_other_figures", course().replace("pass = 0.3", "pass = 0.3\nrules = { rudder = \"discrete\" }")),
        ("a_leg_against_others", course().replace("pass = 0.3", "pass = 0.3\n[[leg.opponent]]\nagent = \"tacker\"")),
        ("a_level_held_back_that_is_learned_on", course().replace("\"channel\"", "\"waters:waters=2\"")),
        ("a_look_that_never_comes", changed(NETWORK, "every = 2_000", "every = 9_000")),
        ("a_training_of_an_evolution", changed(NETWORK, "steps = 6_000", "matches = 6_000\nblocks = 2")),
    ];
    for (name, brief) in cases {
        let bench = Bench::new();
        bench.write("brief.toml", brief);
        let console = bench.console("train brief.toml");
        assert!(console.contains("exit 2"), "{name}: {console}");
        let studies = fs::read_dir(bench.path("ledger")).map_or(0, Iterator::count);
        assert_eq!(studies, 0, "{name}: what was refused leaves nothing behind");
        assert_snapshot!(name, console);
    }
}
