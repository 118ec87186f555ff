//! What searches spent until they reached a value, and how two of them compare.

use inkpot_core::Chance;
use inkpot_stats::{SpentRatio, spent_ratio};

use super::{Aim, HistoryLine};
use crate::chance::BootstrapDraws;

/// What each repetition had spent, by this count, when a look at the yardstick first reached a value of `target`;
/// infinite where none did. Looks are some generations apart, and so are these.
pub fn spent_until<'a>(
    aim: &Aim,
    history: &'a [HistoryLine],
    target: f64,
    spent: impl Fn(&'a HistoryLine) -> Option<f64>,
) -> Vec<f64> {
    let reached = |value: f64| if aim.yardstick.less { value <= target } else { value >= target };
    let of_seed = |seed: u64| {
        let mut lines = history.iter().filter(|line| line.seed == seed);
        lines.find(|line| line.yardstick.is_some_and(reached)).and_then(&spent)
    };
    (0..aim.seeds as usize).map(|number| of_seed(aim.seed_of(number)).unwrap_or(f64::INFINITY)).collect()
}

/// How many times as much one search has spent as another, in the median over its repetitions. None where the median of
/// either never reached it.
pub fn compare_spent(a: &[f64], b: &[f64], confidence: f64) -> Option<SpentRatio> {
    spent_ratio(a, b, confidence, &mut BootstrapDraws(Chance::named(0, &[a.len() as u64, b.len() as u64])))
}
