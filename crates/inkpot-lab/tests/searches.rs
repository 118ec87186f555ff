//! The loop of all searches, with a search that climbs to the number that wins most: order, threads, stopping, and several
//! side by side.

mod tiny;

use std::collections::BTreeMap;

use inkpot_core::{Casting, Halt, Knobs, Level, Registry, Rows, Setting};
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
}

impl Climber {
    fn new(from: i64, seed: u64) -> Self {
        let seen = BTreeMap::new();
        Self { registry: tiny::registry(2), seed, at: from, seen, asked: Vec::new(), rounds: 0 }
    }

    fn setting(&self, number: i64) -> Setting {
        let game = self.registry.game("highest").expect("the game is there");
        let casting = |entrant: u16, number: f64| {
            let knobs = Knobs::default().with("number", number).resolve(&game.agents()[0].knobs).expect("allowed");
            Casting { entrant, kind: "caller".into(), knobs }
        };
        Setting {
            rules: Knobs::default().with("luck", 4.0).resolve(&game.sheet().rules).expect("allowed"),
            level: Level::named("table", Knobs::default()),
            cast: vec![casting(0, number as f64), casting(1, GOAL)],
            series: 1,
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
        SearchRound { rounds, matches: 2 * BLOCKS * rounds, most: 400, choice: self.at.to_string() }
    }
}

/// Runs searches; gives their checkpoints after every round.
fn run(searches: &mut [Box<Climber>], threads: usize) -> Vec<Vec<String>> {
    let registry = tiny::registry(2);
    let game = registry.game("highest").expect("the game is there");
    let mut kept = Vec::new();
    let ended = search(searches, game, threads, &Halt::never(), |searches| {
        kept.push(searches.iter().map(|own| own.checkpoint()).collect());
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

#[test]
fn a_search_that_is_stopped_has_taken_whole_rounds_only() {
    let registry = tiny::registry(2);
    let game = registry.game("highest").expect("the game is there");
    let mut whole = [Box::new(Climber::new(1, 5))];
    let kept = run(&mut whole, 2);
    for rounds in 1..kept.len() {
        let halt = Halt::new();
        let mut searches = [Box::new(Climber::new(1, 5))];
        let mut done = 0;
        let ended = search(&mut searches, game, 2, &halt, |_| {
            done += 1;
            if done == rounds {
                halt.call();
            }
            Ok::<(), SearchError>(())
        });
        assert_eq!(ended, Ok(Sitting::Interrupted));
        assert_eq!(vec![searches[0].checkpoint()], kept[rounds - 1], "after {rounds} rounds");
        // It goes on to the same end.
        run(&mut searches, 1);
        assert_eq!(searches[0].checkpoint(), whole[0].checkpoint());
    }
}

fn full() -> SearchError {
    SearchError::Fell(Fell("the disk is full".into()))
}

#[test]
fn what_cannot_be_kept_ends_the_search() {
    let registry = tiny::registry(2);
    let game = registry.game("highest").expect("the game is there");
    let mut searches = [Box::new(Climber::new(1, 5))];
    let ended = search(&mut searches, game, 2, &Halt::never(), |_| Err(full()));
    assert_eq!(ended, Err(full()));
    assert_eq!(searches[0].rounds, 1);
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
