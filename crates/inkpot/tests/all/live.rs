//! Matches in a terminal: watched, played by hand, left at any moment; and what is stored of them.

#![cfg(unix)]

use std::time::Duration;

use crate::common::Bench;
use crate::common::terminal::Terminal;
use serde_json::Value;

/// What a study says of its matches.
fn summary(bench: &Bench, study: &str) -> Value {
    serde_json::from_str(&bench.read(&format!("ledger/{study}/summary.json"))).expect("JSON")
}

/// Waits until a match in real time has come this far (s).
fn reaches(terminal: &Terminal, seconds: f64) {
    let time = || terminal.shown().split_whitespace().next().and_then(|word| word.parse::<f64>().ok());
    terminal.until("time", || time().is_some_and(|time| time >= seconds));
}

/// Leaves a match half way.
fn leave(terminal: &mut Terminal) {
    terminal.press("\u{1b}");
    terminal.shows("Leave the match?");
    terminal.press("\u{1b}");
}

#[test]
fn sowing_is_played_to_its_end_with_hints_and_plays_again_exactly() {
    let bench = Bench::new();
    let mut terminal = Terminal::sized(
        &bench,
        "play sowing grabber --rules pits=3,seeds=2 --hints minimax --label guest --seed 3 --name seeds",
        24,
        80,
    );
    terminal.shows("Tab shows hints");
    terminal.shows("Your turn");
    assert!(!terminal.shown().contains("worth"), "hints are off until they are asked for");
    terminal.press("\t");
    terminal.shows("the adviser's choice");
    terminal.press("\t");
    terminal.until("hints are hidden", || !terminal.shown().contains("worth"));
    // Until it is over, the option that is picked out is taken.
    for _ in 0..400 {
        if terminal.shown().contains("The match is over") {
            break;
        }
        if terminal.shown().contains("Your turn") {
            terminal.press("\r");
        }
        std::thread::sleep(Duration::from_millis(100));
    }
    terminal.shows("The match is over");
    terminal.press("\r");
    assert_eq!(terminal.ended(), 0);
    assert!(!terminal.is_taken(), "the terminal is given back");
    let replayed = bench.json("match --again seeds/0");
    let guest = &summary(&bench, "seeds")["entrants"][0];
    assert_eq!((guest["name"].as_str(), guest["matches"].as_u64()), (Some("guest"), Some(1)));
    assert_eq!(replayed["seats"][0]["score"], guest["score"]["value"]);
    let sound = bench.json("ledger verify seeds");
    assert_eq!((&sound["fine"], &sound["replayed"], &sound["of_record"]), (&true.into(), &1.into(), &1.into()));
    assert!(bench.ok("replay seeds/0").ends_with("0.html\n"));
}

#[test]
fn a_match_that_is_left_is_abandoned_not_lost_and_the_terminal_is_as_it_was() {
    let bench = Bench::new();
    let mut terminal = Terminal::sized(&bench, "play piste heron --label guest --seed 3 --name left", 24, 80);
    terminal.shows("Enter begins the match");
    terminal.press("\rd");
    reaches(&terminal, 1.0);
    terminal.resize(12, 40);
    reaches(&terminal, 2.0);
    assert!(terminal.is_taken());
    terminal.resize(24, 80);
    reaches(&terminal, 3.0);
    leave(&mut terminal);
    assert_eq!(terminal.ended(), 0);
    assert!(!terminal.is_taken(), "the terminal is given back");
    let summary = summary(&bench, "left");
    assert_eq!(
        (&summary["matches"], &summary["voids"], &summary["endings"]["abandoned"]),
        (&1.into(), &1.into(), &1.into())
    );
    let losses: Vec<&Value> =
        summary["entrants"].as_array().expect("two").iter().map(|entrant| &entrant["losses"]).collect();
    assert_eq!(losses, [&Value::from(0), &Value::from(0)]);
    let again = bench.json("match --again left/0");
    assert_eq!(again["ending"], "abandoned");
    assert_eq!(bench.json("ledger verify left")["of_record"], 1);
    // What was played by hand is never played anew.
    let part = crate::common::parts(&bench.path("ledger"), "left").remove(0);
    std::fs::write(&part, b"damaged").expect("it can be written");
    insta::assert_snapshot!("damaged_by_hand", bench.console("resume left"));
}

