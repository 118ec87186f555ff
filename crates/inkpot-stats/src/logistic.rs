//! The logistic curve with lapse rates.

use nalgebra::{Matrix4, Vector4};
use serde::{Deserialize, Serialize};

/// One measured point of a curve.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct CurvePoint {
    /// Knob value.
    pub x: f64,
    /// Share seen there, 0 to 1.
    pub share: f64,
    /// Independent matches that the share is worth.
    pub weight: f64,
}

/// `floor + (ceiling - floor) / (1 + exp(-slope * (x - midpoint)))`: a logistic curve with lapse rates, since some
/// matches are lost or won whatever the knob's value (Wichmann & Hill 2001).
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct LapseLogistic {
    /// Share far below (slope > 0) or above the midpoint.
    pub floor: f64,
    /// Share at the other end.
    pub ceiling: f64,
    /// Knob value half-way between floor and ceiling.
    pub midpoint: f64,
    /// Steepness, in 1 / knob unit; negative for a falling curve.
    pub slope: f64,
}

/// A lapse rate is at most this.
pub(crate) const MOST_LAPSE: f64 = 0.45;
/// The curve is at most this steep over half the range of x.
const STEEPEST: f64 = 60.0;
/// Weak prior on each lapse rate, Beta(1, 10): without it, floor and slope trade off where the data reach no plateau.
pub(crate) const LAPSE_PRIOR: f64 = 9.0;
const STEPS: usize = 60;

impl LapseLogistic {
    /// The curve at `x`.
    pub fn at(&self, x: f64) -> f64 {
        self.floor + (self.ceiling - self.floor) * logistic(self.slope * (x - self.midpoint))
    }

    /// The value where the curve takes `share`; none where it never does.
    pub fn solve(&self, share: f64) -> Option<f64> {
        let odds = (share - self.floor) / (self.ceiling - share);
        (odds > 0.0 && self.slope != 0.0).then(|| self.midpoint + odds.ln() / self.slope)
    }

    /// Maximum-likelihood fit (binomial, with a weak Beta(1, 10) prior on both lapse rates) to at least two points, by
    /// Fisher scoring with Levenberg's damping inside the bounds; `start` saves steps where a fit of like data is
    /// known.
    pub fn fit(points: &[CurvePoint], start: Option<&Self>) -> Self {
        let scale = Scale::of(points);
        let begin = start.map_or_else(|| guess(points, scale), |curve| scale.params(curve));
        scale.curve(climb(points, scale, begin))
    }
}

/// Maps x to `[-1, 1]`, where steps of all parameters are of like size.
#[derive(Clone, Copy)]
pub(crate) struct Scale {
    middle: f64,
    pub(crate) half: f64,
}

/// Lapse at the floor, lapse at the ceiling, intercept and slope over the scaled x.
pub(crate) type Params = Vector4<f64>;

impl Scale {
    pub(crate) fn of(points: &[CurvePoint]) -> Self {
        let low = points.iter().map(|point| point.x).fold(f64::INFINITY, f64::min);
        let high = points.iter().map(|point| point.x).fold(f64::NEG_INFINITY, f64::max);
        let half = if high > low { (high - low) / 2.0 } else { 1.0 };
        Self { middle: f64::midpoint(low, high), half }
    }

    pub(crate) fn z(self, x: f64) -> f64 {
        (x - self.middle) / self.half
    }

    fn curve(self, params: Params) -> LapseLogistic {
        let slope = if params[3] == 0.0 { 1e-9 } else { params[3] };
        LapseLogistic {
            floor: params[0],
            ceiling: 1.0 - params[1],
            midpoint: self.middle - self.half * params[2] / slope,
            slope: slope / self.half,
        }
    }

    pub(crate) fn params(self, curve: &LapseLogistic) -> Params {
        let slope = curve.slope * self.half;
        let params = Vector4::new(curve.floor, 1.0 - curve.ceiling, -(slope * self.z(curve.midpoint)), slope);
        inside(params)
    }
}

fn inside(mut params: Params) -> Params {
    params[0] = params[0].clamp(0.0, MOST_LAPSE);
    params[1] = params[1].clamp(0.0, MOST_LAPSE);
    params[2] = params[2].clamp(-2.0 * STEEPEST, 2.0 * STEEPEST);
    params[3] = params[3].clamp(-STEEPEST, STEEPEST);
    params
}

/// Least squares on the empirical logits.
fn guess(points: &[CurvePoint], scale: Scale) -> Params {
    let logit = |point: &CurvePoint| {
        let share = point.share.clamp(0.03, 0.97);
        (share / (1.0 - share)).ln()
    };
    let n = points.len() as f64;
    let mean_z = points.iter().map(|point| scale.z(point.x)).sum::<f64>() / n;
    let mean_y = points.iter().map(logit).sum::<f64>() / n;
    let (mut zy, mut zz) = (0.0, 1e-9);
    for point in points {
        let z = scale.z(point.x) - mean_z;
        zy += z * (logit(point) - mean_y);
        zz += z * z;
    }
    let slope = zy / zz;
    inside(Vector4::new(0.02, 0.02, mean_y - slope * mean_z, slope))
}

fn climb(points: &[CurvePoint], scale: Scale, mut params: Params) -> Params {
    let mut damping = 1e-3;
    let mut best = objective(points, scale, params);
    for _ in 0..STEPS {
        let (gradient, information) = derivatives(points, scale, params);
        let mut gained = 0.0;
        while damping < 1e9 {
            let next = inside(params + step(params, gradient, information, damping));
            let value = objective(points, scale, next);
            if value >= best {
                gained = value - best;
                (params, best) = (next, value);
                damping = (damping * 0.2).max(1e-9);
                break;
            }
            damping *= 5.0;
        }
        if gained < 1e-10 * (1.0 + best.abs()) {
            break;
        }
    }
    params
}

