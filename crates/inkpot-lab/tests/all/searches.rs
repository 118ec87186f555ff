//! The loop of all searches, with a search that climbs to the number that wins most: order, threads, stopping, and several
//! side by side.

use std::collections::BTreeMap;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};

use inkpot_core::{Casting, Halt, Knobs, Level, Registry, Rows, Seating, Setting};
use inkpot_lab::{
    Ask, Fell, Piece, Play, Results, SearchError, SearchJob, SearchRound, SearchWork, Searching, Sitting, State,
    Threads, search,
};

const GOAL: f64 = 7.0;
const BLOCKS: u64 = 20;

/// Tries the numbers beside its own against the goal, and goes to the better one until neither is.
struct Climber {
    registry: Registry,
    seed: u64,
    at: i64,
    /// Share of points by number.
    seen: BTreeMap<i64, f64>,
    asked: Vec<i64>,
    rounds: u64,
}

impl Climber {
    fn new(from: i64, seed: u64) -> Self {
        let seen = BTreeMap::new();
        Self { registry: crate::tiny::registry(2), seed, at: from, seen, asked: Vec::new(), rounds: 0 }
    }

    fn setting(&self, number: i64) -> Setting {
        let game = self.registry.game("highest").expect("the game is there");
        let casting = |entrant: u16, number: f64| {
            let knobs = Knobs::default().with("number", number).resolve(&game.agents()[0].knobs).expect("allowed");
            Casting::new(entrant, "caller", knobs)
        };
        Setting {
            rules: Knobs::default().with("luck", 4.0).resolve(&game.sheet().rules).expect("allowed"),
            level: Level::named("table", Knobs::default()),
            cast: vec![casting(0, number as f64), casting(1, GOAL)],
            seating: Seating::rotated(2),
            study_seed: self.seed,
            pairing: 0,
        }
    }

    /// The numbers beside its own that were not tried.
    fn open(&self) -> Vec<i64> {
        let beside = [self.at - 1, self.at, self.at + 1];
        beside.into_iter().filter(|number| (0..=9).contains(number) && !self.seen.contains_key(number)).collect()
    }
}

impl Searching for Climber {
    fn next(&mut self) -> Ask {
        self.asked = self.open();
        if self.asked.is_empty() {
            return Ask::Finished;
        }
        let play = |number: &i64| Play::new(vec![self.setting(*number)], 0, BLOCKS);
        Ask::Play(self.asked.iter().map(play).collect())
    }

    fn take(&mut self, results: Results) {
        for (number, blocks) in self.asked.clone().into_iter().zip(results) {
            let order: Vec<f64> = blocks.iter().map(|figures| figures[1]).collect();
            assert_eq!(order, (0..BLOCKS).map(|block| block as f64).collect::<Vec<_>>(), "blocks come in order");
            let mean = blocks.iter().map(|figures| figures[0]).sum::<f64>() / BLOCKS as f64;
            self.seen.insert(number, mean);
        }
        let better = |a: &(&i64, &f64), b: &(&i64, &f64)| a.1.total_cmp(b.1);
        self.at = *self.seen.iter().max_by(better).expect("something was seen").0;
        self.rounds += 1;
    }

    fn checkpoint(&self) -> String {
        format!("{} {:?}", self.at, self.seen)
    }

    fn history(&self) -> String {
        self.checkpoint()
    }

    fn round(&self) -> SearchRound {
        let rounds = self.seen.len() as u64;
        SearchRound { rounds, unit: "matches", spent: 2 * BLOCKS * rounds, most: 400, choice: self.at.to_string() }
    }
}

/// Reads points off blocks, and counts them.
struct Reading<'a>(&'a AtomicU64);

impl SearchWork for Reading<'_> {
    fn figures(&self, _reading: usize, rows: &[Rows]) -> Vec<f64> {
        self.0.fetch_add(1, Ordering::Relaxed);
        let block = rows[0].blocks().next().expect("a block was played");
        vec![block.points(0).expect("no match is void"), block.number() as f64]
    }
}

