//! Simulated people with the matches of the log's people.

use inkpot_core::Rows;
use nalgebra::{DMatrix, DVector};

use crate::figure::{Figure, player_seat};

/// Added to the diagonal of the covariance, as a share of it, so that columns that say the same do no harm.
const RIDGE: f64 = 0.01;

/// One simulated person: sum and count of every column over the matches.
pub(super) type PersonSums = Vec<(f64, f64)>;

/// The means of every column over all people.
pub(super) fn means(run: &[PersonSums]) -> Vec<f64> {
    let width = run.first().map_or(0, Vec::len);
    let total = |column: usize| run.iter().fold((0.0, 0.0), |sum, run| (sum.0 + run[column].0, sum.1 + run[column].1));
    (0..width).map(total).map(|(sum, count)| sum / count).collect()
}

/// The inverse of the covariance of column means over this many people like those simulated, with a ridge.
pub(super) fn weight_of(run: &[PersonSums], people: usize) -> Option<DMatrix<f64>> {
    let (means, n) = (means(run), run.len() as f64);
    let width = means.len();
    let counts: Vec<f64> = (0..width).map(|column| run.iter().map(|run| run[column].1).sum::<f64>() / n).collect();
    let mut covariance = DMatrix::zeros(width, width);
    for block in run {
        let off = DVector::from_fn(width, |i, _| (block[i].0 - block[i].1 * means[i]) / counts[i]);
        covariance.ger(1.0 / (n - 1.0) / people as f64, &off, &off, 1.0);
    }
    for i in 0..width {
        covariance[(i, i)] *= 1.0 + RIDGE;
    }
    covariance.cholesky().map(|factor| factor.inverse())
}

/// One person against every opponent that was met, each counted as often as it was: `rows` are those of a block with
/// each.
pub(super) fn person(
    met: &[(usize, f64)],
    figures: &[Figure],
    rows: &[Rows],
    ticks_per_second: Option<f64>,
) -> PersonSums {
    let mut sums = vec![(0.0, 0.0); figures.len()];
    for (rows, (_, share)) in rows.iter().zip(met) {
        for played in rows.matches().filter(|played| !played.is_void()) {
            let player_seat = player_seat(played);
            for (figure, sum) in figures.iter().zip(&mut sums) {
                let x = figure.of(played, player_seat, ticks_per_second);
                if x.is_finite() {
                    *sum = (sum.0 + share * x, sum.1 + share);
                }
            }
        }
    }
    sums
}

/// The sums of a person as a row of numbers.
pub(super) fn flat(sums: &PersonSums) -> Vec<f64> {
    sums.iter().flat_map(|&(sum, count)| [sum, count]).collect()
}

/// The same read back.
pub(super) fn sums(flat: &[f64]) -> PersonSums {
    flat.chunks_exact(2).map(|pair| (pair[0], pair[1])).collect()
}
