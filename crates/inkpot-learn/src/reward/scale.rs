//! Numbers on a common scale.

use serde::{Deserialize, Serialize};

use crate::Dense;

/// The least standard deviation used: nearly constant figures are not magnified.
const LEAST: f64 = 0.01;

/// Running means and variances of a row of figures (Welford 1962).
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Normaliser {
    count: f64,
    mean: Vec<f64>,
    squares: Vec<f64>,
}

impl Normaliser {
    /// Builds a scale of this many figures without data, which leaves them unchanged.
    #[must_use]
    pub fn new(figures: usize) -> Self {
        Self { count: 0.0, mean: vec![0.0; figures], squares: vec![0.0; figures] }
    }

    /// Takes in one row.
    pub fn see(&mut self, row: &[f32]) {
        self.count += 1.0;
        for ((mean, squares), x) in self.mean.iter_mut().zip(&mut self.squares).zip(row) {
            let step = f64::from(*x) - *mean;
            *mean += step / self.count;
            *squares += step * (f64::from(*x) - *mean);
        }
    }

    /// The standard deviation of a figure, at least 0.01; 1 before two rows were seen.
    #[must_use]
    pub fn sd(&self, figure: usize) -> f64 {
        if self.count < 2.0 { 1.0 } else { (self.squares[figure] / self.count).sqrt().max(LEAST) }
    }

    fn mean(&self, figure: usize) -> f64 {
        if self.count < 2.0 { 0.0 } else { self.mean[figure] }
    }

    /// Returns the map from rows to the common scale.
    pub(super) fn ready(&self) -> Ready {
        let figures = 0..self.mean.len();
        Ready {
            mean: figures.clone().map(|figure| self.mean(figure) as f32).collect(),
            factor: figures.map(|figure| (1.0 / self.sd(figure)) as f32).collect(),
        }
    }

    /// Returns the network that does for plain rows what this one does for rows on the common scale.
    #[must_use]
    pub fn inside(&self, network: &Dense) -> Dense {
        let (sizes, mut parameters) = (network.sizes().to_vec(), network.parameters().to_vec());
        let (inputs, outputs) = (sizes[0], sizes[1]);
        let (weights, rest) = parameters.split_at_mut(inputs * outputs);
        let mut moved = vec![0.0_f64; outputs];
        for (figure, row) in weights.chunks_exact_mut(outputs).enumerate() {
            for (weight, moved) in row.iter_mut().zip(&mut moved) {
                let scaled = f64::from(*weight) / self.sd(figure);
                *moved += scaled * self.mean(figure);
                *weight = scaled as f32;
            }
        }
        rest.iter_mut().zip(moved).for_each(|(bias, moved)| *bias = (f64::from(*bias) - moved) as f32);
        Dense::new(sizes, network.activation(), parameters).expect("the layers have not changed")
    }
}

/// Takes rows to the common scale as it stood at one time.
pub(super) struct Ready {
    mean: Vec<f32>,
    factor: Vec<f32>,
}

impl Ready {
    /// Rows to the common scale, in place.
    pub(super) fn scale(&self, rows: &mut [f32]) {
        for row in rows.chunks_exact_mut(self.mean.len()) {
            for ((x, mean), factor) in row.iter_mut().zip(&self.mean).zip(&self.factor) {
                *x = (*x - mean) * factor;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use inkpot_core::Chance;

    use super::*;
    use crate::{Activation, Pass};

    #[test]
    fn rows_come_to_mean_0_and_deviation_1() {
        let (mut chance, mut scale) = (Chance::from_seed(4), Normaliser::new(2));
        let mut rows: Vec<f32> = (0..2000).flat_map(|_| [(3.0 + 2.0 * chance.normal()) as f32, 0.25]).collect();
        rows.chunks(2).for_each(|row| scale.see(row));
        scale.ready().scale(&mut rows);
        let mean = rows.iter().step_by(2).sum::<f32>() / 2000.0;
        let square = rows.iter().step_by(2).map(|x| x * x).sum::<f32>() / 2000.0;
        assert!(mean.abs() < 1e-3 && (square - 1.0).abs() < 1e-3, "{mean} {square}");
        assert_eq!(rows[1], 0.0, "what never varies says nothing");
    }

    #[test]
    fn a_network_with_the_scale_inside_gives_the_same() {
        let (mut chance, mut scale) = (Chance::from_seed(6), Normaliser::new(3));
        let mut row = || [0.5, -0.2, 0.0].map(|middle| (middle + 0.3 * chance.normal()) as f32);
        let rows: Vec<f32> = (0..200).flat_map(|_| row()).collect();
        rows.chunks(3).for_each(|row| scale.see(row));
        let sizes = vec![3, 8, 2];
        let parameters: Vec<f32> = (0..Dense::count(&sizes)).map(|_| chance.normal() as f32).collect();
        let network = Dense::new(sizes, Activation::Tanh, parameters).unwrap();
        let mut scaled = rows.clone();
        scale.ready().scale(&mut scaled);
        let (mut a, mut b) = (Pass::default(), Pass::default());
        let inside = scale.inside(&network);
        let apart = a.forward(&network, &scaled).iter().zip(b.forward(&inside, &rows)).map(|(a, b)| (a - b).abs());
        assert!(apart.fold(0.0, f32::max) < 1e-4);
    }
}
