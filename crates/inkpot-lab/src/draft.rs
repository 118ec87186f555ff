//! Drafts of studies: a brief or a command line as plain data, before it is checked.

use inkpot_core::{GameSource, KnobValue, Knobs, Level};

use crate::Place;

/// The draft of a study: the part that all kinds share.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Draft {
    /// Name of the game.
    pub game: GameSource,
    /// Level, if not the game's first; its knobs not resolved yet.
    pub level: Option<Level>,
    /// Seed from which all chance is drawn.
    pub seed: Option<u64>,
    /// Seats of a match; where nothing is said two for two entrants and more, as far as the game has them.
    pub seats: Option<u64>,
    /// Matches per pairing or point.
    pub matches: Option<u64>,
    /// Matches that the same people play in a row.
    pub series: Option<u64>,
    /// Confidence of all intervals.
    pub confidence: Option<f64>,
    /// Rules knobs that are set.
    pub rules: Knobs,
    /// The entrants.
    pub entrants: Vec<EntrantDraft>,
    /// Time that the game has for a decision, in milliseconds.
    pub frame_ms: Option<f64>,
    /// Whether the choices of agents that no two runs play alike are kept.
    pub record: bool,
}

/// An entrant as asked for.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct EntrantDraft {
    /// Its label; the agent's name if not given.
    pub name: Option<String>,
    /// Agent kind or preset.
    pub agent: String,
    /// Knobs that are set.
    pub knobs: Knobs,
    /// Knobs of which each value is an entrant of its own.
    pub vary: Vec<(String, VaryRange)>,
}

/// The values a knob is varied over.
#[derive(Clone, Debug, PartialEq)]
#[expect(missing_docs, reason = "ends (both included) and number of evenly spaced points, or the values themselves")]
pub enum VaryRange {
    Span { low: f64, high: f64, points: u64 },
    List(Vec<KnobValue>),
}

/// One thing that is wrong with a draft.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Problem {
    /// The key: `matches`, `entrant[1].knobs.skill`, `vary[0].points`.
    pub at: Place,
    /// The problem.
    pub what: String,
    /// The help: the allowed values, or the next step.
    pub help: String,
}

impl Problem {
    /// A problem at a key.
    pub fn new(at: impl Into<Place>, what: impl Into<String>, help: impl Into<String>) -> Self {
        Self { at: at.into(), what: what.into(), help: help.into() }
    }
}
