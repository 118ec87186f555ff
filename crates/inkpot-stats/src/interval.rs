//! A figure with its uncertainty.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, FisherSnedecor, Normal, StudentsT};
use statrs::function::beta::beta_reg;

/// An estimate and the interval that holds the true value with the stated confidence.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Interval {
    /// The estimate.
    pub value: f64,
    /// Lower end.
    pub low: f64,
    /// Upper end.
    pub high: f64,
}

impl Interval {
    /// An interval without width, of a number that is known without error. No other interval has none.
    pub fn exactly(value: f64) -> Self {
        Self { value, low: value, high: value }
    }

    /// Whether it is known without error.
    pub fn is_exact(&self) -> bool {
        self.low == self.high
    }

    /// Whether the interval holds `x`, ends included.
    pub fn holds(&self, x: f64) -> bool {
        self.low <= x && x <= self.high
    }

    /// Half its width.
    pub fn half_width(&self) -> f64 {
        (self.high - self.low) / 2.0
    }

    /// Returns the difference from another interval of the same confidence and independent data (variance estimates
    /// recovered from the ends: Zou & Donner 2008). For common blocks it is wider than necessary.
    #[must_use]
    pub fn minus(&self, other: &Self) -> Self {
        let value = self.value - other.value;
        let low = (self.value - self.low).hypot(other.high - other.value);
        let high = (self.high - self.value).hypot(other.value - other.low);
        Self { value, low: value - low, high: value + high }
    }

    /// One minus it, for shares.
    #[must_use]
    pub fn complement(&self) -> Self {
        Self { value: 1.0 - self.value, low: 1.0 - self.high, high: 1.0 - self.low }
    }
}

/// Quantile of Student's t with `df` degrees of freedom; of the normal distribution beyond a million.
pub(crate) fn t_quantile(p: f64, df: f64) -> f64 {
    if df > 1e6 {
        return normal_quantile(p);
    }
    StudentsT::new(0.0, 1.0, df.max(1.0)).map_or(f64::NAN, |t| t.inverse_cdf(p))
}

/// Quantile of the standard normal distribution.
pub(crate) fn normal_quantile(p: f64) -> f64 {
    Normal::standard().inverse_cdf(p)
}

/// Quantile of Student's t with `df` degrees of freedom.
pub fn student_quantile(p: f64, df: f64) -> f64 {
    t_quantile(p, df)
}

/// Share of the distribution of Hotelling's T² (1931) above `x`, for this many dimensions and a covariance estimated from
/// `units` observations: *T² (n - q) / (q (n - 1))* follows F with *q* and *n - q* degrees of freedom. None of too few units.
pub fn hotelling_above(x: f64, dimensions: usize, units: usize) -> Option<f64> {
    let (q, n) = (dimensions as f64, units as f64);
    let law = FisherSnedecor::new(q, n - q).ok().filter(|_| n > q)?;
    Some(law.sf(x * (n - q) / (q * (n - 1.0))))
}

/// Density of the standard normal distribution.
pub fn normal_density(x: f64) -> f64 {
    (-0.5 * x * x).exp() / (2.0 * std::f64::consts::PI).sqrt()
}

/// Share of the standard normal distribution below `x`.
pub fn normal_share(x: f64) -> f64 {
    Normal::standard().cdf(x)
}

/// Quantile of the beta distribution, both shapes positive: Newton's steps on the regularised incomplete beta
/// function, kept inside a shrinking bracket.
pub(crate) fn beta_quantile(p: f64, a: f64, b: f64) -> f64 {
    let (mut low, mut high) = (0.0, 1.0);
    let ln_beta = statrs::function::beta::ln_beta(a, b);
    let mut x = a / (a + b);
    for _ in 0..200 {
        let error = beta_reg(a, b, x) - p;
        if error > 0.0 {
            high = x;
        } else {
            low = x;
        }
        let density = ((a - 1.0) * x.ln() + (b - 1.0) * (-x).ln_1p() - ln_beta).exp();
        let newton = x - error / density;
        let next = if newton > low && newton < high { newton } else { f64::midpoint(low, high) };
        if (next - x).abs() <= 1e-13 * x.max(1e-300) || high - low < 1e-15 {
            return next;
        }
        x = next;
    }
    x
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hotelling_is_wider_than_chi_square_and_comes_to_it_with_many_units() {
        // From any table of F: 5 % lie above 2.124 with 9 and 40 degrees of freedom, so above 9 x 48 / 40 of that as T².
        // By chi-square 0.6 % would.
        let t2 = 2.124 * 9.0 * 48.0 / 40.0;
        assert!((hotelling_above(t2, 9, 49).expect("there are enough") - 0.05).abs() < 2e-4);
        let many = hotelling_above(16.919, 9, 1_000_000).expect("there are enough");
        assert!((many - 0.05).abs() < 1e-3, "{many}");
        assert_eq!(hotelling_above(1.0, 9, 9), None);
    }

    #[test]
    fn quantiles_match_printed_tables() {
        // Student's t: any textbook table; beta with shape 1: closed forms 1 - (1-p)^(1/b) and p^(1/a).
        let cases = [
            ("t 4", t_quantile(0.975, 4.0), 2.776_445, 1e-5),
            ("t 30", t_quantile(0.975, 30.0), 2.042_272, 1e-5),
            ("t 1", t_quantile(0.975, 1.0), 12.706_205, 1e-4),
            ("normal", normal_quantile(0.975), 1.959_964, 1e-6),
            ("beta 1 b", beta_quantile(0.025, 1.0, 8.0), 1.0 - 0.975f64.powf(0.125), 1e-12),
            ("beta a 1", beta_quantile(0.975, 3.0, 1.0), 0.975f64.powf(1.0 / 3.0), 1e-12),
            ("beta symmetric", beta_quantile(0.5, 400.5, 400.5), 0.5, 1e-12),
        ];
        for (what, interval, expected, tolerance) in cases {
            assert!((interval - expected).abs() < tolerance, "{what}: {interval} instead of {expected}");
        }
    }

    #[test]
    fn beta_quantile_inverts_the_distribution_function() {
        for (a, b) in [(0.5, 20.5), (0.5, 0.5), (1900.2, 3.1), (12.0, 80.0), (5e5, 5e5)] {
            for p in [0.001, 0.025, 0.5, 0.975, 0.999] {
                let x = beta_quantile(p, a, b);
                assert!((beta_reg(a, b, x) - p).abs() < 1e-9, "({a}, {b}) at {p}: {x}");
            }
        }
    }
}
