//! Matches of a race whose course is known by hand: rows, seats, faults, falls, and matches that somebody holds.

use crate::race::{entry, setting, windy};
use inkpot_core::{GameEntry, Knobs, Moment, Outcome, Record, Row, Rows, Seating, Setting, Spot, Stage, Telling, tell};
use serde_json::json;

/// The stage of a setting.
fn staged(setting: &Setting) -> Box<dyn Stage> {
    entry(setting.cast.len()).stage(setting).expect("a setting of the race")
}

/// Names of the measures of a race.
fn names() -> Vec<String> {
    entry(2).sheet().measures.iter().map(|measure| measure.name.clone()).collect()
}

/// No rows yet.
fn none() -> Rows {
    Rows::new(names().len())
}

/// The matches of a block.
fn block(stage: &mut dyn Stage, number: u64) -> Rows {
    let mut rows = none();
    let rotations = stage.matches_a_block();
    for rotation in 0..rotations {
        let match_index = number * rotations as u64 + rotation as u64;
        stage.play(Spot { cell: 0, block: number, rotation, match_index, leads: false }, &mut rows);
    }
    rows
}

fn first(agents: &[&str], rules: &Knobs) -> Rows {
    let mut rows = none();
    staged(&setting(agents, rules, 5)).play(Spot::default(), &mut rows);
    rows
}

fn column<T>(rows: &Rows, of: impl Fn(&Row) -> T) -> Vec<T> {
    rows.rows.iter().map(of).collect()
}

/// What two runs agree on.
fn comparable(rows: &Rows) -> Rows {
    let mut rows = rows.clone();
    rows.rows.iter_mut().for_each(|row| {
        row.decision_us = 0.0;
        row.decision_times = None;
    });
    rows
}

#[test]
fn a_match_is_told_seat_by_seat() {
    let rows = first(&["steady:3", "steady:2"], &Knobs::default());
    assert_eq!(column(&rows, |row| row.score), [12.0, 8.0]);
    assert_eq!(column(&rows, |row| row.placement), [1, 2]);
    assert_eq!(column(&rows, |row| row.outcome), [Outcome::Win, Outcome::Loss]);
    assert_eq!(column(&rows, |row| row.ticks), [4, 4]);
    assert_eq!(column(&rows, |row| row.ending.to_string()), ["goal", "goal"]);
    assert_eq!(column(&rows, |row| (row.cut_short, row.faults)), [(false, 0); 2]);
    let names = names();
    let measured =
        |row: usize, name: &str| rows.measures_of(row)[names.iter().position(|other| other == name).unwrap()];
    assert_eq!([measured(0, "done"), measured(1, "done"), measured(0, "gusts")], [1.0, 8.0 / 12.0, 0.0]);
    // What is read off the scores of any game: ahead from the first tick, and never caught up.
    assert_eq!([measured(0, "lead_changes"), measured(0, "comeback")], [0.0, 0.0]);
}

#[test]
fn who_gets_there_together_shares_the_place() {
    let rows = first(&["steady:2", "steady:3", "steady:3", "steady:1"], &Knobs::default());
    assert_eq!(column(&rows, |row| row.placement), [3, 1, 1, 4]);
    assert_eq!(column(&rows, |row| row.outcome), [Outcome::Loss, Outcome::Draw, Outcome::Draw, Outcome::Loss]);
    let played = rows.matches().next().expect("a match");
    // Ahead of two and beside one of three; behind two and ahead of one.
    assert_eq!((0..4).map(|seat| played.points(seat)).collect::<Vec<_>>(), [1.0 / 3.0, 2.5 / 3.0, 2.5 / 3.0, 0.0]);
}

#[test]
fn one_seat_alone_wins_what_it_reaches() {
    let rows = first(&["steady:3"], &Knobs::default());
    assert_eq!((rows.rows[0].placement, rows.rows[0].ticks), (1, 4));
}

