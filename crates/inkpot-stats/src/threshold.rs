//! The knob value at which a curve takes a wanted share, how sure it is, and what the surest design would have cost.

use nalgebra::{Matrix4, Vector4};

use crate::interval::normal_quantile;
use crate::logistic::{LAPSE_PRIOR, MOST_LAPSE, Scale, derivatives, predicted};
use crate::{CurvePoint, LapseLogistic};

/// The knob value that gives a wanted share on a fitted curve.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Threshold {
    /// The value.
    pub value: f64,
    /// Its standard error, in knob units.
    pub sd: f64,
    /// Steepness of the curve there, in share per knob unit.
    pub slope: f64,
}

impl Threshold {
    /// Where a curve fitted to these points takes the value `share`; none where it never does.
    ///
    /// The standard error is by the delta method from the inverse of the expected information, in which the prior on
    /// the lapse rates counts and a lapse rate that presses against its bound is taken for known.
    pub fn of(curve: &LapseLogistic, points: &[CurvePoint], share: f64) -> Option<Self> {
        let value = curve.solve(share).filter(|value| value.is_finite())?;
        let scale = Scale::of(points);
        let params = scale.params(curve);
        let (gradient, mut information) = derivatives(points, scale, params);
        for i in 0..2 {
            information[(i, i)] += LAPSE_PRIOR / (1.0 - params[i]).powi(2);
            let pinned = (params[i] <= 1e-9 && gradient[i] < 0.0) || params[i] >= MOST_LAPSE - 1e-9;
            if pinned {
                fix(&mut information, i);
            }
        }
        let z = scale.z(value);
        let (_, s) = predicted(params, z);
        let tilt = (1.0 - params[0] - params[1]) * s * (1.0 - s);
        let direction = Vector4::new(1.0 - s, -s, tilt, tilt * z);
        let along = information.cholesky()?.solve(&direction);
        let slope = tilt * params[3] / scale.half;
        let share_sd = direction.dot(&along).max(0.0).sqrt();
        (slope != 0.0).then(|| Self { value, sd: share_sd / slope.abs(), slope })
    }

    /// The standard error of the share at the value: that of the knob times the steepness.
    pub fn share_sd(&self) -> f64 {
        self.sd * self.slope.abs()
    }

    /// The value's normal interval.
    pub fn interval(&self, confidence: f64) -> (f64, f64) {
        let margin = normal_quantile(f64::midpoint(1.0, confidence)) * self.sd;
        (self.value - margin, self.value + margin)
    }

    /// Independent matches that any design needs at least for this standard error: all at the value itself, `p (1 - p) /
    /// (slope sd)^2` (the inverse of Fisher's information of one match there).
    pub fn least_matches(share: f64, slope: f64, sd: f64) -> f64 {
        share * (1.0 - share) / (slope * sd).powi(2)
    }
}

/// Takes a parameter for known.
fn fix(information: &mut Matrix4<f64>, i: usize) {
    information.row_mut(i).fill(0.0);
    information.column_mut(i).fill(0.0);
    information[(i, i)] = 1e12;
}

#[cfg(test)]
mod tests {
    use super::*;

    const TRUTH: LapseLogistic = LapseLogistic { floor: 0.04, ceiling: 0.95, midpoint: 0.5, slope: -6.0 };

    fn points(xs: &[f64], weight: f64) -> Vec<CurvePoint> {
        xs.iter().map(|&x| CurvePoint { x, share: TRUTH.at(x), weight }).collect()
    }

    #[test]
    fn all_matches_at_the_value_reach_the_least_of_any_design() {
        // Nearly all of them: a few far away so that the curve is known at all.
        let value = TRUTH.solve(0.6).unwrap();
        let mut all = points(&[0.0, 0.25, 0.75, 1.0], 2000.0);
        all.extend(points(&[value], 1e6));
        let found = Threshold::of(&TRUTH, &all, 0.6).unwrap();
        let least = Threshold::least_matches(0.6, found.slope, found.sd);
        assert!((least / 1e6 - 1.0).abs() < 0.02, "{least}");
        assert!((found.value - value).abs() < 1e-9);
    }

    #[test]
    fn the_error_agrees_with_refitting_shifted_shares() {
        // Derivative of the solution by each share, numerically, with independent binomial errors.
        let xs: Vec<f64> = (0..9).map(|i| f64::from(i) / 8.0).collect();
        let all = points(&xs, 4000.0);
        let curve = LapseLogistic::fit(&all, Some(&TRUTH));
        let base = curve.solve(0.45).unwrap();
        let mut variance = 0.0;
        for i in 0..all.len() {
            let mut shifted = all.clone();
            shifted[i].share += 1e-4;
            let moved = LapseLogistic::fit(&shifted, Some(&curve)).solve(0.45).unwrap();
            let p = all[i].share;
            variance += ((moved - base) / 1e-4).powi(2) * p * (1.0 - p) / all[i].weight;
        }
        let found = Threshold::of(&curve, &all, 0.45).unwrap();
        assert!((found.sd / variance.sqrt() - 1.0).abs() < 0.05, "{} and {}", found.sd, variance.sqrt());
    }

    #[test]
    fn a_share_that_the_curve_never_takes_has_no_threshold() {
        assert_eq!(Threshold::of(&TRUTH, &points(&[0.0, 0.5, 1.0], 100.0), 0.99), None);
    }
}
