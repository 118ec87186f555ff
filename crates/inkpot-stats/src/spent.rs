//! The cost of reaching a target, over repetitions of which some never reached it, and the comparison of two searches.

use crate::interval::normal_quantile;

/// Above this many pairs of repetitions the distribution of ranks is taken as normal.
const EXACT_PAIRS: usize = 40_000;

/// The cost of a repetition until it reached the target, which lies between two looks.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spent {
    /// The cost by the look before; 0 without one, infinite if it never reached the target.
    pub after: f64,
    /// The cost by the look that reached the target; infinite without one.
    pub by: f64,
}

impl Spent {
    /// The cost of a repetition that never reached the target.
    pub const NEVER: Self = Self { after: f64::INFINITY, by: f64::INFINITY };

    /// Whether it reached the target.
    pub fn is_reached(&self) -> bool {
        self.by.is_finite()
    }
}

/// Returns the median cost by the look that reached the target; none if half of the repetitions or more never did, or
/// without repetitions.
pub fn median_spent(spent: &[Spent]) -> Option<f64> {
    let median = median(spent.iter().map(|spent| spent.by).collect())?;
    median.is_finite().then_some(median)
}

/// The ratio of two searches' costs.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SpentRatio {
    /// The median ratio, over all pairs of a repetition of one and a repetition of the other.
    pub value: f64,
    /// Its interval from 0 up; none of too few repetitions. The upper end is infinite where the other may never reach
    /// the target.
    pub range: Option<[f64; 2]>,
}

/// How many times as much `a` spends as `b`: the median over all pairs of repetitions (Hodges & Lehmann 1963, on ratios),
/// with the interval that inverts the rank test of Mann & Whitney (1947), exact for few repetitions and for any
/// distribution that the two share but for a factor; ties make it wider. Each repetition counts with both ends of what it
/// may have spent, so the interval holds the spacing of looks. A pair of which neither reached the target lies on either
/// side. None where the median is not known.
pub fn spent_ratio(a: &[Spent], b: &[Spent], confidence: f64) -> Option<SpentRatio> {
    let pairs = |ratio: &dyn Fn(&Spent, &Spent) -> f64| -> Vec<f64> {
        let mut all: Vec<f64> = a.iter().flat_map(|a| b.iter().map(move |b| ratio(a, b))).collect();
        all.sort_by(f64::total_cmp);
        all
    };
    let ratio = |a: f64, b: f64, unknown: f64| if a.is_infinite() && b.is_infinite() { unknown } else { a / b };
    let value = |unknown: f64| median(pairs(&|a, b| ratio(a.by, b.by, unknown)));
    let value = value(0.0).filter(|low| value(f64::INFINITY) == Some(*low) && low.is_finite() && *low > 0.0)?;
    let lows = pairs(&|a, b| ratio(a.after, b.by, 0.0));
    // What was spent after nothing may be as little as that.
    let highs = pairs(&|a, b| if b.after == 0.0 { f64::INFINITY } else { ratio(a.by, b.after, f64::INFINITY) });
    let range = left_out(a.len(), b.len(), confidence).map(|out| [lows[out], highs[highs.len() - 1 - out]]);
    Some(SpentRatio { value, range })
}

/// Whether this many repetitions of two searches bound a ratio at this confidence.
pub fn bounds_ratio(a: usize, b: usize, confidence: f64) -> bool {
    left_out(a, b, confidence).is_some()
}

fn median(mut of: Vec<f64>) -> Option<f64> {
    of.sort_by(f64::total_cmp);
    let (low, high) = (of.get(of.len().checked_sub(1)? / 2)?, of.get(of.len() / 2)?);
    Some(if low == high { *low } else { f64::midpoint(*low, *high) })
}

