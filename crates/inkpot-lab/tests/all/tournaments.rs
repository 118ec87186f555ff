//! Tournaments and comparisons over a tiny game: who meets whom, what is rated, when it stops, and that no thread, stop
//! or damage changes it.

use std::path::Path;

use inkpot_core::{Halt, KnobValue, Knobs, Registry};
use inkpot_lab::{
    CompareDraft, Draft, EntrantDraft, Event, Format, KindDraft, Requirement, Runner, Sitting, StudyDraft, StudyPlan,
    StudySummary, Threads, TournamentDraft, VaryRange, Verdict, drawn, resolve, summarise,
};
use inkpot_ledger::{Manifest, Study};
use inkpot_stats::Interval;
use proptest::prelude::*;

/// Entrants who name these numbers.
fn callers(numbers: &[f64]) -> Vec<EntrantDraft> {
    let caller = |(index, number): (usize, &f64)| EntrantDraft {
        name: Some(format!("c{index}")),
        agent: "caller".into(),
        knobs: Knobs::default().with("number", *number),
        vary: Vec::new(),
    };
    numbers.iter().enumerate().map(caller).collect()
}

fn tournament_with(draft: TournamentDraft, numbers: &[f64], matches: u64, luck: f64) -> StudyDraft {
    StudyDraft { asked: KindDraft::Tournament(draft), ..tournament(Format::Swiss, numbers, matches, luck) }
}

fn tournament(format: Format, numbers: &[f64], matches: u64, luck: f64) -> StudyDraft {
    let shared = Draft {
        game: "highest".into(),
        seed: Some(4),
        matches: Some(matches),
        rules: Knobs::default().with("luck", luck),
        entrants: callers(numbers),
        ..Draft::default()
    };
    let kind = KindDraft::Tournament(TournamentDraft { format: Some(format), ..TournamentDraft::default() });
    StudyDraft { shared, asked: kind }
}

const UNTIL_CLEAR: CompareDraft = CompareDraft { until_clear: true, equal_within: None, require: None, smallest: None };

fn compare_with(draft: CompareDraft, numbers: &[f64], matches: u64, luck: f64) -> StudyDraft {
    StudyDraft { asked: KindDraft::Compare(draft), ..compare(numbers, matches, luck) }
}

fn compare(numbers: &[f64], matches: u64, luck: f64) -> StudyDraft {
    StudyDraft { asked: KindDraft::Compare(UNTIL_CLEAR), ..tournament(Format::Swiss, numbers, matches, luck) }
}

struct Trial {
    registry: Registry,
    plan: StudyPlan,
    study: Study,
    manifest: Manifest,
    _folder: tempfile::TempDir,
}

impl Trial {
    fn new(seats: usize, draft: &StudyDraft) -> Self {
        let folder = tempfile::tempdir().unwrap();
        let registry = crate::tiny::registry(seats);
        let plan = resolve(draft, &registry).expect("the draft is fine");
        let (study, manifest) = crate::begin::begun(folder.path(), &plan);
        Self { registry, plan, study, manifest, _folder: folder }
    }

    /// Plays on this many threads until this many blocks are done, from the plan as it was resolved.
    fn sit(&mut self, threads: usize, stop_after: u64) -> Sitting {
        let halt = Halt::new();
        let threads = Threads(threads);
        let runner = Runner::new(&self.plan, self.registry.game("highest").unwrap(), &threads, &halt);
        let mut listener = |event: &Event| {
            if matches!(event, Event::Played { done, .. } if *done >= stop_after) {
                halt.call();
            }
        };
        runner.play(&self.study, &mut self.manifest, &mut listener).unwrap().0
    }

    fn summary(&self) -> StudySummary {
        let game = self.registry.game("highest").unwrap();
        let plan = drawn(&self.study, &self.manifest, self.plan.clone(), game).unwrap();
        summarise(&self.study, &self.manifest, &plan, game).unwrap().0
    }
}

fn summary(seats: usize, draft: &StudyDraft) -> StudySummary {
    let mut desk = Trial::new(seats, draft);
    assert_eq!(desk.sit(2, u64::MAX), Sitting::Complete);
    desk.summary()
}

#[test]
fn a_ladder_is_rated_in_its_order() {
    let found = summary(2, &tournament(Format::RoundRobin, &[1.0, 5.0, 3.0, 9.0], 200, 12.0));
    let order: Vec<&str> = found.ratings().iter().map(|rating| rating.name.as_str()).collect();
    assert_eq!(order, ["c3", "c1", "c2", "c0"]);
    assert!(found.ratings().iter().all(|rating| rating.rating.is_some_and(|interval| interval.low < interval.value)));
    assert!(found.ratings()[0].stronger_than_next.unwrap() > 0.99);
    let mean: f64 = found.ratings().iter().filter_map(|rating| Some(rating.rating?.value)).sum();
    assert!(mean.abs() < 1e-6, "{mean}");
    let tournament = found.tournament().unwrap();
    assert_eq!((tournament.groups, tournament.circles.count, tournament.progress.len()), (1, 0, 3));
    // The seats are alike in this game.
    assert!(tournament.first_seat.unwrap().holds(0.0));
}