#[test]
fn every_entrant_sits_in_every_seat_once_a_block_in_one_world() {
    for seats in 1..=6 {
        let agents = vec!["roller"; seats];
        let mut stage = staged(&setting(&agents, &Knobs::default(), 9));
        assert_eq!(stage.matches_a_block(), seats);
        let rows = block(stage.as_mut(), 3);
        for entrant in 0..seats as u16 {
            let mut taken: Vec<u16> =
                rows.rows.iter().filter(|row| row.entrant == entrant).map(|row| row.seat).collect();
            taken.sort_unstable();
            assert_eq!(taken, (0..seats as u16).collect::<Vec<_>>(), "{seats} seats");
        }
        let world = rows.rows[0].world_seed;
        assert!(rows.rows.iter().all(|row| row.world_seed == world));
        assert_ne!(block(stage.as_mut(), 4).rows[0].world_seed, world);
    }
}

#[test]
fn the_order_of_playing_has_no_bearing() {
    let setting = setting(&["roller", "roller", "learner"], &windy(), 77);
    let mut forward = staged(&setting);
    let whole: Vec<Rows> = (0..6).map(|number| block(forward.as_mut(), number)).collect();
    let mut backward = staged(&setting);
    for number in (0..6).rev() {
        assert_eq!(
            comparable(&block(backward.as_mut(), number)),
            comparable(&whole[number as usize]),
            "block {number}"
        );
    }
}

/// A series of six matches of one who practises.
fn practice(other: &str) -> Setting {
    let mut setting = setting(&["practised", other], &Knobs::default().with("goal", 6.0), 4);
    setting.seating = setting.seating.in_series(3);
    setting
}

fn spot(block: u64, rotation: usize) -> Spot {
    Spot { cell: 0, block, rotation, match_index: block * 6 + rotation as u64, leads: false }
}

#[test]
fn an_agent_that_remembers_keeps_what_it_learned_for_a_block() {
    let mut stage = staged(&practice("steady:1"));
    let mut rows = none();
    stage.play_block(spot(0, 0), &mut rows);
    let scores = |rows: &Rows| rows.rows.iter().filter(|row| row.entrant == 0).map(|row| row.score).collect::<Vec<_>>();
    // No step in the first match, one in the second, two in the third, three from the fourth on.
    assert_eq!(scores(&rows), [0.0, 6.0, 6.0, 6.0, 6.0, 6.0]);
    rows.clear();
    stage.play_block(spot(1, 0), &mut rows);
    assert_eq!(scores(&rows)[0], 0.0, "another block begins without memory");
}

#[test]
fn any_match_of_a_series_is_that_of_its_block_in_whatever_order_and_whoever_holds_it() {
    for other in ["roller", "panicker"] {
        let setting = practice(other);
        let mut blocks = none();
        (0..2).for_each(|block| staged(&setting).play_block(spot(block, 0), &mut blocks));
        let blocks = comparable(&blocks);
        let whole: Vec<&[Row]> = blocks.matches().map(|played| played.seats()).collect();
        let mut stage = staged(&setting);
        for (block, rotation) in [(1, 5), (0, 3), (0, 4), (1, 0), (0, 2), (1, 1)] {
            let expected = whole[block as usize * 6 + rotation];
            let (mut played, mut held) = (none(), none());
            stage.play(spot(block, rotation), &mut played);
            assert_eq!(comparable(&played).rows, expected, "{other}: match {rotation} of block {block}");
            let mut open = stage.open(spot(block, rotation));
            while open.turn() {}
            open.close(&mut held);
            assert_eq!(comparable(&held).rows, expected, "{other}: match {rotation} of block {block}, held");
        }
    }
}

#[test]
fn nobody_learns_against_one_who_remembers_matches_that_are_not_played_again() {
    let error =
        entry(2).lessons(&setting(&["steady", "practised"], &Knobs::default(), 1)).err().expect("it is refused");
    assert!(error.to_string().contains("remembers the matches of a block"), "{error}");
}

