//! Models of all rungs, and the cost of a rung's point.

use inkpot_stats::normal_density;

use super::curve::{ProbeCurve, samples_of, wanted};
use super::surface::ProbeSurface;
use super::{Probed, Target, Tune};

/// Soft targets count this much against hard ones.
const SOFT: f64 = 0.05;

/// The models of all rungs.
pub(crate) enum Models {
    /// One knob and one win rate a rung.
    Curves(Vec<Option<ProbeCurve>>),
    /// Surrogates of every target.
    Surfaces(Vec<ProbeSurface>),
}

impl Models {
    pub(crate) fn fit(tune: &Tune, history: &[Probed]) -> Self {
        let rungs = 0..tune.rungs.len();
        if tune.follows_a_curve() {
            let curve = |rung: usize| {
                let wanted = wanted(&tune.rungs[rung].targets[0]);
                ProbeCurve::fit(&tune.free[0], &samples_of(history, rung, 0), wanted, tune.ground.confidence)
            };
            Self::Curves(rungs.map(curve).collect())
        } else {
            Self::Surfaces(rungs.map(|rung| ProbeSurface::fit(tune, history, rung)).collect())
        }
    }

    /// Mean and variance of each target's figure of a rung at a point.
    pub(crate) fn at(&self, tune: &Tune, rung: usize, point: &[f64]) -> Vec<(f64, f64)> {
        match self {
            Self::Curves(curves) => {
                let at = |known: &ProbeCurve| {
                    let sd = known.curve.share_sd(point[0]);
                    (known.curve.at(point[0]).value, sd * sd)
                };
                vec![curves[rung].as_ref().map_or((f64::NAN, 0.0), at)]
            }
            Self::Surfaces(surfaces) => surfaces[rung].at(&tune.shares_of(point)),
        }
    }

    pub(crate) fn loss(&self, tune: &Tune, rung: usize, point: &[f64], ignored: Option<usize>) -> f64 {
        let targets = tune.rungs[rung].targets.iter().enumerate().filter(|(place, _)| Some(*place) != ignored);
        let estimates = self.at(tune, rung, point);
        targets.map(|(place, target)| loss_of(target, estimates[place].0, estimates[place].1)).sum()
    }
}

/// Returns the expected loss of a target whose figure has this mean and variance: squared distance from its value or
/// range, in tolerances.
pub(crate) fn loss_of(target: &Target, mean: f64, variance: f64) -> f64 {
    if !mean.is_finite() {
        return 1e6;
    }
    let sd = variance.sqrt();
    // E[max(0, z)^2] of a normal z.
    let beyond = |m: f64| {
        if sd < 1e-12 {
            return m.max(0.0).powi(2);
        }
        let u = m / sd;
        (m * m + variance) * inkpot_stats::normal_share(u) + m * sd * normal_density(u)
    };
    let within = target.within();
    let off = if let Some(value) = target.value {
        (mean - value).powi(2) + variance
    } else {
        // The ends of a range are kept a fifth of its half-width away.
        let inset = 0.2 * within;
        let below = if target.low().is_finite() { beyond(target.low() + inset - mean) } else { 0.0 };
        let above = if target.high().is_finite() { beyond(mean - target.high() + inset) } else { 0.0 };
        below + above
    };
    // A hard target is met or not: near an end squares alone would give little for being on the right side of it.
    let misses = |distance: f64| {
        if sd < 1e-12 { f64::from(u8::from(distance > 0.0)) } else { inkpot_stats::normal_share(distance / sd) }
    };
    let missed = if target.hard { misses(target.low() - mean) + misses(mean - target.high()) } else { 0.0 };
    let counts = if target.hard { target.weight } else { SOFT * target.weight };
    counts * (off / (within * within) + missed)
}