/// Searches until `keep` errs, or calls the halt; gives how it ended, and how many blocks were read.
fn searched(
    climber: &mut Climber,
    results: &mut Results,
    threads: usize,
    halt: &Halt,
    keep: impl FnMut(&Climber, &Results) -> Result<(), SearchError>,
) -> (Result<Sitting, SearchError>, u64) {
    let (registry, read) = (crate::tiny::registry(2), AtomicU64::new(0));
    let game = registry.game("highest").expect("the game is there");
    let job = SearchJob::new(Box::new(Reading(&read)), game, halt, String::new());
    let ended = search(climber, &job, &Threads(threads), halt, results, keep);
    drop(job);
    (ended, read.into_inner())
}

/// Runs a search; gives its checkpoint after every round, and how many blocks were read.
fn run(climber: &mut Climber, threads: usize) -> (Vec<String>, u64) {
    let mut checkpoints = Vec::new();
    let (ended, read) = searched(climber, &mut Results::new(), threads, &Halt::never(), |climber, results| {
        if results.is_empty() {
            checkpoints.push(climber.checkpoint());
        }
        Ok(())
    });
    assert_eq!(ended, Ok(Sitting::Complete));
    (checkpoints, read)
}

#[test]
fn a_search_is_asked_and_shown_until_it_has_finished() {
    let mut climber = Climber::new(1, 5);
    let (checkpoints, _) = run(&mut climber, 2);
    assert_eq!(climber.at, 9, "{:?}", climber.seen);
    assert_eq!(climber.rounds as usize, checkpoints.len());
    assert!(climber.seen[&9] > climber.seen[&5] && climber.seen[&5] > climber.seen[&1]);
}

#[test]
fn threads_change_nothing() {
    let of = |threads: usize| run(&mut Climber::new(2, 8), threads).0;
    let first = of(1);
    for threads in [2, 3, 7] {
        assert_eq!(of(threads), first, "{threads} threads");
    }
}

/// Searches until `keep` was called this often.
fn stopped(climber: &mut Climber, results: &mut Results, calls: usize, threads: usize) -> (Sitting, u64) {
    let (halt, mut called) = (Halt::new(), 0);
    let (ended, read) = searched(climber, results, threads, &halt, |_, _| {
        called += 1;
        if called == calls {
            halt.call();
        }
        Ok(())
    });
    (ended.expect("it is stopped or has finished"), read)
}

#[test]
fn a_search_that_is_stopped_goes_on_within_the_round() {
    let mut whole = Climber::new(1, 5);
    let (_, blocks) = run(&mut whole, 2);
    for calls in 1.. {
        let (mut climber, mut results) = (Climber::new(1, 5), Results::new());
        let (ended, before) = stopped(&mut climber, &mut results, calls, 1);
        if ended == Sitting::Complete {
            assert!(calls > 20, "{calls} calls to the end");
            break;
        }
        let (ended, after) = stopped(&mut climber, &mut results, usize::MAX, 1);
        assert_eq!(ended, Sitting::Complete);
        assert_eq!(climber.checkpoint(), whole.checkpoint(), "after {calls} calls");
        // The block that was under way is played again, and the rest of its run.
        assert!(before + after <= blocks + 40, "{before} and {after} for {blocks}");
    }
}

#[test]
fn what_was_seen_of_another_round_is_not_taken() {
    let mut climber = Climber::new(1, 5);
    let mut seen = vec![vec![vec![1.0, 0.0]; 5]; 2];
    assert_eq!(stopped(&mut climber, &mut seen, usize::MAX, 2).0, Sitting::Complete);
    let mut whole = Climber::new(1, 5);
    run(&mut whole, 2);
    assert_eq!(climber.checkpoint(), whole.checkpoint());
}

fn full() -> SearchError {
    SearchError::Fell(Fell("the disk is full".into()))
}

#[test]
fn what_cannot_be_kept_ends_the_search() {
    let mut climber = Climber::new(1, 5);
    let (ended, _) = searched(&mut climber, &mut Results::new(), 2, &Halt::never(), |_, results| {
        if results.is_empty() { Err(full()) } else { Ok(()) }
    });
    assert_eq!(ended, Err(full()));
    assert_eq!(climber.rounds, 1);
    let (ended, _) = searched(&mut climber, &mut Results::new(), 2, &Halt::never(), |_, _| Err(full()));
    assert_eq!((ended, climber.rounds), (Err(full()), 1), "within a round, too");
}

