//! What it took until something was reached, over repetitions of which some never reached it.

use crate::resample::Draws;

/// Fewer repetitions than this bound no ratio: resampled, three of each hold it in 89 to 92 % of cases instead of 95 %,
/// five in 96 %.
pub const FEWEST_REPETITIONS: usize = 5;
/// Samples drawn.
const SAMPLES: usize = 4_000;

/// The median of what was spent, infinite for those that never reached it; none where that holds for half of them or
/// more, or of none.
pub fn median_spent(spent: &[f64]) -> Option<f64> {
    if spent.is_empty() {
        return None;
    }
    let mut sorted = spent.to_vec();
    sorted.sort_by(f64::total_cmp);
    let median = f64::midpoint(sorted[(sorted.len() - 1) / 2], sorted[sorted.len() / 2]);
    median.is_finite().then_some(median)
}

/// The ratio of what two searches spent, in the median.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SpentRatio {
    /// The ratio of the medians.
    pub value: f64,
    /// Its interval from 0 up; none of too few repetitions. The upper end is infinite where the other may never reach
    /// it.
    pub range: Option<[f64; 2]>,
}

/// The ratio of the medians of what was spent, infinite for repetitions that never reached it, with an interval by
/// resampling the repetitions of both (Efron 1979). A sample in which neither median is known says nothing and lies on
/// either side. None where either median is not known.
pub fn spent_ratio(a: &[f64], b: &[f64], confidence: f64, draws: &mut impl Draws) -> Option<SpentRatio> {
    let value = median_spent(a)? / median_spent(b)?;
    let (mut lows, mut highs) = (Vec::with_capacity(SAMPLES), Vec::with_capacity(SAMPLES));
    let mut sample = |from: &[f64]| -> Option<f64> {
        median_spent(&(0..from.len()).map(|_| from[draws.below(from.len())]).collect::<Vec<_>>())
    };
    for _ in 0..SAMPLES {
        let (low, high) = match (sample(a), sample(b)) {
            (Some(a), Some(b)) => (a / b, a / b),
            (Some(_), None) => (0.0, 0.0),
            (None, Some(_)) => (f64::INFINITY, f64::INFINITY),
            (None, None) => (0.0, f64::INFINITY),
        };
        lows.push(low);
        highs.push(high);
    }
    lows.sort_by(f64::total_cmp);
    highs.sort_by(f64::total_cmp);
    let tail = ((1.0 - confidence) / 2.0 * SAMPLES as f64) as usize;
    let known = a.len().min(b.len()) >= FEWEST_REPETITIONS;
    Some(SpentRatio { value, range: known.then(|| [lows[tail], highs[SAMPLES - 1 - tail]]) })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::resample::tests::Cycle;

    const NEVER: f64 = f64::INFINITY;

    #[test]
    fn those_that_never_reached_it_count() {
        assert_eq!(median_spent(&[30.0, 10.0, NEVER]), Some(30.0));
        assert_eq!(median_spent(&[30.0, 10.0, 20.0, NEVER]), Some(25.0));
        assert_eq!(median_spent(&[30.0, 10.0, NEVER, NEVER]), None);
        assert_eq!(median_spent(&[]), None);
    }

    #[test]
    fn a_ratio_is_bounded_from_five_repetitions_on() {
        let (fast, slow) = ([10.0, 11.0, 12.0, 13.0, 14.0], [30.0, 33.0, 36.0, 39.0, 42.0]);
        let ratio = spent_ratio(&fast, &slow, 0.95, &mut Cycle(1)).expect("both are known");
        let [low, high] = ratio.range.expect("there are enough");
        assert!((ratio.value - 1.0 / 3.0).abs() < 1e-12 && low < ratio.value && ratio.value < high && high < 0.5);
        assert_eq!(spent_ratio(&fast[..3], &slow, 0.95, &mut Cycle(1)).expect("both are known").range, None);
    }

    #[test]
    fn a_side_that_may_never_reach_it_leaves_the_ratio_open() {
        let (often, sometimes) = ([10.0, 11.0, 12.0, 13.0, 14.0], [30.0, 33.0, 36.0, NEVER, NEVER]);
        let low =
            spent_ratio(&often, &sometimes, 0.95, &mut Cycle(1)).and_then(|ratio| ratio.range).expect("an interval");
        assert_eq!(low[0], 0.0);
        let high =
            spent_ratio(&sometimes, &often, 0.95, &mut Cycle(1)).and_then(|ratio| ratio.range).expect("an interval");
        assert_eq!(high[1], NEVER);
        assert_eq!(spent_ratio(&[NEVER; 5], &often, 0.95, &mut Cycle(1)), None);
    }
}
