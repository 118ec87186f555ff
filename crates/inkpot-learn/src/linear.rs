//! Symmetric matrices as plain numbers, so that they can be written down.

use nalgebra::{DMatrix, SymmetricEigen};
use serde::{Deserialize, Serialize};

/// The axes of an ellipsoid: unit vectors, and half the length of each.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Axes {
    /// The axes one after the other; none where they are those of the space.
    turned: Vec<f64>,
    pub(crate) lengths: Vec<f64>,
}

impl Axes {
    /// A ball of radius 1.
    pub(crate) fn ball(n: usize) -> Self {
        Self { turned: Vec::new(), lengths: vec![1.0; n] }
    }

    /// Those of a covariance that is given by its diagonal.
    pub(crate) fn of_diagonal(diagonal: &[f64]) -> Self {
        Self { turned: Vec::new(), lengths: diagonal.iter().map(|x| x.max(0.0).sqrt()).collect() }
    }

    /// Those of a covariance given row by row.
    pub(crate) fn of_matrix(rows: &[f64], n: usize) -> Self {
        let eigen = SymmetricEigen::new(DMatrix::from_row_slice(n, n, rows));
        let lengths = eigen.eigenvalues.iter().map(|x| x.max(0.0).sqrt()).collect();
        Self { turned: eigen.eigenvectors.as_slice().to_vec(), lengths }
    }

    fn axis(&self, index: usize) -> &[f64] {
        let n = self.lengths.len();
        &self.turned[index * n..(index + 1) * n]
    }

    /// The point of the ellipsoid for one of the ball.
    pub(crate) fn stretched(&self, ball: &[f64]) -> Vec<f64> {
        if self.turned.is_empty() {
            return ball.iter().zip(&self.lengths).map(|(x, length)| x * length).collect();
        }
        let mut all = vec![0.0; ball.len()];
        for (index, (x, length)) in ball.iter().zip(&self.lengths).enumerate() {
            all.iter_mut().zip(self.axis(index)).for_each(|(sum, along)| *sum += x * length * along);
        }
        all
    }

    /// The inverse square root of the covariance times a vector: how long it is in terms of the ellipsoid, in directions
    /// of the space.
    pub(crate) fn whitened(&self, vector: &[f64]) -> Vec<f64> {
        if self.turned.is_empty() {
            return vector.iter().zip(&self.lengths).map(|(x, length)| x / length).collect();
        }
        let mut all = vec![0.0; vector.len()];
        for (index, length) in self.lengths.iter().enumerate() {
            let axis = self.axis(index);
            let share = axis.iter().zip(vector).map(|(a, x)| a * x).sum::<f64>() / length;
            all.iter_mut().zip(axis).for_each(|(sum, along)| *sum += share * along);
        }
        all
    }

    /// The longest axis by the shortest, squared: the condition of the covariance.
    pub(crate) fn condition(&self) -> f64 {
        let (low, high) =
            self.lengths.iter().fold((f64::INFINITY, 0.0_f64), |(low, high), x| (low.min(*x), high.max(*x)));
        (high / low).powi(2)
    }
}

pub(crate) fn norm(vector: &[f64]) -> f64 {
    vector.iter().map(|x| x * x).sum::<f64>().sqrt()
}
