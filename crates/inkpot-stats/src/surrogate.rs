//! A surrogate of a noisy figure over several knobs: a Gaussian process.

use nalgebra::{Cholesky, DMatrix, DVector, Dyn};

/// Length scales that are tried, as shares of a knob's range.
const LENGTHS: [f64; 7] = [0.12, 0.2, 0.35, 0.6, 1.0, 2.0, 4.0];
/// Rounds over all knobs in search of the lengths.
const ROUNDS: usize = 2;
/// Spreads that are tried, as multiples of the seen standard deviation.
const SPREADS: [f64; 3] = [0.7, 1.2, 2.5];
/// Added to the diagonal, relative to the spread, so that the matrix can be inverted.
const JITTER: f64 = 1e-6;

/// A Gaussian process over the unit cube with Matérn's kernel (smoothness 5/2), a length a knob and noise that differs
/// from point to point (Rasmussen & Williams 2006, chapters 2, 4 and 5).
#[derive(Clone, Debug)]
pub struct Surrogate {
    xs: Vec<Vec<f64>>,
    mean: f64,
    spread: f64,
    lengths: Vec<f64>,
    factor: Cholesky<f64, Dyn>,
    weights: DVector<f64>,
}

impl Surrogate {
    /// Fits figures `ys`, measured at `xs` (each coordinate 0 to 1) with these variances of their means. Lengths and
    /// spread maximise the marginal likelihood over a grid, one at a time.
    ///
    /// None without points, or when the noise of none is known.
    pub fn fit(xs: &[Vec<f64>], ys: &[f64], noise: &[f64]) -> Option<Self> {
        let n = xs.len();
        if n == 0 || !noise.iter().all(|v| v.is_finite()) {
            return None;
        }
        let mean = ys.iter().sum::<f64>() / n as f64;
        let sd = (ys.iter().map(|y| (y - mean).powi(2)).sum::<f64>() / n as f64).sqrt();
        let base = if sd > 0.0 { sd } else { 1e-6 };
        let dimensions = xs[0].len();
        let mut best = (f64::NEG_INFINITY, vec![1.0; dimensions], base * SPREADS[1]);
        let try_out = |lengths: &[f64], spread: f64| {
            let (factor, weights) = solve(xs, ys, noise, mean, lengths, spread)?;
            let residual = DVector::from_iterator(n, ys.iter().map(|y| y - mean));
            let log_det: f64 = factor.l_dirty().diagonal().iter().map(|d| d.ln()).sum();
            // A weak pull towards lengths of about the whole range, so that few points do not make a rough surface.
            let pull: f64 = lengths.iter().map(|length| 0.5 * (length / 0.8).ln().powi(2)).sum();
            Some(-0.5 * residual.dot(&weights) - log_det - pull)
        };
        for _ in 0..ROUNDS {
            for axis in 0..dimensions {
                for length in LENGTHS {
                    let mut lengths = best.1.clone();
                    lengths[axis] = length;
                    let value = try_out(&lengths, best.2).unwrap_or(f64::NEG_INFINITY);
                    if value > best.0 {
                        best = (value, lengths, best.2);
                    }
                }
            }
            for factor in SPREADS {
                let value = try_out(&best.1, base * factor).unwrap_or(f64::NEG_INFINITY);
                if value > best.0 {
                    best = (value, best.1.clone(), base * factor);
                }
            }
        }
        let (_, lengths, spread) = best;
        let (factor, weights) = solve(xs, ys, noise, mean, &lengths, spread)?;
        Some(Self { xs: xs.to_vec(), mean, spread, lengths, factor, weights })
    }

    /// Mean and variance of the figure at a point, its own noise left out.
    pub fn at(&self, x: &[f64]) -> (f64, f64) {
        let k = self.covariances(x);
        let mean = self.mean + k.dot(&self.weights);
        let explained = k.dot(&self.factor.solve(&k));
        (mean, (self.spread * self.spread - explained).max(0.0))
    }

