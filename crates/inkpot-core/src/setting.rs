//! A setting: rules, level and number of seats.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::{FeatureSheet, Knobs, Laying, Level, Seating};

/// A setting to play: resolved rules, a level, and the cast.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Setting {
    /// Every rules knob.
    pub rules: Knobs,
    /// The level, resolved.
    pub level: Level,
    /// The cast, one a seat.
    pub cast: Vec<Casting>,
    /// The seating: how the matches of a block spread the cast.
    pub seating: Seating,
    /// The seed of all chance.
    pub study_seed: u64,
    /// The number of the seats' chance: settings of one number share it, block by block, so that their matches go alike
    /// as far as possible. Worlds and people are common to all settings of a study.
    pub pairing: u64,
}

impl Setting {
    /// Returns the data from which matches are laid, for a game with these features.
    pub fn laying<'a>(&'a self, features: Option<&'a FeatureSheet>) -> Laying<'a> {
        Laying { rules: &self.rules, level: &self.level, seats: self.cast.len(), features }
    }
}

/// One entrant of a setting.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Casting {
    /// Its place in the study.
    pub entrant: u16,
    /// Agent kind.
    pub kind: String,
    /// Every knob of the kind.
    pub knobs: Knobs,
    /// Whether its choices are kept with its rows, so that the match plays again without it.
    pub recorded: bool,
}

impl Casting {
    /// An agent whose choices need no record.
    pub fn new(entrant: u16, kind: &str, knobs: Knobs) -> Self {
        Self { entrant, kind: kind.into(), knobs, recorded: false }
    }

    /// One agent in every one of this many seats, each an entrant of its own.
    pub fn everywhere(kind: &str, knobs: &Knobs, seats: usize) -> Vec<Self> {
        (0..seats as u16).map(|entrant| Self::new(entrant, kind, knobs.clone())).collect()
    }
}

/// An error: the setting cannot be staged.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum SettingError {
    /// The game has no such agent kind.
    #[error("the game `{game}` has no agent `{kind}`")]
    #[expect(missing_docs, reason = "the game's and the kind's names")]
    NoSuchAgent { game: String, kind: String },
    /// The number of entrants does not fit the seats.
    #[error("`{game}` has {seats} seats, not {got}")]
    #[expect(missing_docs, reason = "the game's name, its seats in words, and how many sat down")]
    Seats { game: String, seats: String, got: usize },
    /// The game wants more seats than a match can have.
    #[error("`{game}` has up to {seats} seats, and a match can have {most}")]
    #[expect(missing_docs, reason = "the game's name, the seats of its sheet, and the most there can be")]
    TooManySeats { game: String, seats: usize, most: usize },
    /// The level cannot be laid.
    #[error("the level `{level}` of `{game}` cannot be built: {reason}")]
    #[expect(missing_docs, reason = "the game's name, the level as typed, and what is wrong with it")]
    Level { game: String, level: String, reason: String },
    /// An agent cannot play here.
    #[error("the agent `{kind}` cannot play `{game}` here: {reason}")]
    #[expect(missing_docs, reason = "the game's and the kind's names, and what does not fit")]
    Agent { game: String, kind: String, reason: String },
    /// The game or an agent kind panicked while it was made ready.
    #[error("`{game}` failed while it was being prepared: it {reason}")]
    #[expect(missing_docs, reason = "the game's name; the panic's message")]
    Fell { game: String, reason: String },
}
