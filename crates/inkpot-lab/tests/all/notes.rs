//! What a study says should be known before its figures are believed.

use inkpot_core::{Halt, Knobs, Registry};
use inkpot_lab::{Draft, EntrantDraft, Runner, StudyDraft, StudySummary, Threads, resolve, summarise};
use inkpot_stats::Interval;

fn caller(name: &str, number: f64) -> EntrantDraft {
    let knobs = Knobs::default().with("number", number);
    EntrantDraft { name: Some(name.into()), agent: "caller".into(), knobs, vary: Vec::new() }
}

fn with(draft: EntrantDraft, knob: &str, value: f64) -> EntrantDraft {
    EntrantDraft { knobs: draft.knobs.clone().with(knob, value), ..draft }
}

fn draft(entrants: Vec<EntrantDraft>, rules: Knobs, matches: u64) -> StudyDraft {
    Draft { game: "highest".into(), seed: Some(9), matches: Some(matches), rules, entrants, ..Draft::default() }.into()
}

fn luck(luck: f64) -> Knobs {
    Knobs::default().with("luck", luck)
}

fn summary(registry: &Registry, draft: &StudyDraft) -> StudySummary {
    let plan = resolve(draft, registry).expect("the draft is fine");
    let game = registry.game("highest").expect("the game is there");
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = crate::begin::begun(folder.path(), &plan);
    let halt = Halt::new();
    let (_, plan) =
        Runner::new(&plan, game, &Threads(2), &halt).play(&study, &mut manifest, &mut |_| {}).expect("it is played");
    summarise(&study, &manifest, &plan, game).expect("it is complete").0
}

fn notes(draft: &StudyDraft) -> Vec<String> {
    summary(&crate::tiny::registry(2), draft).shared.notes
}

/// Whether one of the notes says so.
fn says(notes: &[String], what: &str) -> bool {
    notes.iter().any(|note| note.contains(what))
}

#[test]
fn an_ordinary_study_has_nothing_to_note() {
    assert_eq!(notes(&draft(vec![caller("a", 3.0), caller("b", 4.0)], luck(4.0), 400)), Vec::<String>::new());
}

#[test]
fn few_blocks_are_told_and_enough_are_not() {
    let of = |matches: u64| notes(&draft(vec![caller("a", 3.0), caller("b", 4.0)], luck(4.0), matches));
    assert!(says(&of(2), "few-blocks: 1 block leaves every interval wide; play more matches"));
    assert!(says(&of(38), "few-blocks: 19 blocks leave"));
    assert!(!says(&of(40), "every interval wide"));
}

#[test]
fn matches_that_do_not_fill_blocks_are_told() {
    let of = |matches: u64| notes(&draft(vec![caller("a", 3.0), caller("b", 4.0)], luck(4.0), matches));
    assert!(says(&of(101), "rounded: 102 matches were played instead of 101, in whole blocks of 2"));
    assert!(!says(&of(102), "were played instead of"));
}

#[test]
fn one_sided_pairings_are_told_from_both_sides() {
    let notes_given = notes(&draft(vec![caller("low", 0.0), caller("high", 9.0)], luck(4.0), 200));
    assert!(
        says(&notes_given, "one-sided: `low` wins less than one match in twenty")
            && says(&notes_given, "one-sided: `high` loses less than one match in twenty")
    );
    let even = notes(&draft(vec![caller("a", 4.0), caller("b", 5.0)], luck(9.0), 200));
    assert!(!says(&even, "one-sided"));
}

#[test]
fn a_match_is_always_the_same_where_nothing_draws_chance() {
    let of = |luck_of: f64, matches| notes(&draft(vec![caller("a", 3.0), caller("b", 4.0)], luck(luck_of), matches));
    let decided = "decided: a against b is always the same match";
    assert!(says(&of(0.0, 40), decided), "{:?}", of(0.0, 40));
    assert!(says(&of(0.0, 2), decided) && !says(&of(0.1, 200), decided));
    // What happens once in a billion matches is chance all the same, though no block of forty shows it.
    let alike = notes(&draft(vec![caller("a", 3.0), caller("b", 4.0)], luck(0.0).with("fall", 1e-9), 80));
    assert!(
        !says(&alike, decided)
            && says(&alike, "alike: all 40 blocks of a against b went alike although chance is drawn"),
        "{alike:?}"
    );
}

