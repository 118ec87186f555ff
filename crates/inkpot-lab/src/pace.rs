//! About how long matches take, by a sample that itself takes no longer than a few seconds.

use std::sync::mpsc;
use std::thread;
use std::time::{Duration, Instant};

use inkpot_core::{GameEntry, Halt, Setting};

use crate::stages::StageSet;

/// A sample of quick matches ends after so long ...
const ENOUGH: Duration = Duration::from_millis(400);
/// ... and one of long matches is broken off after so long.
const LIMIT: Duration = Duration::from_secs(5);
/// Settings that are looked at, evenly spread over all.
const SAMPLED: usize = 8;

/// About how long a match takes.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pace {
    /// Seconds of one thread a match.
    pub a_match_s: f64,
    /// Whether it takes longer than that: no match of the sample ended.
    pub longer: bool,
}

impl Pace {
    /// Plays the first of this many blocks of these settings, in turn, until there is enough of a sample.
    ///
    /// # Panics
    /// When a setting was not checked.
    pub fn sampled(settings: &[Setting], game: &dyn GameEntry, blocks: u64) -> Self {
        let tried = settings.len().min(SAMPLED);
        let spread = (0..tried).map(|i| settings[i * settings.len() / tried].clone());
        let halt = Halt::new();
        let mut stages: Vec<StageSet> = spread.map(|setting| StageSet::of(&[setting], game, &halt)).collect();
        let (done, waits) = mpsc::channel::<()>();
        let late = halt.clone();
        // Without a thread that watches the clock, a long match is waited for.
        let _ = thread::Builder::new().spawn(move || {
            if waits.recv_timeout(LIMIT) == Err(mpsc::RecvTimeoutError::Timeout) {
                late.call();
            }
        });
        let began = Instant::now();
        let (mut matches, mut took) = (0, Duration::ZERO);
        'sample: for block in 0..blocks {
            for stage in &mut stages {
                let played = stage.play(block).iter().map(|rows| rows.matches().count()).sum::<usize>();
                if halt.is_called() {
                    break 'sample;
                }
                (matches, took) = (matches + played, began.elapsed());
                if took > ENOUGH {
                    break 'sample;
                }
            }
        }
        drop(done);
        match matches {
            0 => Self { a_match_s: began.elapsed().as_secs_f64(), longer: true },
            matches => Self { a_match_s: took.as_secs_f64() / matches as f64, longer: false },
        }
    }

    /// Seconds that this many matches take on this many threads.
    pub fn seconds(&self, matches: u64, threads: usize) -> f64 {
        self.a_match_s * matches as f64 / threads.max(1) as f64
    }
}
