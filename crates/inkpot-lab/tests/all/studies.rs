//! Studies over a tiny game: what is played, kept and summed up, also when agents and games fall.

use std::collections::BTreeMap;
use std::path::Path;

use inkpot_core::{Halt, KnobValue, Knobs, Outcome, Registry, Row, Rows};
use inkpot_lab::{
    Answer, Draft, EntrantDraft, Event, Job, KindDraft, PlanFileError, PlanJob, Runner, Sitting, StudyDraft, StudyPlan,
    StudySummary, Subject, SweepDraft, Task, Threads, VaryDraft, VaryRange, read_plan, resolve, summarise, write_plan,
};
use inkpot_ledger::{Manifest, Study};
use proptest::prelude::*;

fn caller(name: &str, knobs: Knobs) -> EntrantDraft {
    EntrantDraft { name: Some(name.into()), agent: "caller".into(), knobs, vary: Vec::new() }
}

fn draft(entrants: Vec<EntrantDraft>, rules: Knobs, matches: u64) -> StudyDraft {
    Draft { game: "highest".into(), seed: Some(9), matches: Some(matches), rules, entrants, ..Draft::default() }.into()
}

fn luck(luck: f64) -> Knobs {
    Knobs::default().with("luck", luck)
}

/// A study under way in a folder.
struct Trial {
    registry: Registry,
    plan: StudyPlan,
    study: Study,
    manifest: Manifest,
}

impl Trial {
    fn new(folder: &Path, seats: usize, draft: &StudyDraft) -> Self {
        let registry = crate::tiny::registry(seats);
        let plan = resolve(draft, &registry).expect("the draft is fine");
        let (study, manifest) = crate::begin::begun(folder, &plan);
        Self { registry, plan, study, manifest }
    }

    /// Plays on `threads` threads and asks to stop once `stop_after` blocks are done.
    fn sit(&mut self, threads: usize, stop_after: u64) -> Sitting {
        let halt = Halt::new();
        let game = self.registry.game("highest").unwrap();
        let threads = Threads(threads);
        let runner = Runner::new(&self.plan, game, &threads, &halt);
        let mut listener = |event: &Event| {
            if matches!(event, Event::Played { done, .. } if *done >= stop_after) {
                halt.call();
            }
        };
        let (sitting, plan) = runner.play(&self.study, &mut self.manifest, &mut listener).unwrap();
        self.plan = plan;
        sitting
    }

    fn rows(&self) -> Rows {
        let names = crate::tiny::measures(&self.registry);
        let mut all = Rows::new(names.len());
        self.study
            .visit(&self.manifest, &names, |rows| {
                all.append(&mut rows.clone());
                Ok(())
            })
            .unwrap();
        for row in &mut all.rows {
            row.decision_us = 0.0;
            row.decision_times = None;
        }
        all
    }

    fn summary(&self) -> StudySummary {
        summarise(&self.study, &self.manifest, &self.plan, self.registry.game("highest").unwrap()).unwrap().0
    }
}

fn played(seats: usize, draft: &StudyDraft) -> (Rows, StudySummary) {
    let folder = tempfile::tempdir().unwrap();
    let mut desk = Trial::new(folder.path(), seats, draft);
    assert_eq!(desk.sit(2, u64::MAX), Sitting::Complete);
    (desk.rows(), desk.summary())
}

#[test]
fn every_entrant_sits_everywhere_once_a_block() {
    let entrants = ["a", "b", "c"].map(|name| caller(name, Knobs::default())).to_vec();
    let (rows, _) = played(3, &draft(entrants, luck(5.0), 30));
    let mut seen: BTreeMap<(u64, u16, u16), u32> = BTreeMap::new();
    for row in &rows.rows {
        *seen.entry((row.block, row.entrant, row.seat)).or_default() += 1;
    }
    assert_eq!(seen.len(), 10 * 3 * 3);
    assert!(seen.values().all(|&count| count == 1));
}