#[test]
fn three_sit_down_in_a_drawn_order_and_nothing_of_them_is_decided() {
    let callers = vec![caller("a", 3.0), caller("b", 4.0), caller("c", 5.0)];
    let study = summary(&crate::tiny::registry(3), &draft(callers, luck(0.0), 3));
    assert!(!says(&study.notes, "decided"), "{:?}", study.notes);
}

#[test]
fn only_what_is_decided_is_known_without_error() {
    let of = |luck_of: f64| {
        summary(&crate::tiny::registry(2), &draft(vec![caller("low", 0.0), caller("high", 9.0)], luck(luck_of), 200))
    };
    let (decided, luck) = (of(0.0), of(1.0));
    let rates = |study: &StudySummary| study.pairings[0].win_rate.expect("they met");
    assert_eq!(rates(&decided), Interval::exactly(0.0));
    assert_eq!(decided.entrants[1].score.and_then(|score| score.interval()), Some(Interval::exactly(9.0)));
    // One that always wins by luck's leave is not decided.
    assert!(rates(&luck).value == 0.0 && rates(&luck).high > 0.005, "{:?}", rates(&luck));
}

#[test]
fn draws_are_told_from_three_in_ten_on() {
    let notes_given = notes(&draft(vec![caller("a", 4.0), caller("b", 4.0)], luck(0.0), 100));
    assert!(says(&notes_given, "draw-heavy: 100 % of the matches are draws"), "{notes_given:?}");
    assert!(!says(&notes(&draft(vec![caller("a", 4.0), caller("b", 4.0)], luck(1.0), 100)), "draw-heavy"));
}

#[test]
fn faults_are_told_by_whom_and_how_many() {
    let notes_given = notes(&draft(vec![caller("a", 3.0), caller("cheat", 15.0)], luck(4.0), 100));
    assert!(says(&notes_given, "`cheat` made 100 faults in 100 matches"), "{notes_given:?}");
    assert!(!says(&notes_given, "`a` made"));
}

#[test]
fn late_decisions_are_told_apart_from_faults() {
    let told = |slow: f64| {
        let entrants = vec![with(caller("a", 5.0), "slow", slow), caller("b", 5.0)];
        notes(&draft(entrants, luck(5.0), 4))
    };
    let slow = told(1.0);
    assert!(
        says(&slow, "`a` made 4 decisions late in 4 matches: each took more than twice its own time limit"),
        "{slow:?}"
    );
    assert!(!says(&slow, "fault"), "{slow:?}");
    assert!(!says(&told(0.0), "late:"));
}

#[test]
fn forfeits_are_told_with_their_number() {
    let shaky = with(caller("shaky", 4.0), "panics", 0.5);
    let study = summary(&crate::tiny::registry(2), &draft(vec![caller("a", 4.0), shaky], luck(4.0), 200));
    let forfeits = study.endings["forfeit"];
    assert!((60..=140).contains(&forfeits), "{forfeits} of 200");
    assert!(says(&study.notes, &format!("crashed: an agent crashed and forfeited {forfeits} of 200 matches")));
}

#[test]
fn void_matches_are_told_with_the_blocks_they_cost() {
    let rules = luck(4.0).with("fall", 0.1);
    let study = summary(&crate::tiny::registry(2), &draft(vec![caller("a", 4.0), caller("b", 5.0)], rules, 400));
    assert!(
        says(&study.notes, &format!("failed: the game failed in {} of 400 matches", study.voids)),
        "{:?}",
        study.notes
    );
    assert!(says(&study.notes, "blocks with a void match are left out of all rates"));
    assert!((20..=60).contains(&study.voids), "{} of 400", study.voids);
}
