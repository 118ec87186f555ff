//! The clock of a search, round by round: kept apart from all that is equal on every machine.

use std::fmt::Write;
use std::time::{Duration, Instant};

use inkpot_ledger::{LedgerError, Manifest, Study};

use crate::failure::Failure;

/// The file of seconds by which each round was done.
pub(crate) const TIMES: &str = "times.csv";

/// A clock that goes on where it was stopped.
pub(crate) struct Clock {
    /// Rounds with the seconds by which they were done.
    done: Vec<(u64, f64)>,
    /// Seconds before this sitting, less its pauses.
    before: f64,
    began: Instant,
}

/// The same of a finished study. Errs where the file is not as the manifest has it.
pub(crate) fn finished_times(study: &Study, manifest: &Manifest) -> Result<Vec<(u64, f64)>, LedgerError> {
    let text = if manifest.files.contains_key(TIMES) { study.read_kept(manifest, TIMES)? } else { String::new() };
    Ok(if text.is_empty() { times(study) } else { read(&text) })
}

/// The rounds of a study with the seconds by which each was done, pauses left out; none where nothing was kept.
fn times(study: &Study) -> Vec<(u64, f64)> {
    read(&study.read_text(TIMES).unwrap_or_default())
}

fn read(text: &str) -> Vec<(u64, f64)> {
    let read = |line: &str| {
        let (round, seconds) = line.split_once(',')?;
        Some((round.parse().ok()?, seconds.parse::<f64>().ok().filter(|x| x.is_finite())?))
    };
    text.lines().filter_map(read).collect()
}

impl Clock {
    /// Continues after this number of rounds; later times are lost.
    pub(crate) fn after(study: &Study, rounds: u64) -> Self {
        let mut done = times(study);
        done.retain(|(round, _)| *round <= rounds);
        let before = done.last().map_or(0.0, |last| last.1);
        Self { done, before, began: Instant::now() }
    }

    /// Goes on within a round, by these seconds.
    pub(crate) fn go_on_from(&mut self, seconds: f64) {
        self.before = seconds;
    }

    /// Seconds so far, pauses left out.
    pub(crate) fn seconds(&self) -> f64 {
        self.before + self.began.elapsed().as_secs_f64()
    }

    /// Subtracts a pause.
    pub(crate) fn leave_out(&mut self, pause: Duration) {
        self.before -= pause.as_secs_f64();
    }

    /// A round is done.
    pub(crate) fn round(&mut self, round: u64) {
        if self.done.last().is_none_or(|last| last.0 < round) {
            self.done.push((round, self.seconds()));
        }
    }

    /// Saves the times.
    pub(crate) fn save(&self, study: &Study) -> Result<(), Failure> {
        let mut text = String::from("round,seconds\n");
        for (round, seconds) in &self.done {
            let _ = writeln!(text, "{round},{seconds:.3}");
        }
        Ok(study.write(TIMES, text.as_bytes())?)
    }
}

#[cfg(test)]
mod tests {
    use inkpot_ledger::{Ledger, Naming};

    use super::*;

    #[test]
    fn a_clock_goes_on_where_it_was_stopped_and_forgets_rounds_that_are_lost() {
        let folder = tempfile::tempdir().unwrap();
        let ledger = Ledger::at(folder.path());
        let begun = ledger.begin(Naming::Named("trial")).unwrap();
        let study = begun.study();
        study.write(TIMES, b"round,seconds\n1,2.000\n2,5.000\n3,9.000\nbroken\n4,inf\n").unwrap();
        assert_eq!(times(study), [(1, 2.0), (2, 5.0), (3, 9.0)]);
        let mut clock = Clock::after(study, 2);
        clock.round(2);
        clock.round(3);
        clock.leave_out(Duration::from_secs(1));
        clock.save(study).unwrap();
        let after = times(study);
        assert_eq!(after[..2], [(1, 2.0), (2, 5.0)], "a round that was done stays as it was");
        assert!(after[2].0 == 3 && (5.0..6.0).contains(&after[2].1), "{after:?}");
        assert!((4.0..5.0).contains(&clock.seconds()), "a pause is left out: {}", clock.seconds());
    }
}
