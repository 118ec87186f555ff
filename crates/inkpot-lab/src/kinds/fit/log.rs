//! Logged matches of people.

use inkpot_core::GameSheet;
use serde::{Deserialize, Serialize};

use super::error::FitError;
use crate::figure::{COMMON_FIGURES, Figure, Side};

/// Logged matches of people.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct HumanLog {
    /// The columns that are compared, as figures of the game.
    pub columns: Vec<String>,
    /// The matches.
    pub matches: Vec<LoggedMatch>,
}

/// A logged match.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct LoggedMatch {
    /// The name of the player.
    pub player: String,
    /// Against which of the opponents.
    pub opponent: usize,
    /// The columns' values, NaN where there is none.
    #[serde(with = "crate::gaps::many")]
    pub values: Vec<f64>,
}

/// The columns that every log may have, beside the measures of the game.
const COLUMNS: [&str; 4] = ["won", "score", "score_against", "length"];

impl HumanLog {
    /// The figure of each column.
    pub(super) fn figures(&self, sheet: &GameSheet) -> Result<Vec<Figure>, FitError> {
        let find = |column: &String| {
            let (name, side) = match column.as_str() {
                "won" => ("win_rate", Side::Player),
                "score_against" => ("score", Side::Opponent),
                other => (other, Side::Player),
            };
            Figure::find(name, side, sheet).map_err(|known| {
                let measures = known.into_iter().skip(COMMON_FIGURES);
                let known = COLUMNS.map(String::from).into_iter().chain(measures).collect();
                FitError::NoFigure { column: column.clone(), known }
            })
        };
        self.columns.iter().map(find).collect()
    }

    /// Returns each opponent's share of the matches.
    pub(super) fn shares(&self, opponents: usize) -> Vec<f64> {
        let count = |place: usize| self.matches.iter().filter(|played| played.opponent == place).count() as f64;
        (0..opponents).map(|place| count(place) / self.matches.len().max(1) as f64).collect()
    }
}
