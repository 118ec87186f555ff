//! Quadratic surfaces of the simulated means, one a column.

use inkpot_stats::Quadratic;
use nalgebra::{DMatrix, DVector};

use super::observed::Observed;
use crate::kinds::tune::spread;

/// Candidates of the least distance.
const CANDIDATES: usize = 4000;

/// The simulated means of every column as functions of the knobs.
pub(super) struct Surfaces(pub(super) Vec<Quadratic>);

impl Surfaces {
    /// Through the means at each point.
    pub(super) fn fit(points: &[Vec<f64>], means: &[Vec<f64>]) -> Option<Self> {
        let width = means.first()?.len();
        let each = (0..width).map(|column| {
            let usable = points.iter().zip(means).filter(|(_, means)| means[column].is_finite());
            let (xs, ys): (Vec<Vec<f64>>, Vec<f64>) = usable.map(|(x, means)| (x.clone(), means[column])).unzip();
            Quadratic::fit(&xs, &ys)
        });
        each.collect::<Option<Vec<_>>>().map(Self)
    }

    pub(super) fn off(&self, observed: &Observed, x: &[f64]) -> DVector<f64> {
        DVector::from_iterator(
            self.0.len(),
            self.0.iter().enumerate().map(|(i, surface)| surface.at(x) - observed.means[i]),
        )
    }

    fn distance(&self, observed: &Observed, weight: &DMatrix<f64>, x: &[f64]) -> f64 {
        let off = self.off(observed, x);
        off.dot(&weight.tr_mul(&off))
    }

    /// The point of the region that is nearest to the log.
    pub(super) fn nearest(&self, observed: &Observed, weight: &DMatrix<f64>, centre: &[f64], radius: f64) -> Vec<f64> {
        let mut best = (self.distance(observed, weight, centre), centre.to_vec());
        let mut reach = 1.2 * radius;
        for _ in 0..6 {
            let middle = best.1.clone();
            for i in 0..CANDIDATES {
                let x: Vec<f64> = spread(i, centre.len())
                    .iter()
                    .zip(&middle)
                    .map(|(u, c)| (c + reach * (2.0 * u - 1.0)).clamp(0.0, 1.0))
                    .collect();
                let distance = self.distance(observed, weight, &x);
                if distance < best.0 {
                    best = (distance, x);
                }
            }
            reach *= 0.3;
        }
        best.1
    }
}