#[test]
fn a_search_that_is_finished_plays_nothing() {
    let mut finished = Climber::new(9, 5);
    finished.seen = (0..=9).map(|number| (number, 0.5)).collect();
    assert_eq!(run(&mut finished, 2), (Vec::new(), 0));
}

#[test]
fn asked_again_a_search_says_the_same() {
    let mut climber = Climber::new(4, 5);
    let Ask::Play(first) = climber.next() else { panic!("it has just begun") };
    let Ask::Play(again) = climber.next() else { panic!("it was shown nothing") };
    assert_eq!(again, first);
}

/// Works in pieces of its own: each counts up to three, once a round.
struct Counting {
    counts: Vec<u64>,
    /// The piece that cannot be gone on with.
    bad: Option<usize>,
    stuck: Option<String>,
}

impl Searching for Counting {
    fn next(&mut self) -> Ask {
        if let Some(why) = &self.stuck {
            return Ask::Stuck(why.clone());
        }
        let open = self.counts.iter().enumerate().filter(|(_, count)| **count < 3);
        let piece = |(number, count): (usize, &u64)| {
            let state =
                if self.bad == Some(number) { State::of(Arc::new("no count")) } else { State::of(Arc::new(*count)) };
            Piece { number, state }
        };
        let pieces: Vec<Piece> = open.map(piece).collect();
        if pieces.is_empty() { Ask::Finished } else { Ask::Work(pieces) }
    }

    fn take(&mut self, _: Results) {
        unreachable!("it plays nothing")
    }

    fn take_piece(&mut self, number: usize, state: State) {
        self.counts[number] = *state.into_value().expect("a count");
    }

    fn take_stuck(&mut self, why: String) {
        self.stuck = Some(why);
    }

    fn checkpoint(&self) -> String {
        format!("{:?}", self.counts)
    }

    fn history(&self) -> String {
        String::new()
    }

    fn round(&self) -> SearchRound {
        SearchRound { rounds: 0, unit: "pieces", spent: 0, most: 0, choice: String::new() }
    }
}

struct Adding;

impl SearchWork for Adding {
    fn figures(&self, _: usize, _: &[Rows]) -> Vec<f64> {
        unreachable!("it plays nothing")
    }

    fn go_on(&self, piece: &Piece, _: &Halt) -> Result<State, String> {
        let count: Arc<u64> = piece.state.clone().into_value()?;
        Ok(State::of(Arc::new(*count + 1)))
    }
}

/// Counts; gives how it ended, and the counts whenever it is shown.
fn counted(counting: &mut Counting, threads: usize) -> (Result<Sitting, SearchError>, Vec<String>) {
    let registry = crate::tiny::registry(2);
    let game = registry.game("highest").expect("the game is there");
    let halt = Halt::never();
    let job = SearchJob::new(Box::new(Adding), game, &halt, String::new());
    let mut counts = Vec::new();
    let ended = search(counting, &job, &Threads(threads), &halt, &mut Results::new(), |counting, results| {
        assert!(results.is_empty(), "work shows nothing");
        counts.push(counting.checkpoint());
        Ok(())
    });
    (ended, counts)
}

#[test]
fn each_piece_of_work_is_done_once_a_round_on_any_number_of_threads() {
    for threads in [1, 2, 5] {
        let mut counting = Counting { counts: vec![1, 2, 1], bad: None, stuck: None };
        let (ended, counts) = counted(&mut counting, threads);
        assert_eq!(ended, Ok(Sitting::Complete));
        let expected = ["[2, 2, 1]", "[2, 3, 1]", "[2, 3, 2]", "[3, 3, 2]", "[3, 3, 3]"];
        assert_eq!(counts, expected, "{threads} threads");
    }
}

#[test]
fn work_that_cannot_be_gone_on_with_ends_the_search() {
    let mut counting = Counting { counts: vec![1, 1], bad: Some(1), stuck: None };
    let (ended, counts) = counted(&mut counting, 2);
    assert!(matches!(ended, Err(SearchError::Stuck(why)) if why.contains("other work")));
    assert_eq!(counts, ["[2, 1]", "[2, 1]"], "what was done before stands");
}
