//! Tables of three and more: who meets whom, what a place is worth, and what is told of seats.

use inkpot_core::{Halt, Knobs, Registry, Rows};
use inkpot_lab::{
    Draft, EntrantDraft, Format, KindDraft, Runner, StudyDraft, StudyPlan, StudySummary, Threads, TournamentDraft,
    resolve, summarise,
};

fn callers(numbers: &[f64]) -> Vec<EntrantDraft> {
    let entrant = |(place, number): (usize, &f64)| EntrantDraft {
        name: Some(format!("c{place}")),
        agent: "caller".into(),
        knobs: Knobs::default().with("number", *number),
        vary: Vec::new(),
    };
    numbers.iter().enumerate().map(entrant).collect()
}

fn draft(numbers: &[f64], luck: f64, matches: u64, kind: KindDraft) -> StudyDraft {
    let shared = Draft {
        game: "highest".into(),
        seed: Some(9),
        matches: Some(matches),
        rules: Knobs::default().with("luck", luck),
        entrants: callers(numbers),
        ..Draft::default()
    };
    StudyDraft { shared, asked: kind }
}

fn batch(numbers: &[f64], luck: f64, matches: u64) -> StudyDraft {
    draft(numbers, luck, matches, KindDraft::Batch)
}

fn played(registry: &Registry, draft: &StudyDraft, threads: usize) -> (StudyPlan, Rows, StudySummary) {
    let plan = resolve(draft, registry).expect("the draft is fine");
    let game = registry.game("highest").expect("the game is there");
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = crate::begin::begun(folder.path(), &plan);
    let halt = Halt::new();
    let (_, plan) = Runner::new(&plan, game, &Threads(threads), &halt)
        .play(&study, &mut manifest, &mut |_| {})
        .expect("it is played");
    let names = crate::tiny::measures(registry);
    let mut rows = Rows::new(names.len());
    let keep = |part: &Rows| {
        rows.append(&mut part.clone());
        Ok(())
    };
    study.visit(&manifest, &names, keep).expect("it is complete");
    let summary = summarise(&study, &manifest, &plan, game).expect("it is complete").0;
    (plan, rows, summary)
}

#[test]
fn every_table_that_there_can_be_is_played_in_every_order_of_seats() {
    for (seats, entrants, tables) in [(3, 5, 10), (4, 5, 5), (4, 4, 1), (3, 3, 1)] {
        let numbers: Vec<f64> = (0..entrants).map(f64::from).collect();
        let (plan, rows, _) = played(&crate::tiny::registry(seats), &batch(&numbers, 5.0, 2 * seats as u64), 2);
        assert_eq!((plan.cells.len(), plan.rounds.as_slice()), (tables, &[tables][..]));
        let mut met: Vec<Vec<usize>> = plan.cells.iter().map(|cell| cell.entrants.clone()).collect();
        for table in &mut met {
            table.sort_unstable();
        }
        met.sort();
        met.dedup();
        assert_eq!(met.len(), tables, "no table twice");
        for block in rows.blocks() {
            for &entrant in &plan.cells[block.cell()].entrants {
                let seatings = block.matches().filter_map(|played| played.seat_of(entrant));
                let mut taken: Vec<usize> = seatings.collect();
                taken.sort_unstable();
                assert_eq!(taken, (0..seats).collect::<Vec<_>>(), "every seat once");
            }
        }
    }
}

#[test]
fn a_place_is_worth_the_share_of_those_behind_it() {
    // No luck: the highest number is first, the next second, whatever the seats.
    let (_, _, summary) = played(&crate::tiny::registry(4), &batch(&[1.0, 3.0, 3.0, 7.0], 0.0, 40), 2);
    let rates: Vec<f64> = summary.entrants.iter().map(|entrant| entrant.win_rate.expect("a rate").value).collect();
    // Behind all; ahead of one and beside one of three; the same; ahead of all three. Jeffreys' interval is drawn in a
    // little, so that the ends are not quite 0 and 1.
    for (rate, expected) in rates.iter().zip([0.0, 0.5, 0.5, 1.0]) {
        assert!((rate - expected).abs() < 0.02, "{rates:?}");
    }
    let record = |i: usize| (summary.entrants[i].wins, summary.entrants[i].draws, summary.entrants[i].losses);
    assert_eq!((record(3), record(0)), ((40, 0, 0), (0, 0, 40)));
}