#[test]
fn matches_are_rounded_up_to_whole_blocks_and_that_is_said() {
    let entrants = ["a", "b", "c"].map(|name| caller(name, Knobs::default())).to_vec();
    let (_, summary) = played(3, &draft(entrants, luck(5.0), 100));
    assert_eq!((summary.matches, summary.blocks), (102, 34));
    assert!(
        summary.notes.iter().any(|note| note.contains("102 matches were played instead of 100")),
        "{:?}",
        summary.notes
    );
}

#[test]
fn an_agent_that_panics_forfeits_and_the_study_goes_on() {
    let entrants = vec![caller("calm", Knobs::default()), caller("shy", Knobs::default().with("panics", 0.3))];
    let (rows, summary) = played(2, &draft(entrants, luck(5.0), 400));
    let forfeits: Vec<&Row> = rows.rows.iter().filter(|row| row.ending == "forfeit").collect();
    assert!((2 * 80..2 * 160).contains(&forfeits.len()), "{}", forfeits.len());
    for row in &forfeits {
        let (outcome, faults) = if row.entrant == 0 { (Outcome::Win, 0) } else { (Outcome::Loss, 1) };
        assert_eq!((row.outcome, row.faults), (outcome, faults));
        let incident = row.incident.as_deref().unwrap();
        assert!(incident.contains("lost its voice") && incident.contains("choices so far"), "{incident}");
    }
    assert_eq!(summary.matches, 400);
    assert_eq!(summary.entrants[1].faults, forfeits.len() as u64 / 2);
    assert!(summary.notes.iter().any(|note| note.contains("forfeited")), "{:?}", summary.notes);
}

#[test]
fn a_game_that_falls_leaves_void_matches_that_count_for_nobody() {
    let entrants = vec![caller("a", Knobs::default().with("number", 9.0)), caller("b", Knobs::default())];
    let (rows, summary) = played(2, &draft(entrants, luck(1.0).with("fall", 0.2), 400));
    let voids = rows.rows.iter().filter(|row| row.outcome == Outcome::Void).count() as u64 / 2;
    assert!((40..130).contains(&voids), "{voids}");
    assert_eq!(summary.voids, voids);
    assert_eq!(summary.entrants[0].win_rate.unwrap().value, 1.0, "the higher number wins every match that counts");
    assert!(summary.notes.iter().any(|note| note.contains("failed: the game failed")), "{:?}", summary.notes);
}

#[test]
fn illegal_choices_are_counted_and_named() {
    let entrants = vec![caller("a", Knobs::default()), caller("wild", Knobs::default().with("number", 15.0))];
    let (_, summary) = played(2, &draft(entrants, luck(1.0), 40));
    assert_eq!((summary.entrants[0].faults, summary.entrants[1].faults), (0, 40));
    assert!(
        summary.notes.iter().any(|note| note.contains("`wild` made 40 faults in 40 matches")),
        "{:?}",
        summary.notes
    );
}

#[test]
fn a_sweep_of_a_known_curve_finds_the_value_that_gives_the_target() {
    // a calls x, b calls 5, each gets luck in [0, 10): a wins with probability 1/2 + d - d²/2 for d = (x - 5) / 10 >= 0.
    let entrants = vec![caller("a", Knobs::default()), caller("b", Knobs::default())];
    let vary = VaryDraft {
        of: Some("a".into()),
        knob: "number".into(),
        range: VaryRange::Span { low: 0.0, high: 9.0, points: 10 },
    };
    let sweep = StudyDraft {
        asked: KindDraft::Sweep(SweepDraft { vary: vec![vary], target: Some(0.7) }),
        ..draft(entrants, luck(10.0), 2000)
    };
    let (_, summary) = played(2, &sweep);
    let solved = summary.solved().unwrap();
    // 0.2 = d - d²/2 at d = 1 - sqrt(0.6) = 0.2254: a calls 7.254.
    let answer = 5.0 + 10.0 * (1.0 - 0.6f64.sqrt());
    assert!(solved.low.unwrap() <= answer && answer <= solved.high.unwrap(), "{solved:?} should hold {answer}");
    assert!(summary.curve().unwrap().fit.effect_p < 0.01);
    let rates: Vec<f64> = summary.points().iter().map(|point| point.win_rate.unwrap().value).collect();
    assert!(rates.windows(2).all(|pair| pair[0] < pair[1] + 0.03), "{rates:?}");
}