#[test]
fn a_signal_ends_a_match_and_restores_the_terminal() {
    let bench = Bench::new();
    let mut terminal = Terminal::sized(&bench, "play piste heron --seed 3 --name ended", 24, 80);
    terminal.shows("Enter begins the match");
    terminal.press("\r");
    reaches(&terminal, 1.0);
    terminal.signal("TERM");
    assert_eq!(terminal.ended(), 130);
    assert!(!terminal.is_taken(), "the terminal is given back");
    assert_eq!(summary(&bench, "ended")["endings"]["abandoned"], 1);
}

#[test]
fn an_interrupt_is_heard_after_an_unfinished_sequence_and_on_a_line_that_stands_still() {
    let bench = Bench::new();
    let mut half = Terminal::sized(&bench, "watch piste heron dunlin", 24, 80);
    reaches(&half, 1.0);
    half.press("\x1b[1;");
    half.press("\x03");
    assert_eq!(half.ended(), 130);
    assert!(!half.is_taken(), "the terminal is given back");
    for arguments in ["watch piste heron dunlin", "play piste heron --seed 3 --name stalled"] {
        let mut stalled = Terminal::sized(&bench, arguments, 60, 200);
        if arguments.starts_with("play") {
            stalled.shows("Enter begins the match");
            stalled.press("\r");
        }
        reaches(&stalled, 1.0);
        stalled.stall();
        std::thread::sleep(Duration::from_secs(3));
        stalled.signal("INT");
        // What is said at the end may still wait for the line; a second interrupt waits for nothing.
        std::thread::sleep(Duration::from_secs(2));
        if !stalled.is_ended() {
            stalled.signal("INT");
        }
        assert_eq!(stalled.ended(), 130, "{arguments}");
    }
    bench.ok("resume stalled");
    assert_eq!(summary(&bench, "stalled")["endings"]["abandoned"], 1);
}

#[test]
fn a_vast_terminal_is_drawn_on_in_part() {
    let bench = Bench::new();
    let mut vast = Terminal::sized(&bench, "watch piste heron dunlin", 60_000, 60_000);
    std::thread::sleep(Duration::from_secs(2));
    vast.signal("INT");
    assert_eq!(vast.ended(), 130, "it was not ended for want of memory");
}

#[test]
fn a_terminal_that_vanishes_ends_a_match_and_stores_it() {
    let bench = Bench::new();
    let mut terminal = Terminal::sized(&bench, "play piste heron --seed 3 --name gone", 24, 80);
    terminal.shows("Enter begins the match");
    terminal.press("\r");
    reaches(&terminal, 1.0);
    terminal.vanish();
    terminal.ended();
    assert_eq!(summary(&bench, "gone")["endings"]["abandoned"], 1);
    let mut watched = Terminal::sized(&bench, "watch piste heron dunlin", 24, 80);
    reaches(&watched, 1.0);
    watched.vanish();
    watched.ended();
}

#[test]
fn among_three_a_person_sails_her_own_boat_wherever_it_lies() {
    let bench = Bench::new();
    let mut terminal =
        Terminal::sized(&bench, "play regatta tacker beeline --label guest --seed 3 --name three", 24, 80);
    terminal.shows("Enter begins the match");
    terminal.press("\rd");
    reaches(&terminal, 2.0);
    leave(&mut terminal);
    assert_eq!(terminal.ended(), 0);
    assert_eq!(summary(&bench, "three")["endings"]["abandoned"], 1);
    assert_eq!(bench.json("ledger verify three")["fine"], true);
}

#[test]
fn a_kill_in_a_later_match_leaves_those_before_it() {
    let bench = Bench::new();
    let play = "play piste heron --rules touches=1,time=5 --pace 20 --best-of 5 --seed 3 --name killed";
    let mut terminal = Terminal::sized(&bench, play, 24, 80);
    terminal.shows("Enter begins the match");
    terminal.press("\r");
    terminal.shows("The match is over");
    terminal.press("\r");
    terminal.shows("Enter begins the match");
    terminal.signal("KILL");
    terminal.ended();
    bench.ok("resume killed --quiet");
    assert_eq!(summary(&bench, "killed")["matches"], 1);
    let sound = bench.json("ledger verify killed");
    assert_eq!((&sound["fine"], &sound["of_record"]), (&true.into(), &1.into()));
}

#[test]
fn what_was_not_begun_is_not_stored() {
    let bench = Bench::new();
    let mut terminal = Terminal::sized(&bench, "play piste heron --name never", 24, 80);
    terminal.shows("Enter begins the match");
    leave(&mut terminal);
    assert_eq!(terminal.ended(), 0);
    terminal.shows("nothing was played");
    assert!(!bench.path("ledger/never").exists());
}

