//! The request of a comparison, as a draft and resolved.

use serde::{Deserialize, Serialize};

/// The draft of a comparison.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct CompareDraft {
    /// Whether it stops once it is clear.
    pub until_clear: bool,
    /// The margin, in win rate, within which two count as equal.
    pub equal_within: Option<f64>,
    /// The requirement on the first.
    pub require: Option<Requirement>,
    /// The smallest difference, in win rate, that matters.
    pub smallest: Option<f64>,
}

/// A comparison of the first two entrants.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Compare {
    /// Whether it stops once it is clear.
    pub until_clear: bool,
    /// The margin, in win rate, within which two count as equal.
    pub equal_within: Option<f64>,
    /// The requirement on the first.
    pub require: Option<Requirement>,
    /// The smallest difference, in win rate, that matters: a design of fixed size has to be planned for it.
    #[serde(default = "smallest")]
    pub smallest: f64,
}

/// The smallest difference that matters where nothing is said.
pub(super) fn smallest() -> f64 {
    0.05
}

/// The requirement that the first of two entrants must meet.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Requirement {
    /// The first is better.
    Better,
    /// The first is worse by at most the margin of equality.
    NotWorse,
}

/// The default margin of `not-worse`, in win rate.
const NOT_WORSE_BY: f64 = 0.05;

impl Requirement {
    /// Within how much two count as equal under a requirement: as asked, and for not worse, which without a margin
    /// would be better, 0.05 where nothing is.
    pub fn margin(required: Option<Self>, wanted: Option<f64>) -> Option<f64> {
        wanted.or((required == Some(Self::NotWorse)).then_some(NOT_WORSE_BY))
    }

    /// Both.
    pub const ALL: [Self; 2] = [Self::Better, Self::NotWorse];

    /// Its name in briefs and on the command line.
    pub fn name(self) -> &'static str {
        match self {
            Self::Better => "better",
            Self::NotWorse => "not-worse",
        }
    }
}
