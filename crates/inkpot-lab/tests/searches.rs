//! The loop of all searches, with a search that climbs to the number that wins most: order, threads, stopping, and several
//! side by side.

mod tiny;

use std::collections::BTreeMap;
use std::sync::atomic::{AtomicU64, Ordering};

use inkpot_core::{Casting, Halt, Knobs, Level, Registry, Rows, Seating, Setting};
use inkpot_lab::{Ask, Fell, Play, Results, SearchError, SearchRound, Searching, Sitting, search};

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
    /// Blocks whose figures it read.
    read: AtomicU64,
}

impl Climber {
    fn new(from: i64, seed: u64) -> Self {
        let seen = BTreeMap::new();
        Self {
            registry: tiny::registry(2),
            seed,
            at: from,
            seen,
            asked: Vec::new(),
            rounds: 0,
            read: AtomicU64::new(0),
        }
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
        let play = |number: &i64| Play { settings: vec![self.setting(*number)], first_block: 0, blocks: BLOCKS };
        Ask::Play(self.asked.iter().map(play).collect())
    }

    fn figures(&self, _play: usize, rows: &[Rows]) -> Vec<f64> {
        self.read.fetch_add(1, Ordering::Relaxed);
        let block = rows[0].blocks().next().expect("a block was played");
        vec![block.points(0).expect("no match is void"), block.number() as f64]
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

/// Runs searches; gives their checkpoints after every round.
fn run(searches: &mut [Box<Climber>], threads: usize) -> Vec<Vec<String>> {
    let registry = tiny::registry(2);
    let game = registry.game("highest").expect("the game is there");
    let mut kept = Vec::new();
    let ended = search(searches, game, threads, &Halt::never(), &mut Results::new(), |searches, seen| {
        if seen.is_empty() {
            kept.push(searches.iter().map(|own| own.checkpoint()).collect());
        }
        Ok::<(), SearchError>(())
    });
    assert_eq!(ended, Ok(Sitting::Complete));
    kept
}

#[test]
fn a_search_is_asked_and_shown_until_it_has_finished() {
    let mut searches = [Box::new(Climber::new(1, 5))];
    let kept = run(&mut searches, 2);
    let [climbed] = &searches;
    assert_eq!(climbed.at, 9, "{:?}", climbed.seen);
    assert_eq!(climbed.rounds as usize, kept.len());
    assert!(climbed.seen[&9] > climbed.seen[&5] && climbed.seen[&5] > climbed.seen[&1]);
}

#[test]
fn threads_change_nothing() {
    let of = |threads: usize| run(&mut [Box::new(Climber::new(2, 8))], threads);
    let one = of(1);
    for threads in [2, 3, 7] {
        assert_eq!(of(threads), one, "{threads} threads");
    }
}

#[test]
fn searches_side_by_side_find_what_each_finds_alone() {
    let alone: Vec<String> = [(1, 5), (6, 6), (9, 7)]
        .into_iter()
        .map(|(from, seed)| {
            let mut searches = [Box::new(Climber::new(from, seed))];
            run(&mut searches, 2);
            searches[0].checkpoint()
        })
        .collect();
    let mut searches = [Climber::new(1, 5), Climber::new(6, 6), Climber::new(9, 7)].map(Box::new);
    let kept = run(&mut searches, 2);
    assert_eq!(kept.last(), Some(&alone));
    // The one that has finished early waits, and is not asked for anything any more.
    let rounds: Vec<u64> = searches.iter().map(|own| own.rounds).collect();
    assert!(rounds[0] > rounds[2] && kept.len() as u64 == rounds[0], "{rounds:?}");
}

/// Searches until `keep` was called this often, and says what was seen of the round under way.
fn stopped(searches: &mut [Box<Climber>], seen: &mut Results, calls: usize, threads: usize) -> Sitting {
    let registry = tiny::registry(2);
    let game = registry.game("highest").expect("the game is there");
    let halt = Halt::new();
    let mut called = 0;
    let ended = search(searches, game, threads, &halt, seen, |_, _| {
        called += 1;
        if called == calls {
            halt.call();
        }
        Ok::<(), SearchError>(())
    });
    ended.expect("it is stopped or has finished")
}

#[test]
fn a_search_that_is_stopped_goes_on_within_the_round() {
    let mut whole = [Box::new(Climber::new(1, 5)), Box::new(Climber::new(9, 7))];
    run(&mut whole, 2);
    let end = whole.each_ref().map(|own| own.checkpoint());
    let blocks = whole.each_ref().map(|own| own.read.load(Ordering::Relaxed));
    for calls in 1.. {
        let mut searches = [Box::new(Climber::new(1, 5)), Box::new(Climber::new(9, 7))];
        let mut seen = Results::new();
        if stopped(&mut searches, &mut seen, calls, 1) == Sitting::Complete {
            assert!(calls > 20, "{calls} calls to the end");
            break;
        }
        assert_eq!(stopped(&mut searches, &mut seen, usize::MAX, 1), Sitting::Complete);
        assert_eq!(searches.each_ref().map(|own| own.checkpoint()), end, "after {calls} calls");
        let read = searches.each_ref().map(|own| own.read.load(Ordering::Relaxed));
        // The block that was under way is played again, and the rest of its run.
        assert!(read[0] + read[1] <= blocks[0] + blocks[1] + 40, "{read:?} for {blocks:?}");
    }
}

#[test]
fn what_was_seen_of_another_round_is_not_taken() {
    let mut searches = [Box::new(Climber::new(1, 5))];
    let mut seen = vec![vec![vec![1.0, 0.0]; 5]; 2];
    assert_eq!(stopped(&mut searches, &mut seen, usize::MAX, 2), Sitting::Complete);
    let mut whole = [Box::new(Climber::new(1, 5))];
    run(&mut whole, 2);
    assert_eq!(searches[0].checkpoint(), whole[0].checkpoint());
}

fn full() -> SearchError {
    SearchError::Fell(Fell("the disk is full".into()))
}

#[test]
fn what_cannot_be_kept_ends_the_search() {
    let registry = tiny::registry(2);
    let game = registry.game("highest").expect("the game is there");
    let mut searches = [Box::new(Climber::new(1, 5))];
    let ended = search(&mut searches, game, 2, &Halt::never(), &mut Results::new(), |_, seen| {
        if seen.is_empty() { Err(full()) } else { Ok(()) }
    });
    assert_eq!(ended, Err(full()));
    assert_eq!(searches[0].rounds, 1);
    let ended = search(&mut searches, game, 2, &Halt::never(), &mut Results::new(), |_, _| Err(full()));
    assert_eq!((ended, searches[0].rounds), (Err(full()), 1), "within a round, too");
}

#[test]
fn a_search_that_is_finished_plays_nothing() {
    let mut finished = Climber::new(9, 5);
    finished.seen = (0..=9).map(|number| (number, 0.5)).collect();
    assert_eq!(run(&mut [Box::new(finished)], 2), Vec::<Vec<String>>::new());
    assert_eq!(run(&mut [], 2), Vec::<Vec<String>>::new());
}

#[test]
fn asked_again_a_search_says_the_same() {
    let mut climber = Climber::new(4, 5);
    let Ask::Play(first) = climber.next() else { panic!("it has just begun") };
    assert_eq!(climber.next(), Ask::Play(first));
}

/// Works in pieces of its own: each counts up to three, once a round.
struct Worker {
    counts: Vec<AtomicU64>,
    asked: Vec<usize>,
}

impl Searching for Worker {
    fn next(&mut self) -> Ask {
        let open = |own: &usize| self.counts[*own].load(Ordering::Relaxed) < 3;
        self.asked = (0..self.counts.len()).filter(open).collect();
        if self.asked.is_empty() { Ask::Finished } else { Ask::Work(self.asked.len()) }
    }

    fn figures(&self, _play: usize, _rows: &[Rows]) -> Vec<f64> {
        unreachable!("it plays nothing")
    }

    fn work(&self, piece: usize, _halt: &Halt) {
        self.counts[self.asked[piece]].fetch_add(1, Ordering::Relaxed);
    }

    fn take(&mut self, results: Results) {
        assert!(results.iter().all(Vec::is_empty), "work shows nothing");
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

#[test]
fn each_piece_of_work_is_done_once_a_round_on_any_number_of_threads() {
    let registry = tiny::registry(2);
    let game = registry.game("highest").expect("the game is there");
    for threads in [1, 2, 5] {
        let counts = [0, 2, 1, 0].map(AtomicU64::new).into();
        let mut searches = [Box::new(Worker { counts, asked: Vec::new() })];
        let mut rounds = Vec::new();
        let ended = search(&mut searches, game, threads, &Halt::never(), &mut Results::new(), |searches, seen| {
            if seen.is_empty() {
                rounds.push(searches[0].checkpoint());
            }
            Ok::<(), SearchError>(())
        });
        assert_eq!(ended, Ok(Sitting::Complete));
        assert_eq!(rounds, ["[1, 3, 2, 1]", "[2, 3, 3, 2]", "[3, 3, 3, 3]"], "{threads} threads");
    }
}
