//! Agents that think, from the command line: what they weigh, what they cost, how strong they are.

use crate::common::Bench;
use insta::assert_snapshot;
use serde_json::Value;

#[test]
fn explain_minimax() {
    assert_snapshot!(Bench::new().console("explain sowing --agent minimax:depth=4,ties=first --layers 2"));
}

#[test]
fn explain_an_exact_solution() {
    assert_snapshot!(Bench::new().console("explain sowing --agent minimax:depth=200 --rules pits=3,seeds=2"));
}

#[test]
fn explain_a_search_out_of_budget() {
    assert_snapshot!(
        Bench::new().console("explain sowing --agent minimax:nodes=700 --position 0,0,3,1,0,2/4,0,1,0,2,1/9:9/north")
    );
}

#[test]
fn explain_tree_search() {
    assert_snapshot!(Bench::new().console("explain sowing --agent treesearch:iterations=500 --seed 3"));
}

#[test]
fn explain_a_position_that_is_over() {
    assert_snapshot!(
        Bench::new().console("explain sowing --agent minimax --position 0,0,0/1,0,2/3:4/north --rules pits=3")
    );
}

#[test]
fn explain_an_agent_that_says_nothing() {
    assert_snapshot!(Bench::new().console("explain piste --agent heron"));
}

#[test]
fn explain_as_json_has_its_keys_and_the_position_reads_back() {
    let bench = Bench::new();
    let explained = bench.json("explain sowing --agent treesearch:iterations=200 --layers 2");
    for key in ["game", "agent", "position", "options", "best", "spent"] {
        assert!(!explained[key].is_null(), "{key}");
    }
    for key in ["option", "value", "visits", "line"] {
        assert!(!explained["options"][0][key].is_null(), "{key}");
    }
    let position = explained["position"].as_str().unwrap();
    let again =
        bench.json(&format!("explain sowing --agent treesearch:iterations=200 --layers 2 --position {position}"));
    assert_eq!(explained, again);
}

#[test]
fn explain_draws_the_values_by_option() {
    let bench = Bench::new();
    bench.ok("explain sowing --agent minimax --figure values.svg");
    let drawn = bench.read("values.svg");
    assert!(drawn.contains("<svg") && drawn.contains("Expected play"));
    assert_snapshot!(bench.console("explain piste --agent heron --figure values.svg"));
}

#[test]
fn counts_of_a_small_board() {
    assert_snapshot!(Bench::new().console("games sowing --count 4 --beyond 2 --rules pits=3,seeds=2"));
}

#[test]
fn agents_that_search_list_their_budgets() {
    assert_snapshot!(Bench::new().console("agents sowing plover"));
}

#[test]
fn a_trace_carries_what_was_weighed_at_every_decision() {
    let bench = Bench::new();
    bench.ok("match sowing grabber minimax:depth=2 --seed 4 --trace trace.jsonl");
    let lines: Vec<Value> = bench.read("trace.jsonl").lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let choices: Vec<&Value> = lines.iter().filter(|line| line["event"] == "choice").collect();
    assert!(choices.len() > 10);
    for choice in choices {
        let options = choice["thoughts"]["options"].as_array().unwrap();
        assert!(options.iter().any(|option| option["option"] == choice["action"]), "{choice}");
        assert!(
            choice["view"].as_str().unwrap().ends_with("south") || choice["view"].as_str().unwrap().ends_with("north")
        );
    }
}

#[test]
fn decision_times_stand_beside_the_win_rate_and_apart_from_the_summary() {
    let bench = Bench::new();
    let output = bench.ok("batch sowing grabber plover -m 20 --frame-ms 0.0001 --name slow");
    for word in ["States advanced", "95 % within", "99 % within", "over the frame of 0.10 µs"] {
        assert!(output.contains(word), "{word}: {output}");
    }
    assert!(!bench.read("ledger/slow/summary.json").contains("_us"));
    let manifest: Value = serde_json::from_str(&bench.read("ledger/slow/manifest.json")).unwrap();
    assert!(manifest["decision_times"][1]["p99_us"].as_f64().unwrap() > 0.0);
    let fast = bench.ok("batch sowing grabber plover -m 20 --frame-ms 60000");
    assert!(fast.contains("99 of 100 decisions stay within the frame of 60.0 s (of quick agents"), "{fast}");
    bench.ok("plot slow --figure cost --out cost.png");
    assert!(bench.ok("ledger show slow").contains("99 % within"));
}

#[test]
fn agents_by_the_clock_are_named_as_not_reproducible() {
    let bench = Bench::new();
    let summary = bench.json("batch sowing drifter minimax:millis=1 -m 4 --name timed");
    assert!(summary["notes"].to_string().contains("thinks by the clock"), "{}", summary["notes"]);
    let verified = bench.ok("ledger verify timed");
    assert!(verified.contains("4 matches of the sample cannot be played again"), "{verified}");
    let again = bench.console("match --again timed/1");
    assert!(
        again.contains("note: clock: an agent of this match thinks by the clock and may play differently now"),
        "{again}"
    );
}

