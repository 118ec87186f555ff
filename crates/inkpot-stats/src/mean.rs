//! Means of scores and measures over blocks.

use serde::{Deserialize, Serialize};

use crate::Interval;
use crate::interval::t_quantile;

/// Fewer blocks than this say too little of how a mean varies for an interval that holds.
pub const FEWEST_BLOCKS: u64 = 20;

/// The scale of a figure: the numbers that it can take, as far as that is known.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Scale {
    /// Any.
    #[default]
    Any,
    /// A number of events a match: 0 and up, whole in each match.
    Count,
    /// Part of something: 0 to 1.
    Share,
}

/// A mean, with its interval where there are enough blocks for one.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Mean {
    /// The mean.
    pub value: f64,
    /// Lower end; none for too few blocks, or if all had the same value.
    pub low: Option<f64>,
    /// Upper end.
    pub high: Option<f64>,
    /// Whether it has no interval because enough blocks all had the same value.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub alike: bool,
}

impl Mean {
    /// With its interval, where there is one.
    pub fn interval(&self) -> Option<Interval> {
        Some(Interval { value: self.value, low: self.low?, high: self.high? })
    }
}

impl From<Interval> for Mean {
    fn from(interval: Interval) -> Self {
        Self { value: interval.value, low: Some(interval.low), high: Some(interval.high), alike: false }
    }
}

/// Count, mean, spread and ends of block means, summed as they come (Welford 1962).
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Moments {
    scale: Scale,
    count: f64,
    mean: f64,
    squares: f64,
    /// Least and most; none where they are not known.
    ends: Option<(f64, f64)>,
    decided: bool,
}

impl Moments {
    /// None yet, of figures on this scale.
    pub fn on(scale: Scale) -> Self {
        Self { scale, ..Self::default() }
    }

    /// This many values with this mean and standard deviation.
    pub fn of(count: u64, mean: f64, sd: f64) -> Self {
        Self { count: count as f64, mean, squares: sd * sd * (count as f64 - 1.0).max(0.0), ..Self::default() }
    }

    /// Counts a value; one that is not finite is left out (a share of nothing has no value).
    pub fn push(&mut self, x: f64) {
        if x.is_finite() {
            self.count += 1.0;
            let step = x - self.mean;
            self.mean += step / self.count;
            self.squares += step * (x - self.mean);
            let (low, high) = self.ends.unwrap_or((x, x));
            self.ends = Some((low.min(x), high.max(x)));
        }
    }

    /// Says that no chance is left in the values: the mean is known without error.
    pub fn decide(&mut self) {
        self.decided = true;
    }

    /// Values so far.
    pub fn count(&self) -> u64 {
        self.count as u64
    }

    /// Their mean; none without a value.
    pub fn mean(&self) -> Option<f64> {
        (self.count > 0.0).then_some(self.mean)
    }

    /// Their standard deviation (n - 1); none of fewer than two.
    pub fn sd(&self) -> Option<f64> {
        (self.count > 1.0).then(|| (self.squares / (self.count - 1.0)).sqrt())
    }

    /// The mean, with its interval where there is one; none without a value.
    pub fn estimate(&self, confidence: f64) -> Option<Mean> {
        let alike = self.count >= FEWEST_BLOCKS as f64;
        let none = Mean { value: self.mean()?, low: None, high: None, alike };
        Some(self.interval(confidence).map_or(none, Mean::from))
    }

    /// The mean with its interval over blocks; none of fewer than [`FEWEST_BLOCKS`], and none of values that are all
    /// the same, unless these are decided, or ends of their scale.
    ///
    /// Student's t after one pseudo-block at the least value seen and one at the most are added: of rare events and
    /// skewed figures a plain t interval is too short, since few blocks seldom show their tail. Where a count or a
    /// share was at an end of its scale in every block, blocks that are not are as rare as n such say (one minus the
    /// n-th root of the tail, Clopper & Pearson 1934), and are taken for one event or the whole share.
    pub fn interval(&self, confidence: f64) -> Option<Interval> {
        if self.decided {
            return self.mean().map(Interval::exactly);
        }
        if self.count < FEWEST_BLOCKS as f64 {
            return None;
        }
        let (low, high) = match self.ends {
            Some((low, high)) if low == high => return self.at_an_end(low, confidence),
            Some(ends) => ends,
            None => return Some(self.t_interval(0.0, self.mean, self.squares, confidence)),
        };
        let centre = (self.count * self.mean + low + high) / (self.count + 2.0);
        let squares =
            self.squares + self.count * (self.mean - centre).powi(2) + (low - centre).powi(2) + (high - centre).powi(2);
        Some(self.t_interval(2.0, centre, squares, confidence))
    }

