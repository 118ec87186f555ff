//! Features: a match as numbers for a network, in and out.

use serde::{Deserialize, Serialize};

use crate::{Game, Seat};

/// A seat's view as numbers, and numbers as its actions: the interface of policies.
pub trait Features: Game {
    /// Writes the present perception of `seat` into `into`, nothing beyond its view: one number in `-1..=1` for each
    /// figure of the entry's feature sheet, in its order.
    fn observe(&self, seat: Seat, into: &mut Vec<f32>);

    /// The action of a seat that acts now which comes nearest to this intent; always a legal one.
    fn act(&self, seat: Seat, intent: Intent<'_>) -> Self::Action;
}

/// The intent of a policy: an option, or a value for each action.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Intent<'a> {
    /// One of the options of a discrete action space, by its place in the sheet.
    Option(usize),
    /// A number in `-1..=1` for each figure of a continuous action space.
    Values(&'a [f32]),
}

/// The features of a game: observations and actions.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct FeatureSheet {
    /// The figures of an observation, in order.
    pub observation: Vec<Feature>,
    /// The action space.
    pub actions: ActionSpace,
    /// The recommended tempo of learning agents; none if the game states none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tempo: Option<Tempo>,
}

/// The recommended tempo of learning agents: ticks a decision and ticks a match.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Tempo {
    /// Ticks from one decision to the next, at least 1: enough for a decision to show.
    pub decide_every: u32,
    /// Ticks that able agents take for a match, about; at least 1.
    pub match_ticks: u64,
}

impl FeatureSheet {
    /// Says how often agents that learn had best decide, and how long a match takes.
    ///
    /// # Panics
    /// When either is 0.
    #[must_use]
    pub fn tempo(self, decide_every: u32, match_ticks: u64) -> Self {
        assert!(decide_every > 0 && match_ticks > 0, "an agent decides from time to time, and a match takes some");
        Self { tempo: Some(Tempo { decide_every, match_ticks }), ..self }
    }
}

/// The space of actions.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum ActionSpace {
    /// One of these options, each with its name.
    Discrete(Vec<String>),
    /// A number for each of these figures.
    Continuous(Vec<Feature>),
}

impl ActionSpace {
    /// Whether it has options.
    pub fn is_discrete(&self) -> bool {
        matches!(self, Self::Discrete(_))
    }

    /// Numbers that a policy gives: one an option, or one a figure.
    pub fn outputs(&self) -> usize {
        match self {
            Self::Discrete(options) => options.len(),
            Self::Continuous(figures) => figures.len(),
        }
    }

    /// Names of the outputs, in order.
    pub fn names(&self) -> Vec<&str> {
        match self {
            Self::Discrete(options) => options.iter().map(String::as_str).collect(),
            Self::Continuous(figures) => figures.iter().map(|figure| figure.name.as_str()).collect(),
        }
    }
}

/// One figure of an observation or an action: `low` maps to -1, `high` to 1; values beyond are clamped.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Feature {
    /// Its name.
    pub name: String,
    /// Its unit, empty if it has none.
    pub unit: String,
    /// The value that stands as -1.
    pub low: f64,
    /// The value that stands as 1.
    pub high: f64,
    /// One line about it.
    pub help: String,
}

impl Feature {
    /// A figure with its unit and range.
    pub fn new(name: impl Into<String>, unit: &str, low: f64, high: f64, help: &str) -> Self {
        Self { name: name.into(), unit: unit.into(), low, high, help: help.into() }
    }
}

/// A value as a feature of this range: -1 at `low`, 1 at `high`.
#[inline]
pub fn normalised(value: f64, low: f64, high: f64) -> f32 {
    (2.0 * (value - low) / (high - low) - 1.0).clamp(-1.0, 1.0) as f32
}