#[test]
fn same_study_on_one_and_two_threads_and_searches_included() {
    let bench = Bench::new();
    let study =
        "batch sowing m=minimax:nodes=300,slip=0.1 t=treesearch:iterations=40,temper=0.1 h=horizon -m 24 --seed 5";
    let single = bench.ok(&format!("--ledger one --json --threads 1 {study}"));
    let two = bench.ok(&format!("--ledger two --json --threads 2 {study}"));
    assert_eq!(single, two);
}

#[test]
fn strength_rises_from_grade_to_grade() {
    let bench = Bench::new();
    let clear = |weak: &str, strong: &str, matches: u32| {
        let summary = bench.json(&format!("batch sowing weak={weak} strong={strong} -m {matches} --seed 3"));
        let low = summary["entrants"][1]["win_rate"]["low"].as_f64().unwrap();
        assert!(low > 0.5, "{strong} over {weak}: {}", summary["entrants"][1]["win_rate"]);
    };
    clear("drifter", "grabber", 100);
    clear("grabber", "sanderling", 1600);
    clear("sanderling", "plover", 200);
    clear("plover", "curlew", 200);
}

#[test]
fn exact_play_never_does_worse_than_its_proven_value() {
    let bench = Bench::new();
    let rules = "--rules pits=3,seeds=3,opening=0";
    let exact = bench.json("explain sowing --agent minimax:depth=200 --rules pits=3,seeds=3");
    assert_eq!(exact["spent"]["exact"], true);
    let value = exact["options"][0]["value"].as_f64().unwrap();
    for opponent in ["drifter", "grabber", "minimax:depth=3"] {
        bench.ok(&format!(
            "batch sowing exact=minimax:depth=200 other={opponent} {rules} -m 20 --name exact-{}",
            &opponent[..4]
        ));
        let rows = bench.ok(&format!("ledger export exact-{} --to jsonl", &opponent[..4]));
        let rows: Vec<Value> = rows.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
        for seats in rows.chunks(2) {
            let margin = seats[0]["score"].as_f64().unwrap() - seats[1]["score"].as_f64().unwrap();
            let first_is_exact = seats[0]["entrant"] == "exact" || seats[0]["entrant"] == 0;
            let (exact_margin, proven) = if first_is_exact { (margin, value) } else { (-margin, -value) };
            assert!(exact_margin >= proven, "{opponent}: {exact_margin} below {proven}");
        }
    }
}

#[test]
fn a_knob_that_does_nothing_beside_another_is_refused() {
    let bench = Bench::new();
    assert_snapshot!("two_budgets", bench.console("batch sowing minimax:depth=2,nodes=100 grabber"));
    assert_snapshot!(
        "a_position_of_other_rules",
        bench.console("explain sowing --agent grabber --position 1,1/1,1/0:0/south")
    );
    assert_snapshot!("a_position_that_is_none", bench.console("explain sowing --agent grabber --position start"));
    assert_snapshot!(
        "a_position_too_full",
        bench.console("explain sowing --agent grabber --position 200,200/0,1/0:0/south --rules pits=2")
    );
    assert_snapshot!("positions_of_piste", bench.console("explain piste --agent horizon --position here"));
    assert_snapshot!("a_seat_that_does_not_decide", bench.console("explain sowing --agent grabber --seat 1"));
    assert_snapshot!("piste_cannot_be_counted", bench.console("games piste --count 3"));
    assert_snapshot!("temper_of_an_agent_without_values", bench.console("batch piste fencer:temper=1 heron"));
    assert_snapshot!("a_frame_of_no_time", bench.console("batch sowing drifter grabber --frame-ms 0"));
    assert_snapshot!("explain_without_an_agent", bench.console("explain sowing"));
    assert_snapshot!("a_misspelt_agent_explained", bench.console("explain sowing --agent minmax"));
}

#[test]
fn a_softened_planner_draws_only_what_is_legal() {
    let summary = Bench::new().json("batch piste soft=horizon:temper=0.5,rollouts=8 heron -m 4 --seed 2");
    assert_eq!(summary["entrants"][0]["faults"], 0, "{}", summary["notes"]);
    let explained = Bench::new().json("explain piste --agent horizon:rollouts=12");
    let options = explained["options"].as_array().unwrap();
    assert!(options.iter().any(|option| option["option"] == explained["best"]), "{explained}");
}

#[test]
fn a_label_is_no_part_of_what_is_explained() {
    let explained = Bench::new().json("explain sowing --agent grabber=grabber:extra=3");
    assert_eq!(explained["agent"], "grabber:extra=3");
}

