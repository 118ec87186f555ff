//! The saved search: its last round, and the results of the present round.

use std::time::{Duration, Instant};

use inkpot_lab::{Results, Searching};
use inkpot_ledger::{Study, checksum};

use crate::clock::Clock;
use crate::failure::Failure;
use crate::stored::{CHECKPOINT, HISTORY, SEARCH};

/// The results of the present round.
const ROUND: &str = "checkpoints/round-1.txt";
/// Time between two savings of a search: a kill loses seconds.
const SAVED_EVERY: Duration = Duration::from_secs(2);

/// Saves a search now and then.
pub(crate) struct Keeper<'a> {
    study: &'a Study,
    clock: Clock,
    saved: Instant,
    /// The checksum of the checkpoint, where the last round is saved.
    checkpoint: Option<String>,
}

impl<'a> Keeper<'a> {
    /// Continues from a saved search. Returns the results of its unfinished round too: none if unsaved or damaged.
    pub(crate) fn new(study: &'a Study, searching: &dyn Searching) -> (Self, Results) {
        let mut clock = Clock::after(study, searching.round().rounds);
        let begun = begun(study, &searching.checkpoint());
        if let Some((seconds, _)) = begun {
            clock.go_on_from(seconds);
        }
        let keeper = Self { study, clock, saved: Instant::now(), checkpoint: None };
        (keeper, begun.map_or_else(Results::new, |(_, results)| results))
    }

    /// Subtracts a pause.
    pub(crate) fn leave_out(&mut self, pause: Duration) {
        self.clock.leave_out(pause);
    }

    /// Takes the search's progress and the `results` of the unfinished round; saves them when it is time, or `now`.
    pub(crate) fn hear(&mut self, searching: &dyn Searching, results: &Results, now: bool) -> Result<(), Failure> {
        if results.is_empty() {
            self.clock.round(searching.round().rounds);
            self.checkpoint = None;
        }
        if searching.is_stuck() || self.saved.elapsed() < SAVED_EVERY && !now {
            return Ok(());
        }
        self.save(searching, results)
    }

    /// Saves it.
    pub(crate) fn save(&mut self, searching: &dyn Searching, results: &Results) -> Result<(), Failure> {
        self.saved = Instant::now();
        let checkpoint = if let Some(saved) = self.checkpoint.take() {
            saved
        } else {
            self.clock.save(self.study)?;
            self.study.write(HISTORY, searching.history().as_bytes())?;
            let text = searching.checkpoint();
            self.study.write_sealed(CHECKPOINT, SEARCH, &text)?;
            checksum(text.as_bytes())
        };
        if !results.is_empty() {
            self.study.write_sealed(ROUND, SEARCH, &written(&checkpoint, self.clock.seconds(), results))?;
        }
        self.checkpoint = Some(checkpoint);
        Ok(())
    }

    /// The search has finished: there is no round under way.
    pub(crate) fn finish(self) -> Result<(), Failure> {
        Ok(self.study.discard(ROUND)?)
    }
}

/// Writes the results of a round, with its checkpoint and the seconds by then; figures by their bits, since some are no
/// numbers.
fn written(checkpoint: &str, seconds: f64, results: &Results) -> String {
    let bits = |blocks: &Vec<Vec<f64>>| -> Vec<Vec<u64>> {
        blocks.iter().map(|figures| figures.iter().map(|x| x.to_bits()).collect()).collect()
    };
    let bits: Vec<_> = results.iter().map(bits).collect();
    format!("{checkpoint} {seconds}\n{}", serde_json::to_string(&bits).expect("lists of numbers"))
}

/// Reads the seconds and the results of the round after this checkpoint.
fn begun(study: &Study, checkpoint: &str) -> Option<(f64, Results)> {
    let text = study.read_sealed(ROUND, SEARCH).ok()??;
    let (head, bits) = text.split_once('\n')?;
    let (follows, seconds) = head.split_once(' ')?;
    if follows != checksum(checkpoint.as_bytes()) {
        return None;
    }
    let bits: Vec<Vec<Vec<u64>>> = serde_json::from_str(bits).ok()?;
    let figures = |blocks: Vec<Vec<u64>>| -> Vec<Vec<f64>> {
        blocks.into_iter().map(|figures| figures.into_iter().map(f64::from_bits).collect()).collect()
    };
    Some((seconds.parse().ok()?, bits.into_iter().map(figures).collect()))
}

