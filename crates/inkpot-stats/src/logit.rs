//! Logistic regression on a few features.

use nalgebra::{SMatrix, SVector};

/// Steps of Newton at most.
const STEPS: usize = 50;
/// A weak normal prior of this precision on every weight keeps separated data finite.
const PRIOR: f64 = 0.02;

/// A logistic regression: `p = 1 / (1 + exp(-(w . x)))`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Logit<const N: usize> {
    /// The weights.
    pub weights: [f64; N],
}

impl<const N: usize> Logit<N> {
    /// Fits features with outcomes from 0 to 1 by Newton's method on the penalised likelihood. None without data, or
    /// when it does not settle.
    pub fn fit(rows: impl Iterator<Item = ([f64; N], f64)>) -> Option<Self> {
        Self { weights: [0.0; N] }.refit(rows, STEPS)
    }

    /// Fits like data from here, in this many of Newton's steps at most: two come within a thousandth of a fit that a
    /// few of a hundred blocks move. None without data.
    pub fn refit(&self, rows: impl Iterator<Item = ([f64; N], f64)>, steps: usize) -> Option<Self> {
        let rows: Vec<(SVector<f64, N>, f64)> = rows.map(|(x, y)| (SVector::from(x), y)).collect();
        if rows.is_empty() {
            return None;
        }
        let mut w = SVector::from(self.weights);
        for _ in 0..steps {
            let mut gradient = -w * PRIOR;
            let mut information = SMatrix::<f64, N, N>::identity() * PRIOR;
            for (x, y) in &rows {
                let p = share(w.dot(x));
                gradient += x * (y - p);
                information += x * x.transpose() * (p * (1.0 - p));
            }
            let step = information.cholesky()?.solve(&gradient);
            // Far from the answer a whole Newton step can overshoot.
            let length = step.norm();
            w += if length > 3.0 { step * (3.0 / length) } else { step };
            if length < 1e-10 {
                return Some(Self { weights: w.into() });
            }
        }
        w.iter().all(|x| x.is_finite()).then(|| Self { weights: w.into() })
    }

    /// The probability at these features.
    pub fn at(&self, x: &[f64; N]) -> f64 {
        share(self.weights.iter().zip(x).map(|(w, x)| w * x).sum())
    }
}

fn share(t: f64) -> f64 {
    1.0 / (1.0 + (-t).exp())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn weights_are_recovered_from_exact_shares() {
        let truth = Logit { weights: [0.3, -1.2] };
        let rows = (0..400).map(|i| {
            let x = [1.0, f64::from(i) / 100.0 - 2.0];
            (x, truth.at(&x))
        });
        let fit = Logit::fit(rows).unwrap();
        assert!(fit.weights.iter().zip(truth.weights).all(|(a, b)| (a - b).abs() < 0.01), "{fit:?}");
    }

    #[test]
    fn separated_data_stay_finite() {
        let rows = (0..20).map(|i| ([1.0, f64::from(i) - 9.5], f64::from(u8::from(i > 9))));
        let fit = Logit::fit(rows).unwrap();
        assert!(fit.weights[1].is_finite() && fit.at(&[1.0, 5.0]) > 0.9);
    }
}
