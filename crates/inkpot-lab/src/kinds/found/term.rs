//! Fitness: named figures with weights.

use inkpot_core::{GameSheet, MatchRows, Seat};
use inkpot_learn::Fitness;
use serde::{Deserialize, Serialize};

use crate::figure::Figure;

/// A named part of a fitness.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Term {
    /// The figure's name.
    pub figure: String,
    /// The figure is multiplied by this; negative where less is better.
    pub weight: f64,
    /// The value for a match that has no such figure.
    pub missing: Option<f64>,
    /// The time of its pay as a reward.
    #[serde(default)]
    pub pays: Pays,
    pub(crate) of: Figure,
}

/// The times at which a term of a reward pays.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Pays {
    /// At every decision, by how far the figure has changed.
    #[default]
    Change,
    /// At the end of the match, by the figure's final value.
    End,
    /// At every decision, by the discounted change of the figure, and all of it back at the end: which leaves the best
    /// policy as it is (Ng, Harada & Russell 1999).
    Shape,
}

impl Pays {
    /// All of them.
    pub const ALL: [Self; 3] = [Self::Change, Self::End, Self::Shape];

    /// Its name in briefs.
    pub fn name(self) -> &'static str {
        match self {
            Self::Change => "change",
            Self::End => "end",
            Self::Shape => "shape",
        }
    }
}

impl Term {
    /// Its value in a match of which this is the candidate's seat.
    pub(crate) fn value(&self, played: MatchRows, seat: Seat, sheet: &GameSheet) -> f64 {
        let value = self.of.of(played, seat, sheet.ticks_per_second);
        if value.is_finite() { value } else { self.missing.unwrap_or(f64::NAN) }
    }
}

/// The mean figures of a candidate over its blocks.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Figures {
    #[serde(with = "crate::gaps::many")]
    pub(crate) terms: Vec<f64>,
    #[serde(with = "crate::gaps::number")]
    pub(crate) outcome: f64,
}

/// Returns the fitness of these values: their weighted sum, or one after the other. A term without a value ranks below
/// any value.
pub(crate) fn fitness(terms: &[Term], values: &[f64], in_turn: bool) -> Fitness {
    let known = |x: f64| if x.is_finite() { x } else { f64::MIN };
    let weighted = terms.iter().zip(values).map(|(term, value)| term.weight * value);
    if in_turn { Fitness::in_turn(weighted.map(known).collect()) } else { Fitness::of(known(weighted.sum())) }
}
