//! Activations of nodes.

use serde::{Deserialize, Serialize};

use super::wide;

/// The activation of a hidden node: a function of its sum.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Activation {
    /// The hyperbolic tangent.
    #[default]
    Tanh,
    /// The sum where it is positive, else 0.
    Relu,
}

impl Activation {
    /// All of them.
    pub const ALL: [Self; 2] = [Self::Tanh, Self::Relu];

    /// Its name in briefs and files.
    pub fn name(self) -> &'static str {
        match self {
            Self::Tanh => "tanh",
            Self::Relu => "relu",
        }
    }

    /// Applies the activation to each sum.
    pub(crate) fn over(self, sums: &mut [f32]) {
        match self {
            Self::Tanh => wide::dispatch(
                #[inline(always)]
                |_| sums.iter_mut().for_each(|x| *x = tanh(*x)),
            ),
            Self::Relu => sums.iter_mut().for_each(|x| *x = x.max(0.0)),
        }
    }
}

/// The hyperbolic tangent, within 1e-6: its continued fraction (Lambert 1761) cut off after the eleventh term, and
/// clamped at 1. Free of branches and tables, so that several are computed at once.
#[inline(always)]
pub(crate) fn tanh(x: f32) -> f32 {
    let x = x.clamp(-8.0, 8.0);
    let z = x * x;
    let above = 13_749_310_575.0 + z * (1_964_187_225.0 + z * (64_324_260.0 + z * (675_675.0 + z * (2_145.0 + z))));
    let below =
        13_749_310_575.0 + z * (6_547_290_750.0 + z * (413_513_100.0 + z * (7_567_560.0 + z * (45_045.0 + z * 66.0))));
    (x * above / below).clamp(-1.0, 1.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_tangent_is_near_the_true_one_everywhere() {
        let worst = (-8000..=8000)
            .map(|step| f64::from(step) / 1000.0)
            .fold(0.0_f64, |worst, x| worst.max((f64::from(tanh(x as f32)) - x.tanh()).abs()));
        assert!(worst < 1e-6, "{worst}");
        assert_eq!(tanh(-3.0), -tanh(3.0));
    }
}