/// Returns the number of pairs that an interval of the median ratio leaves out at either end: the most for which the
/// statistic of Mann & Whitney is no larger with a probability of at most half of the error. None if even the outermost
/// pair is not rare enough.
fn left_out(a: usize, b: usize, confidence: f64) -> Option<usize> {
    let tail = (1.0 - confidence) / 2.0;
    let pairs = a * b;
    if pairs > EXACT_PAIRS {
        let (n, all) = (pairs as f64, (a + b + 1) as f64);
        return Some((n / 2.0 + normal_quantile(tail) * (n * all / 12.0).sqrt() - 0.5).max(0.0) as usize);
    }
    // Coefficients of the Gaussian binomial: in how many orders the statistic has each value.
    let mut counts = vec![0.0; pairs + 1];
    counts[0] = 1.0;
    for i in 1..=a {
        for u in (b + i..=pairs).rev() {
            counts[u] -= counts[u - b - i];
        }
        for u in i..=pairs {
            counts[u] += counts[u - i];
        }
    }
    let all: f64 = counts.iter().sum();
    let mut sum = 0.0;
    let rare = counts.iter().take_while(|count| {
        sum += *count;
        // A share that equals the tail but for rounding counts as rare.
        sum / all <= tail + 1e-12
    });
    rare.count().checked_sub(1)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Builds repetitions that were looked at after every unit of cost.
    fn spent(by: &[f64]) -> Vec<Spent> {
        by.iter().map(|&by| if by.is_finite() { Spent { after: by - 1.0, by } } else { Spent::NEVER }).collect()
    }

    const NEVER: f64 = f64::INFINITY;

    #[test]
    fn those_that_never_reached_it_count() {
        assert_eq!(median_spent(&spent(&[30.0, 10.0, NEVER])), Some(30.0));
        assert_eq!(median_spent(&spent(&[30.0, 10.0, 20.0, NEVER])), Some(25.0));
        assert_eq!(median_spent(&spent(&[30.0, 10.0, NEVER, NEVER])), None);
        assert_eq!(median_spent(&[]), None);
    }

    #[test]
    fn pairs_are_left_out_as_the_tables_of_the_rank_test_say() {
        // Critical values of the two-sided test at 5 %, from any table: 0 for 4 and 4, 2 for 5 and 5, 23 for 10 and 10.
        let out = |n: usize, m: usize| left_out(n, m, 0.95);
        assert_eq!((out(3, 3), out(4, 4), out(5, 5), out(10, 10)), (None, Some(0), Some(2), Some(23)));
        assert_eq!((out(3, 5), out(2, 8), out(1, 30)), (Some(0), Some(0), None));
        // The normal form agrees where it takes over.
        let many = left_out(200, 200, 0.95).zip(left_out(200, 201, 0.95)).expect("there are enough");
        assert!(many.1.abs_diff(many.0) < 200, "{many:?}");
    }

    #[test]
    fn a_ratio_holds_the_spacing_of_looks() {
        let (fast, slow) = (spent(&[10.0, 11.0, 12.0, 13.0, 14.0]), spent(&[30.0, 33.0, 36.0, 39.0, 42.0]));
        let ratio = spent_ratio(&fast, &slow, 0.95).expect("both are known");
        let [low, high] = ratio.range.expect("there are enough");
        assert!((ratio.value - 1.0 / 3.0).abs() < 1e-12 && low < ratio.value && ratio.value < high && high < 0.5);
        assert_eq!(spent_ratio(&fast[..3], &slow[..3], 0.95).expect("both are known").range, None);
        // Copies that reach it at the same look are not known to be alike.
        let same = spent_ratio(&spent(&[2.0; 5]), &spent(&[2.0; 5]), 0.95).and_then(|ratio| ratio.range);
        assert_eq!(same, Some([0.5, 2.0]));
        // At the first look, nothing is known of how early that may have been.
        let first = spent_ratio(&spent(&[1.0; 5]), &spent(&[1.0; 5]), 0.95).and_then(|ratio| ratio.range);
        assert_eq!(first, Some([0.0, NEVER]));
    }

    #[test]
    fn a_side_that_may_never_reach_it_leaves_the_ratio_open() {
        let (often, sometimes) = (spent(&[10.0, 11.0, 12.0, 13.0, 14.0]), spent(&[30.0, 33.0, 36.0, NEVER, NEVER]));
        let range = |a: &[Spent], b: &[Spent]| spent_ratio(a, b, 0.95).and_then(|ratio| ratio.range).expect("bounds");
        assert_eq!(range(&often, &sometimes)[0], 0.0);
        assert_eq!(range(&sometimes, &often)[1], NEVER);
        assert_eq!(spent_ratio(&[Spent::NEVER; 5], &often, 0.95), None);
        assert_eq!(spent_ratio(&[Spent::NEVER; 5], &[Spent::NEVER; 5], 0.95), None);
    }
}
