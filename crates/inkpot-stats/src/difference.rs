//! Differences of two points shares, paired by block.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, StudentsT};

use crate::interval::t_quantile;
use crate::{Interval, Moments};

/// The difference of two points shares over the blocks they have in common.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Difference {
    /// First minus second.
    pub difference: Interval,
    /// Share of blocks in which the first does better, minus the share in which the second does: -1 to 1.
    pub effect: f64,
    /// Two-sided p-value of no difference.
    pub p: f64,
    /// Blocks compared.
    pub blocks: u64,
}

/// First minus second over pairs of block shares in `[0, 1]`; none of fewer than two pairs.
///
/// Student's t on the block differences after two pseudo-blocks that cancel each other are mixed in (a quarter of one
/// in which the first wins all, a quarter in which the second does, the rest alike), after Agresti & Min (2005) for
/// matched proportions: a plain t interval has no width when all blocks agree.
pub fn paired_difference(pairs: impl IntoIterator<Item = (f64, f64)>, confidence: f64) -> Option<Difference> {
    let (mut n, mut sum, mut squares, mut better) = (0.0, 0.0, 0.0, 0.0);
    for (first, second) in pairs {
        let d: f64 = first - second;
        n += 1.0;
        sum += d;
        squares += d * d;
        better += if d == 0.0 { 0.0 } else { d.signum() };
    }
    if n < 2.0 {
        return None;
    }
    let padded = n + 2.0;
    let centre = sum / padded;
    let variance = ((squares + 0.5) / padded - centre * centre).max(0.0) * padded / (padded - 1.0);
    let error = (variance / padded).sqrt();
    let margin = t_quantile(f64::midpoint(1.0, confidence), n - 1.0) * error;
    let value = sum / n;
    let difference =
        Interval { value, low: (centre - margin).min(value).max(-1.0), high: (centre + margin).max(value).min(1.0) };
    let tail = StudentsT::new(0.0, 1.0, n - 1.0).map_or(f64::NAN, |t| t.cdf(-(centre / error).abs()));
    Some(Difference { difference, effect: better / n, p: 2.0 * tail, blocks: n as u64 })
}

/// First minus second of two independent samples of block shares in `[0, 1]`; none of fewer than two blocks each.
///
/// Welch's (1947) t interval after half a block all lost and half a block all won are added to each sample, after
/// Agresti & Caffo (2000) for two proportions: without them it has no width when all blocks agree.
pub fn unpaired_difference(first: &Moments, second: &Moments, confidence: f64) -> Option<Interval> {
    let (a, b) = (padded(first)?, padded(second)?);
    let margin = welch(&a, &b, confidence);
    let (value, centre) = (first.mean()? - second.mean()?, a.mean - b.mean);
    Some(Interval { value, low: (centre - margin).min(value).max(-1.0), high: (centre + margin).max(value).min(1.0) })
}

/// A mean of independent values, and the variance of that mean.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Estimate {
    pub(crate) count: f64,
    pub(crate) mean: f64,
    pub(crate) variance: f64,
}

/// Half the width of the interval of a difference of two means: Welch (1947). Without any variance the degrees of freedom are
/// not known, and do not matter.
pub(crate) fn welch(a: &Estimate, b: &Estimate, confidence: f64) -> f64 {
    let sum = a.variance + b.variance;
    let df = sum.powi(2) / (a.variance.powi(2) / (a.count - 1.0) + b.variance.powi(2) / (b.count - 1.0));
    if df.is_finite() { t_quantile(f64::midpoint(1.0, confidence), df) * sum.sqrt() } else { 0.0 }
}