#[test]
fn ten_matches_by_hand_are_fitted_and_stand_beside_standins() {
    let bench = Bench::new();
    let mut terminal = Terminal::sized(
        &bench,
        "play piste heron --rules touches=1,time=5 --pace 40 --best-of 19 --label guest --seed 6 --name hand",
        24,
        80,
    );
    // Keys without a plan: right, a lunge, left, on to the next match.
    for round in 0..4_000 {
        if terminal.is_ended() {
            break;
        }
        terminal.press(["\r", "d", " ", "a", "d", " ", "s", "k"][round % 8]);
        std::thread::sleep(Duration::from_millis(13));
    }
    assert_eq!(terminal.ended(), 0);
    let played = summary(&bench, "hand")["matches"].as_u64().expect("a count");
    assert!(played >= 10, "{played} matches");
    assert_eq!(bench.json("ledger verify hand")["fine"], true);
    bench.write(
        "fit.toml",
        "kind = \"fit\"\ngame = \"piste\"\nseed = 3\nproof = 40\nrules = { touches = 1, time = 5 }\n[standin]\nagent = \"standin\"\n\
         [[free]]\nknob = \"aggression\"\nfrom = 0.1\nto = 3\n[[opponent]]\nagent = \"heron\"\n",
    );
    let fitted = bench.json("tune fit.toml --fit-standin hand --name fitted");
    assert_eq!(fitted["fitted"]["logged"].as_u64(), Some(played));
    bench.ok("batch piste newcomer heron --rules touches=1,time=5 --matches 40 --name standin --quiet");
    bench.ok("report hand standin --out page.html");
    let page = bench.read("page.html");
    assert!(page.contains("guest") && page.contains("newcomer"));
}

#[test]
fn a_stored_match_is_watched_with_thoughts_and_steps() {
    let bench = Bench::new();
    bench.ok("batch sowing minimax grabber --matches 4 --seed 3 --name pair --quiet");
    let mut terminal = Terminal::sized(&bench, "watch pair/1 --thoughts 1 --delay 0.2", 24, 110);
    terminal.shows("minimax chooses");
    terminal.press(" ");
    terminal.shows("paused");
    let turn = |terminal: &Terminal| -> u64 {
        let shown = terminal.shown();
        shown.trim_start_matches("turn ").split_whitespace().next().expect("a turn").parse().expect("a number")
    };
    let before = turn(&terminal);
    terminal.press(".");
    terminal.until("one turn more", || turn(&terminal) == before + 1);
    terminal.press("t");
    terminal.until("no thoughts", || !terminal.shown().contains("chooses"));
    terminal.press("q");
    assert_eq!(terminal.ended(), 0);
    assert!(!terminal.is_taken());
}

#[test]
fn what_cannot_be_watched_or_played_is_refused() {
    let bench = Bench::new();
    bench.ok("batch piste heron avocet --matches 4 --seed 3 --name pair --quiet");
    for (name, arguments) in [
        ("watch_no_terminal", "watch piste heron avocet"),
        ("watch_no_study", "watch nowhere/0"),
        ("watch_no_match", "watch pair/4"),
        ("watch_two", "watch pair/0 pair/1"),
        ("watch_no_seat", "watch pair/0 --thoughts 2"),
        ("watch_seed", "watch pair/0 --seed 1"),
        ("watch_delay", "watch pair/0 --delay 0"),
        ("watch_delay_in_real_time", "watch pair/0 --delay 1"),
        ("watch_pace_of_turns", "watch sowing grabber drifter --pace 2"),
        ("play_pace_of_turns", "play sowing grabber --pace 2"),
        ("play_no_terminal", "play piste heron"),
        ("play_no_seat", "play piste heron --seat 2"),
        ("play_too_many", "play piste heron avocet"),
        ("play_no_agent", "play piste hern"),
        ("play_no_adviser", "play piste heron --hints minimx"),
        ("play_no_control", "play piste heron --keys lung=l"),
        ("play_no_key", "play piste heron --keys lunge=f12"),
        ("play_taken_key", "play piste heron --keys lunge=p"),
        ("play_no_controls", "play sowing grabber --keys left=l"),
        ("a_person_in_a_batch", "batch piste hand heron"),
    ] {
        insta::assert_snapshot!(name, bench.console(arguments));
    }
}
