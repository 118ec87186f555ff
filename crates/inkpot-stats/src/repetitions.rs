//! Results of a method over its repetitions: they speak of further repetitions, not of one champion.

use crate::Interval;
use crate::difference::{Estimate, welch};
use crate::interval::{normal_quantile, t_quantile};

/// Fewer repetitions than this have no outlier: of three, one always lies lowest.
pub const FEWEST_FOR_OUTLIER: usize = 5;

/// The mean over repetitions and, from two on, its interval.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct OverRepetitions {
    mean: f64,
    /// Variance of the mean; none of one repetition.
    variance: Option<f64>,
    count: usize,
}

impl OverRepetitions {
    /// Computes the mean result over repetitions with its interval at `confidence`; none without repetitions. The
    /// variance between repetitions is at least that of each result: three that reached 100 % do not show that the
    /// method always does.
    pub fn of(repetitions: &[Interval], confidence: f64) -> Option<Self> {
        let count = repetitions.len();
        let n = count as f64;
        let mean = (count > 0).then(|| repetitions.iter().map(|proved| proved.value).sum::<f64>() / n)?;
        let between = || repetitions.iter().map(|proved| (proved.value - mean).powi(2)).sum::<f64>() / (n - 1.0);
        let z = normal_quantile(f64::midpoint(1.0, confidence));
        let within = || repetitions.iter().map(|proved| (proved.half_width() / z).powi(2)).sum::<f64>() / n;
        Some(Self { mean, variance: (count > 1).then(|| between().max(within()) / n), count })
    }

    /// The mean.
    pub fn mean(&self) -> f64 {
        self.mean
    }

    /// Repetitions.
    pub fn count(&self) -> usize {
        self.count
    }

    /// Student's interval of the mean, within `bounds`; none of one repetition.
    pub fn interval(&self, confidence: f64, bounds: [f64; 2]) -> Option<Interval> {
        let t = t_quantile(f64::midpoint(1.0, confidence), self.count as f64 - 1.0);
        let half = t * self.variance?.sqrt();
        let [least, most] = bounds;
        Some(Interval { value: self.mean, low: (self.mean - half).max(least), high: (self.mean + half).min(most) })
    }

    /// Returns the difference from another, with Welch's interval (1947); none if either has one repetition.
    pub fn above(&self, other: &Self, confidence: f64) -> Option<Interval> {
        let estimate = |of: &Self| Some(Estimate { count: of.count as f64, mean: of.mean, variance: of.variance? });
        let (value, half) = (self.mean - other.mean, welch(&estimate(self)?, &estimate(other)?, confidence));
        Some(Interval { value, low: value - half, high: value + half })
    }
}

/// The place of the value that lies too far below (or above, where `less` is wanted) the others to be one of them, by the
/// one-sided test of Grubbs (1950) at a level of `1 - confidence`; none of fewer than [`FEWEST_FOR_OUTLIER`].
pub fn left_behind(values: &[f64], less: bool, confidence: f64) -> Option<usize> {
    let n = values.len() as f64;
    if values.len() < FEWEST_FOR_OUTLIER {
        return None;
    }
    let sign = if less { -1.0 } else { 1.0 };
    let place = (0..values.len()).min_by(|&a, &b| (sign * values[a]).total_cmp(&(sign * values[b])))?;
    let mean = values.iter().sum::<f64>() / n;
    let sd = (values.iter().map(|x| (x - mean).powi(2)).sum::<f64>() / (n - 1.0)).sqrt();
    let t = t_quantile(1.0 - (1.0 - confidence) / n, n - 2.0);
    let critical = (n - 1.0) / n.sqrt() * (t * t / (n - 2.0 + t * t)).sqrt();
    ((mean - values[place]).abs() > critical * sd).then_some(place)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn proved(values: &[f64], half: f64) -> Vec<Interval> {
        values.iter().map(|&value| Interval { value, low: value - half, high: value + half }).collect()
    }

    #[test]
    fn the_mean_of_repetitions_has_the_interval_of_student() {
        // By hand: mean 0.6, standard deviation 0.1, t of two degrees of freedom 4.3027.
        let of = OverRepetitions::of(&proved(&[0.5, 0.6, 0.7], 0.001), 0.95).expect("there are some");
        let interval = of.interval(0.95, [0.0, 1.0]).expect("there are three");
        assert!(
            (of.mean() - 0.6).abs() < 1e-12 && (interval.low - (0.6 - 4.302_652_7 * 0.1 / 3f64.sqrt())).abs() < 1e-6
        );
        assert!((interval.high - (0.6 + 4.302_652_7 * 0.1 / 3f64.sqrt())).abs() < 1e-6);
        assert_eq!(of.interval(0.95, [0.0, 0.7]).map(|interval| interval.high), Some(0.7));
        assert_eq!(OverRepetitions::of(&proved(&[0.5], 0.1), 0.95).and_then(|of| of.interval(0.95, [0.0, 1.0])), None);
        assert_eq!(OverRepetitions::of(&[], 0.95), None);
    }

    #[test]
    fn repetitions_that_are_alike_are_as_unsure_as_their_proofs() {
        let of = OverRepetitions::of(&proved(&[1.0; 3], 0.01), 0.95).expect("there are some");
        let interval = of.interval(0.95, [0.0, 1.0]).expect("there are three");
        assert!(interval.low < 0.99 && interval.high == 1.0, "{interval:?}");
    }

    #[test]
    fn two_methods_differ_by_the_interval_of_welch() {
        let [a, b] = [[0.5, 0.6, 0.7, 0.6, 0.6], [0.2, 0.3, 0.4, 0.3, 0.3]]
            .map(|values| OverRepetitions::of(&proved(&values, 0.0), 0.95).expect("there are some"));
        let difference = a.above(&b, 0.95).expect("there are enough");
        // Equal variances of 0.005 and sizes of 5: eight degrees of freedom, t = 2.3060.
        let half = 2.306_004 * (2.0 * 0.005f64 / 5.0).sqrt();
        assert!((difference.value - 0.3).abs() < 1e-12 && (difference.half_width() - half).abs() < 1e-6);
        let alike = OverRepetitions::of(&proved(&[0.5; 3], 0.0), 0.95).expect("there are some");
        assert_eq!(alike.above(&alike, 0.95), Some(Interval::exactly(0.0)));
    }

    #[test]
    fn an_outlier_is_named_from_five_on() {
        assert_eq!(left_behind(&[0.6, 0.61, 0.2, 0.59, 0.6], false, 0.95), Some(2));
        assert_eq!(left_behind(&[0.6, 0.61, 0.2, 0.59, 0.6], true, 0.95), None);
        assert_eq!(left_behind(&[0.6, 0.2, 0.6], false, 0.95), None);
        assert_eq!(left_behind(&[0.5, 0.6, 0.55, 0.52, 0.58], false, 0.95), None);
        assert_eq!(left_behind(&[0.5; 6], false, 0.95), None);
    }
}
