//! Fitness: named figures with weights.

use inkpot_core::{GameSheet, MatchRows, Seat};
use inkpot_learn::Worth;
use serde::{Deserialize, Serialize};

use crate::figure::Figure;

/// A named part of a fitness.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Term {
    /// The figure's name.
    pub figure: String,
    /// The figure is multiplied by this; negative where less is better.
    pub weight: f64,
    /// What stands in for a match that has no such figure.
    pub missing: Option<f64>,
    pub(super) of: Figure,
}

impl Term {
    /// Its value in a match of which this is the candidate's seat.
    pub(super) fn value(&self, played: MatchRows, seat: Seat, sheet: &GameSheet) -> f64 {
        let value = self.of.of(played, seat, sheet.ticks_per_second);
        if value.is_finite() { value } else { self.missing.unwrap_or(f64::NAN) }
    }
}

/// The mean figures of a candidate over its blocks.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Figures {
    #[serde(with = "crate::gaps::many")]
    pub(super) terms: Vec<f64>,
    #[serde(with = "crate::gaps::one")]
    pub(super) outcome: f64,
}

/// What the values of these terms are worth: their weighted sum, or one after the other. A term without a value is worth
/// less than any.
pub(super) fn worth(terms: &[Term], values: &[f64], in_turn: bool) -> Worth {
    let known = |x: f64| if x.is_finite() { x } else { f64::MIN };
    let weighted = terms.iter().zip(values).map(|(term, value)| term.weight * value);
    if in_turn { Worth::in_turn(weighted.map(known).collect()) } else { Worth::of(known(weighted.sum())) }
}
