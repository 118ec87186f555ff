//! The request of a tournament, as a draft and resolved.

use serde::{Deserialize, Serialize};

/// The format of a tournament, which decides the pairings.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Format {
    /// Every two entrants meet.
    #[default]
    RoundRobin,
    /// In each round, entrants with equal scores meet.
    Swiss,
    /// The loser is out.
    Knockout,
}

impl Format {
    /// All formats.
    pub const ALL: [Self; 3] = [Self::RoundRobin, Self::Swiss, Self::Knockout];

    /// Its name in briefs and on the command line.
    pub fn name(self) -> &'static str {
        match self {
            Self::RoundRobin => "round-robin",
            Self::Swiss => "swiss",
            Self::Knockout => "knockout",
        }
    }
}

/// The draft of a tournament.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct TournamentDraft {
    /// The format, which decides the pairings.
    pub format: Option<Format>,
    /// Rounds of a Swiss tournament.
    pub rounds: Option<u64>,
    /// The entrant whose rating is 0.
    pub anchor: Option<String>,
}

/// The design of a tournament.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Tournament {
    /// The format.
    pub format: Format,
    /// Rounds of a Swiss tournament; of the others as many as it takes.
    pub rounds: u64,
    /// The entrant whose rating is 0, by its place; else the mean of the field is.
    pub anchor: Option<usize>,
}
