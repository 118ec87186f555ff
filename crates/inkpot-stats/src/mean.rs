//! Means of scores and measures over blocks.

use crate::Interval;
use crate::interval::t_quantile;

/// Count, mean and spread of block means, summed as they come (Welford 1962).
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Moments {
    count: f64,
    mean: f64,
    squares: f64,
}

impl Moments {
    /// So many values with this mean and standard deviation.
    pub fn of(count: u64, mean: f64, sd: f64) -> Self {
        Self { count: count as f64, mean, squares: sd * sd * (count as f64 - 1.0).max(0.0) }
    }

    /// Counts a value; what is not finite is left out (a share of nothing has no value).
    pub fn push(&mut self, x: f64) {
        if x.is_finite() {
            self.count += 1.0;
            let step = x - self.mean;
            self.mean += step / self.count;
            self.squares += step * (x - self.mean);
        }
    }

    /// Counts all values so far so many times more each.
    pub fn again(&mut self, times: u64) {
        let factor = 1.0 + times as f64;
        self.count *= factor;
        self.squares *= factor;
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

    /// The mean with Student's t interval over blocks; none of fewer than two.
    pub fn interval(&self, confidence: f64) -> Option<Interval> {
        let margin = t_quantile(f64::midpoint(1.0, confidence), self.count - 1.0) * self.sd()? / self.count.sqrt();
        Some(Interval { value: self.mean, low: self.mean - margin, high: self.mean + margin })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn counting_again_is_pushing_again() {
        let (mut again, mut pushed) = (Moments::default(), Moments::default());
        for x in [1.0, 4.0] {
            again.push(x);
        }
        again.again(2);
        for x in [1.0, 4.0, 1.0, 4.0, 1.0, 4.0] {
            pushed.push(x);
        }
        let close = |a: f64, b: f64| assert!((a - b).abs() < 1e-12, "{a} against {b}");
        close(again.interval(0.95).unwrap().low, pushed.interval(0.95).unwrap().low);
        assert_eq!((again.count(), again.mean()), (6, pushed.mean()));
    }

    #[test]
    fn t_interval_of_a_worked_example() {
        // 2, 4, 4, 4, 5, 5, 7, 9: mean 5, sum of squares 32, sd 2.13809, t(7) = 2.364624.
        let mut moments = Moments::default();
        for x in [2.0, 4.0, 4.0, f64::NAN, 4.0, 5.0, 5.0, 7.0, 9.0] {
            moments.push(x);
        }
        let seen = moments.interval(0.95).unwrap();
        assert_eq!((moments.count(), seen.value), (8, 5.0));
        let margin = 2.364_624 * (32.0f64 / 7.0).sqrt() / 8f64.sqrt();
        assert!((seen.half_width() - margin).abs() < 1e-5);
    }

    #[test]
    fn one_value_has_no_interval() {
        let mut moments = Moments::default();
        moments.push(3.0);
        assert_eq!((moments.mean(), moments.interval(0.95)), (Some(3.0), None));
    }
}