#[cfg(test)]
mod tests {
    use inkpot_lab::{Ask, SearchRound};
    use inkpot_ledger::{Ledger, Machine, Manifest, Naming};

    use super::*;

    /// A search that has done this number of rounds.
    struct After(u64);

    impl Searching for After {
        fn next(&mut self) -> Ask {
            Ask::Finished
        }

        fn take(&mut self, _results: Results) {}

        fn checkpoint(&self) -> String {
            format!("after {}", self.0)
        }

        fn history(&self) -> String {
            format!("{} rounds\n", self.0)
        }

        fn round(&self) -> SearchRound {
            SearchRound { rounds: self.0, unit: "matches", spent: 10 * self.0, most: 100, choice: String::new() }
        }
    }

    fn study() -> (tempfile::TempDir, Study) {
        let folder = tempfile::tempdir().unwrap();
        let manifest = Manifest::begin("evolve", "piste", 1, 10, Machine::default());
        let ledger = Ledger::at(folder.path());
        let (study, ..) = ledger.begin(Naming::Named("trial")).unwrap().settle(manifest).unwrap();
        study.write(SEARCH, b"{}").unwrap();
        (folder, study)
    }

    fn bits(results: &Results) -> Vec<u64> {
        results.iter().flatten().flatten().map(|x| x.to_bits()).collect()
    }

    #[test]
    fn a_round_under_way_comes_back_bit_by_bit_and_with_its_seconds() {
        let (_folder, study) = study();
        let results = vec![vec![vec![0.1, f64::NAN], vec![f64::INFINITY, -0.0]], Vec::new()];
        let (mut keeper, begun) = Keeper::new(&study, &After(3));
        assert_eq!(begun, Results::new(), "nothing is saved yet");
        keeper.clock.go_on_from(12.5);
        keeper.hear(&After(3), &results, true).unwrap();
        let (again, begun) = Keeper::new(&study, &After(3));
        assert_eq!((begun.len(), begun[0].len(), begun[1].len()), (2, 2, 0));
        assert_eq!(bits(&begun), bits(&results));
        assert!(again.clock.seconds() >= 12.5, "{}", again.clock.seconds());
    }

    #[test]
    fn what_belongs_to_another_round_or_is_damaged_is_left_out() {
        let (_folder, study) = study();
        let results = vec![vec![vec![1.0]]];
        let (mut keeper, _) = Keeper::new(&study, &After(1));
        keeper.hear(&After(1), &results, true).unwrap();
        assert_eq!(Keeper::new(&study, &After(2)).1, Results::new());
        assert_eq!(Keeper::new(&study, &After(1)).1, results);
        let text = study.read_text(ROUND).unwrap();
        study.write(ROUND, text.replace("[[[", "[[").as_bytes()).unwrap();
        assert_eq!(Keeper::new(&study, &After(1)).1, Results::new());
        keeper.finish().unwrap();
        assert!(study.read_text(ROUND).is_err(), "a search that has finished has no round under way");
    }

    #[test]
    fn a_round_that_is_done_is_saved_once_and_not_with_every_block_after_it() {
        let (_folder, study) = study();
        let (mut keeper, _) = Keeper::new(&study, &After(1));
        keeper.hear(&After(1), &Results::new(), true).unwrap();
        assert_eq!(study.read_sealed(CHECKPOINT, SEARCH).unwrap().as_deref(), Some("after 1"));
        study.discard(CHECKPOINT).unwrap();
        keeper.hear(&After(1), &vec![vec![vec![1.0]]], true).unwrap();
        assert!(study.read_sealed(CHECKPOINT, SEARCH).unwrap().is_none(), "it was not written again");
        keeper.hear(&After(2), &Results::new(), true).unwrap();
        assert_eq!(study.read_sealed(CHECKPOINT, SEARCH).unwrap().as_deref(), Some("after 2"));
        assert_eq!(study.read_text(HISTORY).unwrap(), "2 rounds\n");
        keeper.hear(&After(3), &Results::new(), false).unwrap();
        assert_eq!(study.read_sealed(CHECKPOINT, SEARCH).unwrap().as_deref(), Some("after 2"), "not so soon again");
    }
}
