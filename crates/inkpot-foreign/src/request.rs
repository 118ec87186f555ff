//! The request for a match, one line of JSON.

use inkpot_core::{Knobs, Level};
use serde::{Deserialize, Serialize};

/// The request for a match.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Request {
    /// The seed of the world: equal for all rotations of a block, below 2^53.
    pub(crate) seed: u64,
    /// Every rules knob.
    pub(crate) rules: Knobs,
    /// The level, with every knob of its generator.
    pub(crate) level: Placed,
    /// The seats, in order.
    pub(crate) seats: Vec<Seated>,
}

/// A level of a request.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Placed {
    /// Its name.
    pub(crate) name: String,
    /// Every knob of its generator.
    pub(crate) knobs: Knobs,
}

impl Placed {
    /// Returns a named level; a file has only its name here.
    pub(crate) fn of(level: &Level) -> Self {
        match level {
            Level::Named { name, knobs, .. } => Self { name: name.clone(), knobs: knobs.clone() },
            Level::File { file, .. } => Self { name: file.clone(), knobs: Knobs::default() },
        }
    }
}

/// A seat of a request.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Seated {
    /// The agent.
    pub(crate) agent: String,
    /// Every knob of the agent.
    pub(crate) knobs: Knobs,
    /// The seed of the seat's chance, below 2^53.
    pub(crate) seed: u64,
    /// The seed of the person that plays the seat, equal in all matches of a block, below 2^53.
    pub(crate) person: u64,
    /// Matches of the series that this person has played before.
    pub(crate) matches_before: u32,
}