#[test]
fn points_of_a_sweep_meet_the_same_worlds() {
    let entrants = vec![caller("a", Knobs::default()), caller("b", Knobs::default())];
    let vary = VaryDraft {
        of: Some("rules".into()),
        knob: "luck".into(),
        range: VaryRange::Span { low: 1.0, high: 2.0, points: 3 },
    };
    let sweep = StudyDraft {
        asked: KindDraft::Sweep(SweepDraft { vary: vec![vary], target: None }),
        ..draft(entrants, luck(1.0), 20)
    };
    let registry = crate::tiny::registry(2);
    let plan = resolve(&sweep, &registry).unwrap();
    assert_eq!((plan.cells.len(), plan.vary()[0].subject), (3, Subject::Rules));
    let (rows, _) = played(2, &sweep);
    let worlds =
        |cell| -> Vec<u64> { rows.rows.iter().filter(|row| row.cell == cell).map(|row| row.world_seed).collect() };
    assert_eq!(worlds(0), worlds(2));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn any_threads_and_any_stops_give_the_same_rows_and_summary(
        threads in 1usize..4,
        stops in prop::collection::vec(0u64..600, 0..4),
        matches in 1u64..900,
    ) {
        let entrants = ["a", "b", "c"].map(|name| caller(name, Knobs::default().with("panics", 0.05))).to_vec();
        let draft = draft(entrants, luck(3.0), matches);
        let (rows, summary) = played(2, &draft);
        let folder = tempfile::tempdir().unwrap();
        let mut desk = Trial::new(folder.path(), 2, &draft);
        for stop in stops {
            desk.sit(threads, stop);
        }
        prop_assert_eq!(desk.sit(threads, u64::MAX), Sitting::Complete);
        prop_assert_eq!(desk.rows().rows, rows.rows);
        prop_assert_eq!(desk.rows().measures.iter().map(|x| x.to_bits()).collect::<Vec<_>>(), rows.measures.iter().map(|x| x.to_bits()).collect::<Vec<_>>());
        prop_assert_eq!(desk.summary(), summary);
    }
}

#[test]
fn a_stored_plan_plays_as_it_was_planned_whatever_the_defaults_are_now() {
    let vary = VaryDraft {
        of: None,
        knob: "number".into(),
        range: VaryRange::List([2.0, 4.0, 6.0].map(KnobValue::Number).to_vec()),
    };
    let entrants = ["a", "b"].map(|name| caller(name, Knobs::default())).to_vec();
    let kind = KindDraft::Sweep(SweepDraft { vary: vec![vary], target: None });
    let sweep = StudyDraft { asked: kind, ..draft(entrants, luck(3.0), 40) };
    let folder = tempfile::tempdir().unwrap();
    let mut first = Trial::new(folder.path(), 2, &sweep);
    let stored = write_plan(&first.plan).unwrap();
    first.sit(1, u64::MAX);
    // Another version: another default for those who set no number, another curve for what follows it.
    let registry = crate::tiny::registry_with(2, 9, |number| number);
    assert_ne!(resolve(&sweep, &registry).unwrap(), first.plan, "planned anew it is another study");
    let plan: StudyPlan = read_plan(&stored).unwrap();
    assert_eq!(plan, first.plan);
    let halt = Halt::new();
    let game = registry.game("highest").unwrap();
    let job = PlanJob::new(&plan, game, &halt);
    let answer = job.worker()(&Task::Blocks(0..plan.total_blocks()));
    let Answer::Rows { rows: again, .. } = answer else { panic!("{answer:?}") };
    let untimed = |mut rows: Rows| {
        rows.rows.iter_mut().for_each(|row| row.decision_us = 0.0);
        rows
    };
    assert_eq!(untimed(again), untimed(first.rows()));
    let other = stored.replacen("\"format\":1", "\"format\":99", 1);
    assert!(matches!(read_plan::<StudyPlan>(&other), Err(PlanFileError::Format { found: 99 })));
}