#[test]
fn a_field_of_two_is_rated_too() {
    let found = summary(2, &tournament(Format::RoundRobin, &[5.0, 3.0], 200, 10.0));
    let apart = found.ratings()[0].rating.unwrap().value - found.ratings()[1].rating.unwrap().value;
    // One pairing: what is expected is what was seen, but for the one match that each is taken to have halved.
    let rate = found.pairings[0].win_rate.unwrap().value;
    let expected = found.pairings[0].expected.unwrap();
    assert!(apart > 0.0 && (rate - expected).abs() < 0.01, "{rate} {expected}");
}

#[test]
fn an_anchor_stands_at_zero() {
    let asked = TournamentDraft { anchor: Some("c0".into()), ..TournamentDraft::default() };
    let draft = tournament_with(asked, &[1.0, 5.0, 3.0], 100, 12.0);
    let found = summary(2, &draft);
    let of = |name: &str| found.ratings().iter().find(|rating| rating.name == name).unwrap().rating.unwrap();
    assert_eq!((of("c0").value, of("c0").low, of("c0").high), (0.0, 0.0, 0.0));
    assert!(of("c1").value > of("c2").value && of("c2").value > 0.0);
}

#[test]
fn rock_paper_scissors_is_reported_as_a_circle() {
    let mut draft = tournament(Format::RoundRobin, &[0.0, 1.0, 2.0], 60, 0.0);
    draft.rules = Knobs::default().with("round", 1.0).with("luck", 1.2);
    let found = summary(2, &draft);
    let circles = &found.tournament().unwrap().circles;
    assert_eq!((circles.count, circles.threes), (1, 1));
    assert_eq!(circles.clearest, [["c0", "c2", "c1"]]);
    assert!(circles.p < 0.01 && circles.by_chance < 0.01, "{circles:?}");
    assert!(
        found.notes.iter().any(|note| note.contains("circle") && note.contains("c0 beats c2 beats c1")),
        "{:?}",
        found.notes
    );
    // Ratings see three equals; the pairs tell the story.
    assert!(found.ratings().iter().all(|rating| rating.rating.unwrap().holds(0.0)));
    assert!(found.tournament().unwrap().residuals[0].p_adjusted < 0.01);
}

#[test]
fn a_swiss_tournament_finds_the_order_with_few_pairings() {
    let numbers: Vec<f64> = (0..20).map(|index| f64::from(index / 2)).collect();
    let asked = TournamentDraft { format: Some(Format::Swiss), rounds: Some(7), ..TournamentDraft::default() };
    let draft = tournament_with(asked, &numbers, 20, 10.0);
    let found = summary(2, &draft);
    assert_eq!(found.pairings.len(), 7 * 10);
    let place = |name: &str| found.ratings().iter().position(|rating| rating.name == name).unwrap();
    assert!(place("c19") < 5 && place("c0") > 14, "{:?}", found.ratings());
    let rounds = &found.tournament().unwrap().rounds;
    assert_eq!(rounds.len(), 7);
    assert!(rounds.iter().all(|round| round.sitting_out.is_empty()));
}

#[test]
fn rounds_have_chance_of_their_own() {
    let mut desk = Trial::new(2, &tournament(Format::Swiss, &[1.0, 2.0, 3.0, 4.0], 10, 5.0));
    desk.sit(1, u64::MAX);
    let mut blocks = std::collections::BTreeMap::new();
    desk.study
        .visit(&desk.manifest, &crate::tiny::measures(&desk.registry), |rows| {
            for row in &rows.rows {
                blocks
                    .entry(row.block)
                    .or_insert_with(std::collections::BTreeSet::new)
                    .insert((row.cell / 2, row.world_seed));
            }
            Ok(())
        })
        .unwrap();
    assert_eq!(blocks.len(), 2 * 5);
    assert!(blocks.values().all(|rounds| rounds.len() == 1), "a block belongs to one round and has one world");
}

