//! The finding of a fit.

use nalgebra::DMatrix;
use serde::{Deserialize, Serialize};

use super::Fit;
use super::observed::Observed;
use super::surfaces::Surfaces;

/// A knob this close to an end of its range, in shares of it, lies at the end.
const AT_END: f64 = 0.01;

/// The result of a fit.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Fitted {
    /// The knobs with their intervals.
    pub knobs: Vec<FittedKnob>,
    /// The columns: logged and simulated means.
    pub columns: Vec<FittedColumn>,
    /// P-value of the remaining distance: small when no values of these knobs play like the log. None where there are
    /// as many knobs as columns, or fewer people than columns beyond the knobs.
    pub misfit_p: Option<f64>,
    /// People in the log.
    pub people: usize,
    /// Logged matches.
    pub logged: usize,
    /// Matches of the search.
    pub simulated: u64,
}

/// A fitted knob.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "the knob, its value with the interval, and whether it lies at an end of its range")]
pub struct FittedKnob {
    pub knob: String,
    pub value: f64,
    pub low: f64,
    pub high: f64,
    pub at_end: bool,
}

/// A column that was compared.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct FittedColumn {
    /// The column.
    pub column: String,
    /// Its mean in the log.
    pub logged: f64,
    /// Standard error of that, over people.
    pub logged_se: f64,
    /// Mean of the fitted stand-in: by the search until it is proved.
    pub simulated: f64,
    /// Lower end of the mean's interval, once it is proved.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub low: Option<f64>,
    /// Upper end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub high: Option<f64>,
}

/// The fit at a point, given in shares of the ranges; none where the log does not tell the knobs apart.
pub(super) fn fitted(
    fit: &Fit,
    observed: &Observed,
    weight: &DMatrix<f64>,
    surfaces: &Surfaces,
    at: &[f64],
) -> Option<Fitted> {
    let (columns, knobs) = (surfaces.0.len(), at.len());
    let slopes: Vec<Vec<f64>> = surfaces.0.iter().map(|surface| surface.slopes(at)).collect();
    let jacobian = DMatrix::from_fn(columns, knobs, |i, j| slopes[i][j]);
    let weighted = weight * &jacobian;
    let bread = jacobian.tr_mul(&weighted).cholesky()?.inverse();
    // Both the log and the simulation are uncertain.
    let mut noise = observed.covariance.clone();
    for (i, surface) in surfaces.0.iter().enumerate() {
        noise[(i, i)] += surface.variance_at(at);
    }
    let covariance = &bread * weighted.tr_mul(&(&noise * &weighted)) * &bread;
    let t = inkpot_stats::student_quantile(f64::midpoint(1.0, fit.ground.confidence), observed.people as f64 - 1.0);
    let turned = fit.free.iter().zip(at).enumerate().map(|(i, (free, share))| {
        let (low, high) = free.bounds();
        let margin = t * covariance[(i, i)].max(0.0).sqrt() * (high - low);
        let centre = low + share * (high - low);
        FittedKnob {
            knob: free.knob.clone(),
            value: rounded(centre, margin),
            low: (centre - margin).max(low),
            high: (centre + margin).min(high),
            at_end: *share < AT_END || *share > 1.0 - AT_END,
        }
    });
    let off = surfaces.off(observed, at);
    let distance = off.dot(&noise.cholesky()?.solve(&off));
    let column = |i: usize| FittedColumn {
        column: fit.log.columns[i].clone(),
        logged: observed.means[i],
        logged_se: observed.covariance[(i, i)].sqrt(),
        simulated: surfaces.0[i].at(at),
        low: None,
        high: None,
    };
    Some(Fitted {
        knobs: turned.collect(),
        columns: (0..columns).map(column).collect(),
        // The log's people estimate the covariance, so chi-square would reject a right log too often.
        misfit_p: columns
            .checked_sub(knobs)
            .filter(|left| *left > 0)
            .and_then(|left| inkpot_stats::hotelling_above(distance, left, observed.people)),
        people: observed.people,
        logged: fit.log.matches.len(),
        simulated: 0,
    })
}

/// Rounds a value to one digit beyond its interval's precision: the proof uses the published value.
fn rounded(x: f64, margin: f64) -> f64 {
    if !(margin > 0.0 && margin.is_finite()) {
        return x;
    }
    let scale = 10f64.powf((2.0 - margin.log10().floor()).clamp(0.0, 5.0));
    (x * scale).round() / scale
}

#[cfg(test)]
mod tests {
    use super::rounded;

    #[test]
    fn values_keep_a_digit_more_than_their_margin_has() {
        assert_eq!(rounded(0.123_456, 0.02), 0.1235);
        assert_eq!(rounded(341.678, 25.0), 341.7);
        assert_eq!(rounded(1_234.567, 300.0), 1_235.0);
        assert_eq!(rounded(0.5, 0.0), 0.5);
    }
}