    /// Student's t around a centre, with this many values more than were counted.
    fn t_interval(&self, more: f64, centre: f64, squares: f64, confidence: f64) -> Interval {
        let n = self.count + more;
        let error = (squares / (n - 1.0) / n).sqrt();
        let margin = t_quantile(f64::midpoint(1.0, confidence), self.count - 1.0) * error;
        let (least, most) = match self.scale {
            Scale::Any => (f64::NEG_INFINITY, f64::INFINITY),
            Scale::Count => (0.0, f64::INFINITY),
            Scale::Share => (0.0, 1.0),
        };
        let value = self.mean;
        let (low, high) = ((centre - margin).max(least), (centre + margin).min(most));
        Interval { value, low: low.min(value), high: high.max(value) }
    }

    /// Returns the interval of values that all lie at an end of their scale.
    fn at_an_end(&self, value: f64, confidence: f64) -> Option<Interval> {
        let rare = unseen(self.count, (1.0 - confidence) / 2.0);
        match self.scale {
            Scale::Count | Scale::Share if value == 0.0 => Some(Interval { value, low: 0.0, high: rare }),
            Scale::Share if value == 1.0 => Some(Interval { value, low: 1.0 - rare, high: 1.0 }),
            _ => None,
        }
    }
}

/// The largest share of which this many show nothing with at least the probability of this tail (Clopper & Pearson
/// 1934).
pub(crate) fn unseen(count: f64, tail: f64) -> f64 {
    1.0 - tail.powf(1.0 / count)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(scale: Scale, values: impl IntoIterator<Item = f64>) -> Moments {
        let mut moments = Moments::on(scale);
        values.into_iter().for_each(|x| moments.push(x));
        moments
    }

    #[test]
    fn interval_of_a_worked_example() {
        // 1 to 20 with 1 and 20 once more: mean 10.5, sum of squares 665 + 2 * 9.5^2 = 845.5; t(19) = 2.093024.
        let interval = of(Scale::Any, (1..=20).map(f64::from).chain([f64::NAN])).interval(0.95).unwrap();
        assert_eq!(interval.value, 10.5);
        let margin = 2.093_024 * (845.5f64 / 21.0 / 22.0).sqrt();
        assert!((interval.half_width() - margin).abs() < 1e-5, "{interval:?}");
    }

    #[test]
    fn a_plain_t_interval_where_the_ends_are_not_known() {
        // t(99) = 1.984217.
        let interval = Moments::of(100, 5.0, 2.0).interval(0.95).unwrap();
        assert!((interval.half_width() - 0.1 * 2.0 * 1.984_217).abs() < 1e-6, "{interval:?}");
    }

    #[test]
    fn few_blocks_have_a_mean_and_no_interval() {
        let few = of(Scale::Any, (0..19).map(f64::from));
        assert_eq!(few.estimate(0.95), Some(Mean { value: 9.0, low: None, high: None, alike: false }));
        assert!(of(Scale::Any, (0..20).map(f64::from)).interval(0.95).is_some());
        let same = of(Scale::Any, [9.0; 20]);
        assert_eq!(same.estimate(0.95), Some(Mean { value: 9.0, low: None, high: None, alike: true }));
        assert_eq!(of(Scale::Any, []).estimate(0.95), None);
    }

    #[test]
    fn what_never_varied_has_no_interval_but_at_an_end_of_its_scale() {
        assert_eq!(of(Scale::Any, [3.0; 40]).interval(0.95), None);
        assert_eq!(of(Scale::Count, [3.0; 40]).interval(0.95), None);
        // 0.025^(1/40) = 0.911907.
        let never = of(Scale::Count, [0.0; 40]).interval(0.95).unwrap();
        assert!(never.low == 0.0 && (never.high - 0.088_093).abs() < 1e-5, "{never:?}");
        let always = of(Scale::Share, [1.0; 40]).interval(0.95).unwrap();
        assert!(always.high == 1.0 && (1.0 - always.low - never.high).abs() < 1e-12, "{always:?}");
        let mut decided = of(Scale::Any, [3.0]);
        decided.decide();
        assert_eq!(decided.interval(0.95), Some(Interval::exactly(3.0)));
    }

    #[test]
    fn ends_stay_on_the_scale() {
        let rare = of(Scale::Count, (0..30).map(|i| f64::from(u8::from(i == 7)))).interval(0.95).unwrap();
        assert!(rare.low == 0.0 && rare.high > 0.1, "{rare:?}");
        let most = of(Scale::Share, (0..30).map(|i| f64::from(u8::from(i != 7)))).interval(0.95).unwrap();
        assert!(most.high == 1.0 && most.low < 0.9, "{most:?}");
    }
}