/// First minus second of two independent samples on any scale, with Welch's (1947) interval; none of fewer than two values
/// each, and none where neither sample varies: values that are all alike say nothing of those that would differ.
pub fn mean_difference(first: &Moments, second: &Moments, confidence: f64) -> Option<Interval> {
    let estimate = |sample: &Moments| {
        let count = sample.count() as f64;
        Some(Estimate { count, mean: sample.mean()?, variance: sample.sd()?.powi(2) / count })
    };
    let (a, b) = (estimate(first)?, estimate(second)?);
    let (value, margin) = (a.mean - b.mean, welch(&a, &b, confidence));
    (margin > 0.0).then_some(Interval { value, low: value - margin, high: value + margin })
}

/// A sample with half a 0 and half a 1 added.
fn padded(sample: &Moments) -> Option<Estimate> {
    let (blocks, mean, sd) = (sample.count() as f64, sample.mean()?, sample.sd()?);
    let more = blocks + 1.0;
    let centre = (blocks * mean + 0.5) / more;
    let squares = sd * sd * (blocks - 1.0) + blocks * mean * mean + 0.5;
    let variance = (squares - more * centre * centre).max(0.0) / (more - 1.0);
    // What is added gives no degree of freedom.
    Some(Estimate { count: blocks, mean: centre, variance: variance / more })
}

/// Holm's (1979) step-down adjustment: p-values that keep the chance of any false claim among all of them below the
/// level each is held against. In the order given.
pub fn holm(p: &[f64]) -> Vec<f64> {
    let mut order: Vec<usize> = (0..p.len()).collect();
    order.sort_by(|&a, &b| p[a].total_cmp(&p[b]));
    let mut adjusted = vec![0.0; p.len()];
    let mut floor = 0.0f64;
    for (rank, &index) in order.iter().enumerate() {
        floor = floor.max((p[index] * (p.len() - rank) as f64).min(1.0));
        adjusted[index] = floor;
    }
    adjusted
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn holm_steps_down_and_stays_monotone() {
        // By hand: sorted .01 .02 .03 .04 times 4 3 2 1 gives .04 .06 .06 .06.
        let adjusted = holm(&[0.04, 0.01, 0.03, 0.02]);
        for (value, expected) in adjusted.iter().zip([0.06, 0.04, 0.06, 0.06]) {
            assert!((value - expected).abs() < 1e-12);
        }
    }

    #[test]
    fn two_samples_of_a_textbook_case() {
        // By hand: 50 blocks of 1 and 50 of 0 padded are 101 blocks of mean 1/2 and squares 25.25, variance of the mean
        // 25.25 / 100 / 101 = 0.0025; two of them: error sqrt(0.005), t(198) = 1.972017.
        let mut half = Moments::default();
        (0..100).for_each(|block| half.push(f64::from(block % 2)));
        let interval = unpaired_difference(&half, &half, 0.95).unwrap();
        assert!((interval.half_width() - 1.972_017 * 0.005f64.sqrt()).abs() < 1e-6, "{interval:?}");
        let mut won = Moments::default();
        (0..20).for_each(|_| won.push(1.0));
        let interval = unpaired_difference(&won, &won, 0.95).unwrap();
        assert!(interval.holds(0.0) && interval.half_width() > 0.05, "{interval:?}");
    }

    #[test]
    fn blocks_that_all_agree_still_have_width() {
        let interval = paired_difference([(0.5, 0.5); 40], 0.95).unwrap();
        assert_eq!((interval.difference.value, interval.effect), (0.0, 0.0));
        assert!(interval.difference.high > 0.01 && interval.difference.low < -0.01);
        assert!(interval.p > 0.99);
    }

    #[test]
    fn a_clear_difference_is_separable_and_its_effect_counted_by_blocks() {
        let pairs: Vec<(f64, f64)> = (0..100).map(|i| if i % 4 == 0 { (0.5, 1.0) } else { (1.0, 0.5) }).collect();
        let interval = paired_difference(pairs, 0.95).unwrap();
        assert_eq!((interval.difference.value, interval.effect, interval.blocks), (0.25, 0.5, 100));
        assert!(interval.difference.low > 0.1 && interval.p < 1e-6);
    }
}