    /// One draw of the figure over these points jointly, from as many standard normal numbers.
    pub fn draw(&self, points: &[Vec<f64>], normals: &[f64]) -> Vec<f64> {
        let n = points.len();
        let cross = DMatrix::from_fn(self.xs.len(), n, |i, j| self.kernel(&self.xs[i], &points[j]));
        let solved = self.factor.solve(&cross);
        let mut joint = DMatrix::from_fn(n, n, |i, j| self.kernel(&points[i], &points[j])) - cross.tr_mul(&solved);
        let means = cross.tr_mul(&self.weights);
        let mut jitter = self.spread * self.spread * JITTER;
        for _ in 0..8 {
            for i in 0..n {
                joint[(i, i)] += jitter;
            }
            if let Some(factor) = Cholesky::new(joint.clone()) {
                let drawn = factor.l() * DVector::from_column_slice(normals);
                return (0..n).map(|i| self.mean + means[i] + drawn[i]).collect();
            }
            jitter *= 10.0;
        }
        (0..n).map(|i| self.mean + means[i]).collect()
    }

    fn covariances(&self, x: &[f64]) -> DVector<f64> {
        DVector::from_iterator(self.xs.len(), self.xs.iter().map(|known| self.kernel(known, x)))
    }

    fn kernel(&self, a: &[f64], b: &[f64]) -> f64 {
        kernel(a, b, &self.lengths, self.spread)
    }
}

fn solve(
    xs: &[Vec<f64>],
    ys: &[f64],
    noise: &[f64],
    mean: f64,
    lengths: &[f64],
    spread: f64,
) -> Option<(Cholesky<f64, Dyn>, DVector<f64>)> {
    let n = xs.len();
    let mut matrix = DMatrix::from_fn(n, n, |i, j| kernel(&xs[i], &xs[j], lengths, spread));
    for i in 0..n {
        matrix[(i, i)] += noise[i] + JITTER * spread * spread;
    }
    let factor = Cholesky::new(matrix)?;
    let weights = factor.solve(&DVector::from_iterator(n, ys.iter().map(|y| y - mean)));
    Some((factor, weights))
}

/// Matérn's kernel of smoothness 5/2.
fn kernel(a: &[f64], b: &[f64], lengths: &[f64], spread: f64) -> f64 {
    let square: f64 = a.iter().zip(b).zip(lengths).map(|((a, b), length)| ((a - b) / length).powi(2)).sum();
    let r = (5.0 * square).sqrt();
    spread * spread * (1.0 + r + r * r / 3.0) * (-r).exp()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn grid() -> Vec<Vec<f64>> {
        (0..25).map(|i| vec![f64::from(i % 5) / 4.0, f64::from(i / 5) / 4.0]).collect()
    }

    #[test]
    fn a_smooth_surface_is_found_again_between_the_points() {
        let truth = |x: &[f64]| (2.0 * x[0]).sin() + 0.3 * x[1];
        let xs = grid();
        let ys: Vec<f64> = xs.iter().map(|x| truth(x)).collect();
        let fit = Surrogate::fit(&xs, &ys, &[1e-6; 25]).unwrap();
        for x in [[0.1, 0.9], [0.37, 0.61], [0.8, 0.12]] {
            let (mean, variance) = fit.at(&x);
            assert!((mean - truth(&x)).abs() < 0.01, "{x:?}: {mean} for {}", truth(&x));
            assert!(variance.sqrt() < 0.1);
        }
    }

    #[test]
    fn noise_is_not_taken_for_shape() {
        // A flat figure with noise of 0.1 at every point: the surface stays near flat and says how unsure it is.
        let xs = grid();
        let ys: Vec<f64> = (0..25).map(|i| if i % 2 == 0 { 0.1 } else { -0.1 }).collect();
        let fit = Surrogate::fit(&xs, &ys, &[0.01; 25]).unwrap();
        let (mean, variance) = fit.at(&[0.5, 0.5]);
        assert!(mean.abs() < 0.06, "{mean}");
        assert!(variance > 0.0 && variance < 0.01);
    }

    #[test]
    fn far_from_all_points_it_knows_nothing() {
        let xs = vec![vec![0.0], vec![0.05], vec![0.1]];
        let fit = Surrogate::fit(&xs, &[1.0, -1.0, 1.0], &[1e-4; 3]).unwrap();
        assert!(fit.at(&[1.0]).1 > 10.0 * fit.at(&[0.05]).1);
    }

    #[test]
    fn draws_agree_with_the_mean_where_it_is_known() {
        let xs = grid();
        let ys: Vec<f64> = xs.iter().map(|x| x[0] + x[1]).collect();
        let fit = Surrogate::fit(&xs, &ys, &[1e-6; 25]).unwrap();
        let drawn = fit.draw(&[vec![0.5, 0.5], vec![0.25, 0.75]], &[1.5, -1.5]);
        assert!(drawn.iter().all(|y| (y - 1.0).abs() < 0.05), "{drawn:?}");
    }
}