#[test]
fn a_knockout_has_one_winner_and_byes_for_the_best_seeds() {
    let found = summary(2, &tournament(Format::Knockout, &[9.0, 7.0, 5.0, 3.0, 2.0, 1.0], 10, 0.0));
    let tournament = found.tournament().unwrap();
    assert_eq!(tournament.rounds[0].sitting_out, ["c0", "c1"]);
    assert_eq!(tournament.rounds.len(), 3);
    assert_eq!(tournament.rounds[2].tables[0].through.as_deref(), Some("c0"));
    let placements: Vec<(&str, Option<usize>)> =
        found.ratings().iter().map(|rating| (rating.name.as_str(), rating.placement)).collect();
    assert_eq!(placements[..2], [("c0", Some(1)), ("c1", Some(2))]);
    assert_eq!(placements[2..].iter().filter(|(_, placement)| *placement == Some(3)).count(), 2);
}

#[test]
fn a_level_knockout_goes_to_the_better_seed_and_says_so() {
    let found = summary(2, &tournament(Format::Knockout, &[4.0, 4.0], 10, 0.0));
    let last = &found.tournament().unwrap().rounds[0].tables[0];
    assert_eq!((last.through.as_deref(), last.by_seed), (Some("c0"), true));
    assert!(found.notes.iter().any(|note| note.contains("better seed")), "{:?}", found.notes);
}

#[test]
fn tables_of_three_are_rated_too() {
    let found = summary(3, &tournament(Format::RoundRobin, &[1.0, 4.0, 7.0, 9.0], 120, 15.0));
    let order: Vec<&str> = found.ratings().iter().map(|rating| rating.name.as_str()).collect();
    assert_eq!(order, ["c3", "c2", "c1", "c0"]);
    assert_eq!(found.pairings.len(), 6);
    for pairing in &found.pairings {
        // Each two of four sit at two of the four tables, 120 matches each.
        assert_eq!((pairing.matches, pairing.wins + pairing.draws + pairing.losses), (240, 240));
        let share = (pairing.wins as f64 + pairing.draws as f64 / 2.0) / 240.0;
        assert!((pairing.win_rate.unwrap().value - share).abs() < 1e-9 && pairing.expected.is_some(), "{pairing:?}");
    }
    let swiss = summary(3, &tournament(Format::Swiss, &[1.0, 4.0, 7.0, 9.0, 2.0, 3.0, 5.0], 30, 15.0));
    assert_eq!(swiss.tournament().unwrap().rounds[0].sitting_out.len(), 1);
}

#[test]
fn an_entrant_that_faults_every_move_is_ranked_last_and_told() {
    // No number above 9 counts.
    let found = summary(2, &tournament(Format::RoundRobin, &[5.0, 20.0, 4.0], 40, 3.0));
    assert_eq!(found.ratings().last().unwrap().name, "c1");
    assert!(found.notes.iter().any(|note| note.contains("`c1` made 80 faults in 80 matches")), "{:?}", found.notes);
}

#[test]
fn a_grid_of_knobs_is_a_field() {
    let mut draft = tournament(Format::RoundRobin, &[2.0], 10, 5.0);
    let grid = VaryRange::List([1.0, 3.0, 5.0].map(KnobValue::Number).to_vec());
    draft.entrants.push(EntrantDraft {
        name: Some("grid".into()),
        agent: "caller".into(),
        vary: vec![("number".into(), grid)],
        ..EntrantDraft::default()
    });
    let plan = resolve(&draft, &crate::tiny::registry(2)).unwrap();
    let names: Vec<&str> = plan.entrants.iter().map(|entrant| entrant.name.as_str()).collect();
    assert_eq!(names, ["c0", "grid number 1", "grid number 3", "grid number 5"]);
    assert_eq!((plan.total_cells(), plan.rounds.len()), (6, 3));
}

#[test]
fn what_a_kind_cannot_do_is_refused_at_its_key() {
    let knockout = TournamentDraft { format: Some(Format::Knockout), rounds: Some(3), ..TournamentDraft::default() };
    let stranger = TournamentDraft { anchor: Some("nobody".into()), ..TournamentDraft::default() };
    let wide = CompareDraft { equal_within: Some(0.7), ..CompareDraft::default() };
    let cases: [(StudyDraft, &str); 4] = [
        (tournament_with(knockout, &[1.0, 2.0], 4, 0.0), "rounds"),
        (tournament_with(stranger, &[1.0, 2.0], 4, 0.0), "anchor"),
        (StudyDraft { asked: KindDraft::Compare(wide), ..compare(&[1.0, 2.0], 4, 0.0) }, "equal_within"),
        (tournament(Format::Swiss, &[1.0], 4, 0.0), "entrant"),
    ];
    for (draft, key) in cases {
        let problems = resolve(&draft, &crate::tiny::registry(2)).unwrap_err();
        assert!(problems.iter().any(|problem| problem.at == key.into()), "{key}: {problems:?}");
    }
}