#[test]
fn every_decision_of_a_stored_match_can_be_asked_about_as_it_was_made() {
    let bench = Bench::new();
    let agents = "tree=treesearch:iterations=120 deep=minimax:depth=3,slip=0.2";
    bench.ok(&format!("batch sowing {agents} --matches 4 --rules pits=4 --name trial --quiet"));
    let replayed = bench.json("match --again trial/3");
    let moves = replayed["moves"].as_array().expect("sowing writes its positions");
    let mut differ = 0;
    for option in moves {
        let explained = bench.json(&format!("explain --again trial/3 --turn {}", option["turn"]));
        assert_eq!(
            (&explained["best"], &explained["position"]),
            (&option["choice"], &option["position"]),
            "turn {}",
            option["turn"]
        );
        differ += usize::from(explained["afresh"] != explained["best"]);
    }
    assert!(moves.len() > 4 && differ > 0, "what it kept, and its chance, make a difference now and then");
    let late = bench.console(&format!("explain --again trial/3 --turn {}", moves.len() + 1));
    assert!(late.contains(&format!("turns are numbered from 1 to {}", moves.len())), "{late}");
}

#[test]
fn recorded_choices_of_agents_by_the_clock_play_again() {
    let bench = Bench::new();
    let summary = bench.json("batch sowing drifter minimax:millis=1 -m 4 --record --name kept");
    assert!(summary["notes"].to_string().contains("its choices are stored"), "{}", summary["notes"]);
    let sound = bench.ok("ledger verify kept");
    assert!(sound.contains("4 matches played again with the same rows (4 by recorded choices)"), "{sound}");
    let again = || bench.ok("match --again kept/2");
    assert_eq!(again(), again(), "the clock has no bearing any more");
    assert!(bench.ok("batch sowing minimax:millis=1 drifter --record --print-brief").contains("record = true"));
}

#[test]
fn turning_points_come_each_with_a_command_that_explains_it() {
    let bench = Bench::new();
    bench.ok("batch sowing minimax:depth=3 plover -m 4 --name seeds");
    assert_snapshot!(bench.console("explain --again seeds/1"));
    for judge in ["", " --agent minimax:depth=7"] {
        let found = bench.json(&format!("explain --again seeds/1{judge}"));
        let points = found["turning_points"].as_array().expect("a list");
        assert!(!points.is_empty(), "{found}");
        for point in points {
            let command = point["command"].as_str().and_then(|text| text.split_once(' ')).expect("a command").1;
            let explained = bench.json(&command.replace('\'', ""));
            let (key, chosen) = if judge.is_empty() { ("best", "choice") } else { ("chosen", "choice") };
            assert_eq!(explained[key], point[chosen], "{command}");
        }
        let beaten = |point: &Value| point["reasons"].to_string().contains("beaten");
        assert!(judge.is_empty() || points.iter().any(beaten), "a deeper look finds something better: {found}");
    }
}

#[test]
fn a_match_that_gave_no_thoughts_turned_where_the_score_did() {
    let bench = Bench::new();
    bench.ok("batch piste heron turnstone --rules touches=2 -m 2 --name pier");
    let told = bench.ok("explain --again pier/0");
    assert!(told.contains("by lunge") || told.contains("by riposte") || told.contains("by edge"), "{told}");
    // A game that gives its scores no words, between agents that value nothing.
    bench.ok("batch berths drifter other=drifter -m 2 --name moor");
    assert!(bench.ok("explain --again moor/0").contains("the score goes from 0 : 0"));
}

#[test]
fn another_agent_judges_a_stored_decision() {
    let bench = Bench::new();
    bench.ok("batch piste heron turnstone --rules touches=2 -m 2 --name pier");
    // It has followed the seat until then: a fencer with slow reactions sees what lies behind it.
    let asked = |agent: &str| bench.json(&format!("explain --again pier/1 --turn 60 --seat 0 --agent {agent}"));
    assert_eq!(asked("heron")["entrant"], "turnstone");
    // The one that decided decides the same in its own place.
    let same = asked("turnstone");
    assert_eq!(same["best"], same["chosen"], "{same}");
}

#[test]
fn who_decided_by_the_clock_is_asked_again() {
    let bench = Bench::new();
    bench.ok("batch sowing treesearch:millis=2 grabber --record -m 2 --name clock");
    let explained = (1..=2).map(|turn| bench.json(&format!("explain --again clock/0 --turn {turn}")));
    let clocked = explained.into_iter().find(|explained| explained["agent"] == "treesearch").expect("it moves early");
    assert!(!clocked["chosen"].is_null(), "{clocked}");
    assert!(clocked["options"].as_array().is_some_and(|options| options.len() > 1), "{clocked}");
}
