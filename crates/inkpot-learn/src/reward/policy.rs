//! Decisions by chance: their likelihood, and its gradient by a network's outputs.

use inkpot_core::{ActionSpace, Chance, Intent};
use serde::{Deserialize, Serialize};

/// The half of the logarithm of two pi.
pub(super) const HALF_LN_TWO_PI: f32 = 0.918_938_5;

/// The actions of a policy.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Actions {
    /// One of this many options: outputs are logarithms of their chances, up to a constant.
    Options(usize),
    /// This many values, each around its output by a normal error.
    Values(usize),
}

impl Actions {
    /// The actions of an action space.
    #[must_use]
    pub fn of(space: &ActionSpace) -> Self {
        match space {
            ActionSpace::Discrete(options) => Self::Options(options.len()),
            ActionSpace::Continuous(figures) => Self::Values(figures.len()),
        }
    }

    /// Outputs of a network.
    #[must_use]
    pub fn outputs(self) -> usize {
        match self {
            Self::Options(count) | Self::Values(count) => count,
        }
    }

    /// Numbers of a decision.
    pub(super) fn width(self) -> usize {
        match self {
            Self::Options(_) => 1,
            Self::Values(count) => count,
        }
    }

    /// Returns the number of options; 0 for values.
    pub(super) fn options(self) -> usize {
        match self {
            Self::Options(count) => count,
            Self::Values(_) => 0,
        }
    }

    /// Draws a decision, as one number for an option or its values, and gives the logarithm of its likelihood.
    pub(super) fn draw(self, outputs: &[f32], log_sd: &[f32], chance: &mut Chance, into: &mut Vec<f32>) -> f32 {
        match self {
            Self::Options(_) => {
                let logs = log_chances(outputs);
                let mut left = chance.unit() as f32;
                let mut taken = logs.len() - 1;
                for (option, log) in logs.iter().enumerate() {
                    left -= libm::expf(*log);
                    if left < 0.0 {
                        taken = option;
                        break;
                    }
                }
                into.push(taken as f32);
                logs[taken]
            }
            Self::Values(_) => {
                let first = into.len();
                into.extend(
                    outputs.iter().zip(log_sd).map(|(mean, log)| mean + libm::expf(*log) * chance.normal() as f32),
                );
                log_density(outputs, log_sd, &into[first..])
            }
        }
    }

    /// The decision that these numbers stand for.
    pub(super) fn intent<'a>(self, decided: &'a [f32], clamped: &'a mut Vec<f32>) -> Intent<'a> {
        match self {
            Self::Options(_) => Intent::Option(decided[0] as usize),
            Self::Values(_) => {
                clamped.clear();
                clamped.extend(decided.iter().map(|x| x.clamp(-1.0, 1.0)));
                Intent::Values(clamped)
            }
        }
    }
}

/// Logarithms of the chances of each option (log softmax).
pub(super) fn log_chances(outputs: &[f32]) -> Vec<f32> {
    let most = outputs.iter().copied().fold(f32::NEG_INFINITY, f32::max);
    let sum: f32 = outputs.iter().map(|x| libm::expf(x - most)).sum();
    let whole = most + libm::logf(sum);
    outputs.iter().map(|x| x - whole).collect()
}

/// Logarithm of the density of these values.
pub(super) fn log_density(means: &[f32], log_sd: &[f32], values: &[f32]) -> f32 {
    let each = means.iter().zip(log_sd).zip(values);
    each.map(|((mean, log), value)| {
        let off = (value - mean) * libm::expf(-log);
        -0.5 * off * off - log - HALF_LN_TWO_PI
    })
    .sum()
}