#[test]
fn a_clear_comparison_stops_early_and_an_even_one_at_its_cap() {
    let clear = summary(2, &compare(&[6.0, 4.0], 4000, 10.0));
    let comparison = clear.comparison().unwrap();
    assert_eq!(comparison.verdict, Verdict::Better);
    assert!(comparison.matches < 1000 && comparison.clear_at == Some(comparison.blocks), "{comparison:?}");
    assert!(comparison.win_rate.unwrap().low > 0.5);
    assert_eq!(clear.matches, comparison.matches);
    let even = summary(2, &compare(&[5.0, 5.0], 400, 10.0));
    let comparison = even.comparison().unwrap();
    assert_eq!((comparison.verdict, comparison.matches, comparison.clear_at), (Verdict::Open, 400, None));
}

#[test]
fn equals_are_found_equal_within_the_band() {
    let draft = compare_with(CompareDraft { equal_within: Some(0.1), ..UNTIL_CLEAR }, &[5.0, 5.0], 20_000, 10.0);
    let comparison = summary(2, &draft).comparison().unwrap().clone();
    assert_eq!(comparison.verdict, Verdict::Equal);
    let interval = comparison.win_rate.unwrap();
    assert!(interval.low > 0.4 && interval.high < 0.6, "{interval:?}");
}

#[test]
fn two_against_the_same_others_are_compared_by_their_difference() {
    let comparison = summary(2, &compare(&[7.0, 4.0, 5.0, 6.0], 8000, 10.0)).comparison().unwrap().clone();
    assert_eq!(
        (comparison.against.as_slice(), comparison.verdict),
        (["c2".to_string(), "c3".to_string()].as_slice(), Verdict::Better)
    );
    assert!(comparison.win_rate.is_none() && comparison.difference.unwrap().low > 0.0);
    // Four pairings of two matches a block.
    assert_eq!(comparison.matches, comparison.blocks * 8);
}

#[test]
fn not_worse_is_met_by_an_equal_and_not_by_a_worse_one() {
    let planned = |numbers: &[f64]| {
        let draft = CompareDraft { require: Some(Requirement::NotWorse), equal_within: Some(0.1), ..UNTIL_CLEAR };
        compare_with(draft, numbers, 20_000, 10.0)
    };
    assert_eq!(summary(2, &planned(&[5.0, 5.0])).comparison().unwrap().clone().met, Some(true));
    assert_eq!(summary(2, &planned(&[2.0, 5.0])).comparison().unwrap().clone().met, Some(false));
}

#[test]
fn a_comparison_that_is_always_the_same_match_ends_once_that_is_known() {
    let compared = |numbers: &[f64]| summary(2, &compare(numbers, 200, 0.0)).comparison().unwrap().clone();
    let (better, same) = (compared(&[6.0, 4.0]), compared(&[4.0, 4.0]));
    // Nothing draws chance, so the first block is all there is to see.
    assert_eq!((better.verdict, same.verdict), (Verdict::Better, Verdict::Equal));
    assert_eq!((same.blocks, same.win_rate), (1, Some(Interval::exactly(0.5))));
    assert_eq!(better.blocks, 1);
}

fn folder_of(desk: &Trial) -> &Path {
    desk.study.folder()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn no_stop_or_thread_changes_what_comes_out(
        stops in proptest::collection::vec(1u64..60, 0..4),
        threads in 1usize..4,
        which in 0usize..5,
    ) {
        let numbers = [6.0, 4.0, 5.0, 7.0, 3.0];
        let draft = match which {
            0 => tournament(Format::Swiss, &numbers, 20, 10.0),
            1 => tournament(Format::Knockout, &numbers, 20, 10.0),
            2 => compare(&numbers[..2], 400, 10.0),
            // Decided after twenty blocks.
            3 => compare(&[4.0, 4.0], 400, 0.0),
            _ => compare(&numbers[..3], 400, 10.0),
        };
        let whole = summary(2, &draft);
        let mut desk = Trial::new(2, &draft);
        for stop in stops {
            let before = desk.manifest.blocks_done;
            desk.sit(threads, before + stop);
        }
        prop_assert_eq!(desk.sit(threads, u64::MAX), Sitting::Complete);
        prop_assert_eq!(desk.summary(), whole);
        prop_assert!(folder_of(&desk).exists());
    }
}

#[test]
fn a_damaged_part_of_a_comparison_is_played_again_to_the_same_end() {
    let draft = compare(&[6.0, 5.0], 4000, 10.0);
    let whole = summary(2, &draft);
    let mut desk = Trial::new(2, &draft);
    desk.sit(1, 5);
    desk.sit(1, 20);
    let part = desk.study.parts(&desk.manifest).remove(0);
    std::fs::write(&part.path, b"not rows").unwrap();
    desk.sit(2, u64::MAX);
    assert_eq!(desk.summary(), whole);
}
