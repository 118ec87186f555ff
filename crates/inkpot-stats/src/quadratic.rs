//! A quadratic response surface by least squares.

use nalgebra::{DMatrix, DVector};

/// A quadratic in a few variables, fitted by least squares (Box & Wilson 1951).
#[derive(Clone, Debug)]
pub struct Quadratic {
    weights: DVector<f64>,
    inverse: DMatrix<f64>,
    residual_variance: f64,
    dimensions: usize,
}

impl Quadratic {
    /// Points that a fit over this many variables needs at least.
    pub fn terms(dimensions: usize) -> usize {
        1 + dimensions + dimensions * (dimensions + 1) / 2
    }

    /// Fits `ys` measured at `xs`. None with no more points than terms, or when the points do not tell the terms apart.
    pub fn fit(xs: &[Vec<f64>], ys: &[f64]) -> Option<Self> {
        let dimensions = xs.first()?.len();
        let terms = Self::terms(dimensions);
        if xs.len() <= terms {
            return None;
        }
        let rows: Vec<DVector<f64>> = xs.iter().map(|x| features(x)).collect();
        let mut normal = DMatrix::zeros(terms, terms);
        let mut right = DVector::zeros(terms);
        for (row, y) in rows.iter().zip(ys) {
            normal.ger(1.0, row, row, 1.0);
            right.axpy(*y, row, 1.0);
        }
        let inverse = normal.cholesky()?.inverse();
        let weights = inverse.tr_mul(&right);
        let squares: f64 = rows.iter().zip(ys).map(|(row, y)| (y - row.dot(&weights)).powi(2)).sum();
        let residual_variance = squares / (xs.len() - terms) as f64;
        Some(Self { weights, inverse, residual_variance, dimensions })
    }

    /// The value at a point.
    pub fn at(&self, x: &[f64]) -> f64 {
        self.weights.dot(&features(x))
    }

    /// The variance of the value at a point, as an estimate of the mean there.
    pub fn variance_at(&self, x: &[f64]) -> f64 {
        let row = features(x);
        self.residual_variance * row.dot(&self.inverse.tr_mul(&row))
    }

    /// The slopes at a point.
    pub fn slopes(&self, x: &[f64]) -> Vec<f64> {
        let d = self.dimensions;
        let mut slopes: Vec<f64> = (0..d).map(|i| self.weights[1 + i]).collect();
        let mut term = 1 + d;
        for i in 0..d {
            for j in i..d {
                let w = self.weights[term];
                slopes[i] += w * x[j];
                slopes[j] += w * x[i];
                term += 1;
            }
        }
        slopes
    }
}

fn features(x: &[f64]) -> DVector<f64> {
    let squares = (0..x.len()).flat_map(|i| (i..x.len()).map(move |j| x[i] * x[j]));
    let all: Vec<f64> = std::iter::once(1.0).chain(x.iter().copied()).chain(squares).collect();
    DVector::from_vec(all)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn truth(x: &[f64]) -> f64 {
        1.0 - 2.0 * x[0] + 0.5 * x[1] + 3.0 * x[0] * x[1] - x[1] * x[1]
    }

    fn grid() -> Vec<Vec<f64>> {
        (0..16).map(|i| vec![f64::from(i % 4) / 3.0, f64::from(i / 4) / 3.0]).collect()
    }

    #[test]
    fn an_exact_quadratic_and_its_slopes_are_recovered() {
        let xs = grid();
        let ys: Vec<f64> = xs.iter().map(|x| truth(x)).collect();
        let fit = Quadratic::fit(&xs, &ys).unwrap();
        let x = [0.4, 0.7];
        assert!((fit.at(&x) - truth(&x)).abs() < 1e-9);
        let slopes = fit.slopes(&x);
        assert!((slopes[0] - (-2.0 + 3.0 * 0.7)).abs() < 1e-8 && (slopes[1] - (0.5 + 1.2 - 1.4)).abs() < 1e-8);
        assert!(fit.variance_at(&x) < 1e-12);
    }

    #[test]
    fn as_many_points_as_terms_are_too_few() {
        let xs: Vec<Vec<f64>> = grid().into_iter().take(6).collect();
        assert!(Quadratic::fit(&xs, &[0.0; 6]).is_none());
    }
}