#[test]
fn an_agent_that_cannot_be_made_for_a_match_forfeits_that_match_alone_and_says_why() {
    let mut stage = staged(&setting(&["absent", "steady"], &Knobs::default().with("goal", 3.0), 2));
    let rows = block(stage.as_mut(), 0);
    let endings: Vec<&str> = rows.matches().map(|played| played.seats()[0].ending.as_ref()).collect();
    assert_eq!(endings, ["goal", "forfeit"]);
    let forfeit = &rows.rows[3];
    assert_eq!((forfeit.entrant, forfeit.outcome), (0, Outcome::Loss));
    assert_eq!(forfeit.incident.as_deref(), Some("seat 1 gave up: nobody is at home; before the first tick"));
}

#[test]
fn another_seed_is_another_chance_and_the_same_seed_the_same() {
    let of = |seed: u64| comparable(&block(staged(&setting(&["roller", "roller"], &windy(), seed)).as_mut(), 0));
    assert_eq!(of(1), of(1));
    assert_ne!(of(1), of(2));
}

#[test]
fn a_series_is_played_by_the_same_people_who_remember_it() {
    let mut setting = setting(&["learner", "steady:1"], &Knobs::default().with("goal", 6.0), 4);
    setting.seating = setting.seating.in_series(3);
    let mut stage = staged(&setting);
    assert_eq!(stage.matches_a_block(), 6);
    let rows = block(stage.as_mut(), 0);
    let learner: Vec<f64> = rows.rows.iter().filter(|row| row.entrant == 0).map(|row| row.score).collect();
    // No step in the first match, one in the second, two in the third, three from the fourth on.
    assert_eq!(learner, [0.0, 6.0, 6.0, 6.0, 6.0, 6.0]);
    let worlds: Vec<u64> = rows.matches().map(|played| played.seats()[0].world_seed).collect();
    assert!(worlds[0] == worlds[1] && worlds[2] == worlds[3] && worlds[0] != worlds[2], "a world a round: {worlds:?}");
    let again = block(stage.as_mut(), 1);
    assert_eq!(again.rows[0].score.min(again.rows[1].score), 0.0, "in the next block they are new to it");
}

#[test]
fn an_illegal_choice_is_a_fault_and_the_match_goes_on() {
    let rows = first(&["cheat", "steady:1"], &Knobs::default().with("goal", 5.0));
    // Two steps, then nothing but faults until the other is there after five.
    assert_eq!(column(&rows, |row| row.score), [2.0, 5.0]);
    assert_eq!(column(&rows, |row| row.faults), [3, 0]);
    assert_eq!(column(&rows, |row| row.incident.is_some()), [false, false]);
}

#[test]
fn who_panics_or_gives_up_is_last_and_the_others_tie_before() {
    for (agent, said) in [("panicker", ["panicked", ": no way forward"]), ("quitter", ["gave up", ": tired"])] {
        let rows = first(&["steady:1", agent, "steady:2"], &Knobs::default());
        assert_eq!(column(&rows, |row| row.placement), [1, 3, 1], "{agent}");
        assert_eq!(column(&rows, |row| row.ending.to_string()), ["forfeit"; 3]);
        assert_eq!(column(&rows, |row| row.faults), [0, 1, 0]);
        assert_eq!(column(&rows, |row| row.score), [2.0, 2.0, 4.0], "as far as it had come");
        let incident = rows.rows[1].incident.as_deref().expect("what went wrong");
        // Between the two stands the place of the panic, once panics in matches are quieted.
        assert!(incident.starts_with(&format!("seat 1 {}", said[0])), "{incident}");
        assert!(incident.contains(&format!("{}; tick 2", said[1])), "{incident}");
    }
}

#[test]
fn a_match_whose_game_falls_counts_for_nobody() {
    for (agent, said) in [("breaker", "a wheel came off"), ("bomb", "the code of the race")] {
        let rows = first(&["steady:1", agent], &Knobs::default());
        assert_eq!(column(&rows, |row| row.outcome), [Outcome::Void; 2], "{agent}");
        assert_eq!(column(&rows, |row| row.placement), [0, 0]);
        let incident = rows.rows[0].incident.as_deref().expect("what went wrong");
        assert!(incident.contains(said), "{incident}");
        assert!(rows.matches().next().expect("a match").is_void());
    }
}