/// A damped step; a lapse rate that presses against its bound stays there.
fn step(params: Params, gradient: Params, information: Matrix4<f64>, damping: f64) -> Params {
    let mut matrix = information;
    let mut slope = gradient;
    for i in 0..4 {
        matrix[(i, i)] += damping * (information[(i, i)] + 1e-6);
        let pinned =
            i < 2 && ((params[i] <= 0.0 && gradient[i] < 0.0) || (params[i] >= MOST_LAPSE && gradient[i] > 0.0));
        if pinned {
            matrix.row_mut(i).fill(0.0);
            matrix.column_mut(i).fill(0.0);
            matrix[(i, i)] = 1.0;
            slope[i] = 0.0;
        }
    }
    matrix.cholesky().map_or(slope * 1e-6, |factor| factor.solve(&slope))
}

fn objective(points: &[CurvePoint], scale: Scale, params: Params) -> f64 {
    let fit: f64 = points
        .iter()
        .map(|point| {
            let p = predicted(params, scale.z(point.x)).0;
            point.weight * (point.share * p.ln() + (1.0 - point.share) * (1.0 - p).ln())
        })
        .sum();
    fit + LAPSE_PRIOR * ((1.0 - params[0]).ln() + (1.0 - params[1]).ln())
}

/// The curve and its logistic part.
pub(crate) fn predicted(params: Params, z: f64) -> (f64, f64) {
    let s = logistic(params[2] + params[3] * z);
    let p = params[0] + (1.0 - params[0] - params[1]) * s;
    (p.clamp(1e-9, 1.0 - 1e-9), s)
}

pub(crate) fn derivatives(points: &[CurvePoint], scale: Scale, params: Params) -> (Params, Matrix4<f64>) {
    let span = 1.0 - params[0] - params[1];
    let mut gradient = Vector4::new(-LAPSE_PRIOR / (1.0 - params[0]), -LAPSE_PRIOR / (1.0 - params[1]), 0.0, 0.0);
    let mut information = Matrix4::zeros();
    for point in points {
        let z = scale.z(point.x);
        let (p, s) = predicted(params, z);
        let tilt = span * s * (1.0 - s);
        let direction = Vector4::new(1.0 - s, -s, tilt, tilt * z);
        let precision = point.weight / (p * (1.0 - p));
        gradient += direction * (precision * (point.share - p));
        information += direction * direction.transpose() * precision;
    }
    (gradient, information)
}

fn logistic(t: f64) -> f64 {
    1.0 / (1.0 + (-t).exp())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn points(curve: &LapseLogistic, count: u32) -> Vec<CurvePoint> {
        (0..count)
            .map(|i| {
                let x = f64::from(i) / f64::from(count - 1) * 10.0;
                CurvePoint { x, share: curve.at(x), weight: 1e6 }
            })
            .collect()
    }

    #[test]
    fn a_curve_without_noise_is_recovered() {
        for truth in [
            LapseLogistic { floor: 0.05, ceiling: 0.92, midpoint: 4.0, slope: 1.3 },
            LapseLogistic { floor: 0.0, ceiling: 1.0, midpoint: 6.5, slope: -0.8 },
            LapseLogistic { floor: 0.2, ceiling: 0.97, midpoint: 5.0, slope: -3.0 },
        ] {
            let points = points(&truth, 15);
            let fit = LapseLogistic::fit(&points, None);
            for point in &points {
                assert!((fit.at(point.x) - point.share).abs() < 2e-3, "{truth:?} fitted as {fit:?}");
            }
            let x = truth.solve(0.55).unwrap();
            assert!((fit.solve(0.55).unwrap() - x).abs() < 0.02);
        }
    }

    #[test]
    fn gradient_agrees_with_finite_differences() {
        let truth = LapseLogistic { floor: 0.1, ceiling: 0.9, midpoint: 4.0, slope: 0.9 };
        let points = points(&truth, 9);
        let scale = Scale::of(&points);
        let at = Vector4::new(0.07, 0.12, 0.3, 2.0);
        let (gradient, _) = derivatives(&points, scale, at);
        for i in 0..4 {
            let mut up = at;
            let mut down = at;
            up[i] += 1e-6;
            down[i] -= 1e-6;
            let numeric = (objective(&points, scale, up) - objective(&points, scale, down)) / 2e-6;
            assert!((gradient[i] / numeric - 1.0).abs() < 1e-3, "parameter {i}: {} and {numeric}", gradient[i]);
        }
    }

    #[test]
    fn a_share_outside_floor_and_ceiling_has_no_solution() {
        let curve = LapseLogistic { floor: 0.1, ceiling: 0.9, midpoint: 0.0, slope: 1.0 };
        assert_eq!(curve.solve(0.05), None);
        assert_eq!(curve.solve(0.95), None);
        assert_eq!(curve.solve(0.5), Some(0.0));
    }

    #[test]
    fn steps_and_flat_data_do_not_run_away() {
        for shares in [[0.0, 0.0, 1.0, 1.0], [0.5, 0.5, 0.5, 0.5], [0.0, 0.0, 0.0, 0.0], [1.0, 0.0, 1.0, 0.0]] {
            let points: Vec<CurvePoint> =
                shares.iter().enumerate().map(|(i, &share)| CurvePoint { x: i as f64, share, weight: 50.0 }).collect();
            let fit = LapseLogistic::fit(&points, None);
            assert!(points.iter().all(|point| fit.at(point.x).is_finite()), "{shares:?}: {fit:?}");
        }
    }
}