#[test]
fn points_of_a_table_sum_to_half_its_seats() {
    for seats in 2..=6 {
        let numbers: Vec<f64> = (0..seats).map(|i| (i % 4) as f64).collect();
        let (_, rows, _) = played(&crate::tiny::registry(seats), &batch(&numbers, 3.0, 30), 2);
        for played in rows.matches() {
            let sum: f64 = (0..seats).map(|seat| played.points(seat)).sum();
            assert!((sum - seats as f64 / 2.0).abs() < 1e-12, "{seats} seats: {sum}");
        }
    }
}

#[test]
fn equals_at_a_table_of_three_take_half_each() {
    let (_, _, summary) = played(&crate::tiny::registry(3), &batch(&[4.0, 4.0, 4.0], 6.0, 1800), 2);
    for entrant in &summary.entrants {
        let rate = entrant.win_rate.expect("a rate");
        assert!(rate.holds(0.5) && rate.half_width() < 0.04, "{}: {rate:?}", entrant.name);
    }
    assert!(summary.first_seat.is_none_or(|first| first.holds(0.5)), "{:?}", summary.first_seat);
}

#[test]
fn a_tournament_at_tables_of_four_ranks_its_field_and_gives_every_pair() {
    let asked = TournamentDraft { format: Some(Format::RoundRobin), ..TournamentDraft::default() };
    let draft = draft(&[1.0, 6.0, 3.0, 5.0, 2.0], 6.0, 240, KindDraft::Tournament(asked));
    let (_, _, summary) = played(&crate::tiny::registry(4), &draft, 2);
    let names: Vec<&str> = summary.ratings().iter().map(|rating| rating.name.as_str()).collect();
    assert_eq!(names, ["c1", "c3", "c2", "c4", "c0"]);
    assert_eq!(summary.pairings.len(), 10, "all pairs of five meet, three others at the table or not");
    for pairing in &summary.pairings {
        let (rate, expected) = (pairing.win_rate.expect("they met").value, pairing.expected.expect("both are rated"));
        assert!((rate - expected).abs() < 0.12, "{} and {}: {rate}, by rating {expected}", pairing.a, pairing.b);
    }
}

#[test]
fn a_swiss_tournament_of_tables_seats_everybody_once_a_round() {
    let numbers: Vec<f64> = (0..9).map(f64::from).collect();
    let asked = TournamentDraft { format: Some(Format::Swiss), rounds: Some(4), ..TournamentDraft::default() };
    let draft = draft(&numbers, 6.0, 30, KindDraft::Tournament(asked));
    let (plan, _, summary) = played(&crate::tiny::registry(3), &draft, 2);
    assert_eq!(plan.rounds, [3, 3, 3, 3]);
    for (round, cells) in plan.cells.chunks(3).enumerate() {
        let mut seated: Vec<usize> = cells.iter().flat_map(|cell| cell.entrants.iter().copied()).collect();
        seated.sort_unstable();
        assert_eq!(seated, (0..9).collect::<Vec<_>>(), "round {round}");
    }
    let names: Vec<&str> = summary.ratings().iter().map(|rating| rating.name.as_str()).collect();
    assert!(names[..3].contains(&"c8") && names[6..].contains(&"c0"), "{names:?}");
}

#[test]
fn threads_change_nothing_at_tables_of_three() {
    let of = |threads: usize| {
        let (_, mut rows, summary) = played(&crate::tiny::registry(3), &batch(&[1.0, 4.0, 5.0, 3.0], 6.0, 90), threads);
        rows.rows.iter_mut().for_each(|row| {
            row.decision_us = 0.0;
            row.decision_times = None;
        });
        (rows, summary)
    };
    assert_eq!(of(1), of(3));
}