#[test]
fn what_fell_in_one_match_has_no_bearing_on_the_next() {
    let setting = setting(&["panicker", "roller"], &Knobs::default().with("goal", 20.0), 6);
    let mut stage = staged(&setting);
    let first = block(stage.as_mut(), 0);
    let fresh = block(staged(&setting).as_mut(), 1);
    let two = block(stage.as_mut(), 1);
    assert!(first.rows.iter().any(|row| row.incident.is_some()));
    assert_eq!(comparable(&two), comparable(&fresh));
}

#[test]
fn a_held_match_goes_as_the_played_one() {
    for agents in [&["roller", "roller"][..], &["roller", "steady:2", "learner"], &["cheat", "panicker", "quitter"]] {
        let setting = setting(agents, &windy(), 31);
        let mut stage = staged(&setting);
        for rotation in 0..agents.len() {
            let spot = Spot { cell: 0, block: 2, rotation, match_index: 7, leads: false };
            let (mut played, mut turned, mut incidents) = (none(), none(), none());
            stage.play(spot, &mut played);
            let mut held = stage.open(spot);
            while held.turn() {}
            held.close(&mut turned);
            tell(stage.open(spot), Telling::Choices, &mut |_| {}, &mut incidents);
            assert_eq!(comparable(&turned), comparable(&played), "{agents:?}, rotation {rotation}");
            assert_eq!(comparable(&incidents), comparable(&played), "{agents:?}, rotation {rotation}");
        }
    }
}

#[test]
fn whoever_holds_a_match_may_choose_in_place_of_an_agent() {
    let stage = staged(&setting(&["steady:1", "steady:1"], &Knobs::default().with("goal", 4.0), 2));
    let mut held = stage.open(Spot::default());
    assert_eq!((held.seats(), held.tick(), held.pending()), (2, 0, vec![0, 1]));
    assert_eq!(held.view(1), json!([0.0, 0.0]));
    assert_eq!(held.options(0), Some(vec![json!(0), json!(1), json!(2), json!(3)]));
    held.choose(1, json!(3)).expect("an action of the game");
    assert_eq!(held.pending(), [0], "the agent of the other seat still has to decide");
    assert!(held.turn());
    assert_eq!((held.scores(), held.tick()), (&[1.0, 3.0][..], 1));
    assert_eq!(held.view(0), json!([1.0, 3.0]));
    assert!(held.choose(1, json!("far")).is_err(), "what is no action is refused");
    held.choose(1, json!(77)).expect("an action, if no legal one");
    assert!(held.turn());
    assert_eq!(held.scores(), [2.0, 3.0], "what is illegal is a fault at the step");
    held.choose(1, json!(1)).expect("an action");
    held.turn();
    assert!(held.pending().is_empty() && !held.turn(), "it is over");
    let mut rows = none();
    held.close(&mut rows);
    assert_eq!(column(&rows, |row| (row.placement, row.faults)), [(2, 0), (1, 1)]);
}

#[test]
fn a_step_without_a_choice_is_a_fault_of_who_owed_it() {
    let stage = staged(&setting(&["steady:1", "steady:1"], &Knobs::default().with("goal", 2.0), 2));
    let mut held = stage.open(Spot::default());
    held.choose(0, json!(2)).expect("an action");
    held.step();
    let mut rows = none();
    held.close(&mut rows);
    assert_eq!(column(&rows, |row| (row.score, row.faults)), [(2.0, 0), (0.0, 1)]);
}

#[test]
fn a_match_that_is_left_is_cut_short_at_its_scores() {
    let stage = staged(&setting(&["steady:1", "steady:3"], &Knobs::default().with("goal", 1e6), 2));
    let mut held = stage.open(Spot::default());
    for _ in 0..4 {
        held.turn();
    }
    let mut rows = none();
    held.close(&mut rows);
    assert_eq!(column(&rows, |row| (row.placement, row.cut_short)), [(2, true), (1, true)]);
    assert_eq!(column(&rows, |row| row.ticks), [4, 4]);
}

#[test]
fn every_moment_of_a_told_match_comes_in_order() {
    let stage = staged(&setting(&["steady:2", "steady:3"], &Knobs::default().with("goal", 6.0), 2));
    let mut moments = Vec::new();
    tell(stage.open(Spot::default()), Telling::Choices, &mut |moment| moments.push(moment), &mut none());
    let ticks: Vec<(u64, &str)> = moments
        .iter()
        .map(|moment| match moment {
            Moment::Choice { tick, .. } => (*tick, "choice"),
            Moment::Score { tick, .. } => (*tick, "score"),
        })
        .collect();
    assert_eq!(ticks, [(0, "choice"), (0, "choice"), (1, "score"), (1, "choice"), (1, "choice"), (2, "score")]);
    assert!(matches!(&moments[3], Moment::Choice { seat: 0, action, .. } if *action == json!(2)));
    assert!(matches!(&moments[5], Moment::Score { scores, .. } if *scores == [4.0, 6.0]));
}

#[test]
fn a_setting_that_does_not_fit_the_game_is_refused_in_words() {
    let race = entry(3);
    let fine = setting(&["roller", "roller", "roller"], &Knobs::default(), 1);
    let two = Setting { cast: fine.cast[..2].to_vec(), seating: Seating::rotated(2), ..fine.clone() };
    assert_eq!(race.stage(&two).err().map(|error| error.to_string()).as_deref(), Some("`race` has 3 seats, not 2"));
    let mut unknown = fine;
    unknown.cast[1].kind = "rolller".into();
    let message = race.stage(&unknown).err().map(|error| error.to_string());
    assert_eq!(message.as_deref(), Some("the game `race` has no agent `rolller`"));
}

/// A setting whose first member of the cast is recorded.
fn recorded(agents: &[&str]) -> Setting {
    let mut setting = setting(agents, &windy(), 5);
    setting.cast[0].recorded = true;
    setting
}

#[test]
fn what_was_recorded_plays_again_whoever_sits_there_then() {
    let spot = Spot { block: 3, rotation: 1, ..Spot::default() };
    let mut rows = none();
    staged(&recorded(&["roller", "roller"])).play(spot, &mut rows);
    assert_eq!(column(&rows, |row| row.choices.is_some()), [false, true], "the first of the cast sits in seat 1");
    let mut stage = staged(&recorded(&["steady:1", "roller"]));
    let mut held = stage.open_recorded(spot, &Record::of(&rows.rows));
    while held.turn() {}
    let mut again = none();
    held.close(&mut again);
    assert_eq!(
        column(&again, |row| (row.score, row.choices.clone())),
        column(&rows, |row| (row.score, row.choices.clone()))
    );
    let mut other = none();
    stage.play(spot, &mut other);
    assert_ne!(
        column(&other, |row| row.score),
        column(&rows, |row| row.score),
        "without the record it is another match"
    );
}

#[test]
fn a_match_that_was_left_is_left_again_at_the_same_tick() {
    let stage = staged(&recorded(&["roller", "roller"]));
    let mut held = stage.open(Spot::default());
    for _ in 0..2 {
        assert!(held.turn());
    }
    let mut rows = none();
    held.abandon(&mut rows);
    assert_eq!(column(&rows, |row| row.outcome), [Outcome::Void; 2]);
    assert_eq!(column(&rows, |row| (row.ending.to_string(), row.ticks)), vec![("abandoned".to_string(), 2); 2]);
    let mut held = stage.open_recorded(Spot::default(), &Record::of(&rows.rows));
    while held.turn() {}
    let mut again = none();
    held.close(&mut again);
    assert_eq!(comparable(&again), comparable(&rows));
}

#[test]
fn a_record_that_cannot_be_read_makes_a_match_void() {
    let stage = staged(&recorded(&["roller", "roller"]));
    let mut rows = none();
    stage.open(Spot::default()).abandon(&mut rows);
    rows.rows[0].choices = Some("[[\"no step\",1]]".into());
    rows.rows[0].ending = "goal".into();
    let mut again = none();
    stage.open_recorded(Spot::default(), &Record::of(&rows.rows)).close(&mut again);
    let incident = again.rows[0].incident.clone().unwrap_or_default();
    assert!(incident.contains("the choices of seat 0 cannot be read"), "{incident}");
}
