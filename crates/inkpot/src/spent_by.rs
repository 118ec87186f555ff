//! The axes of a search's progress.

use clap::ValueEnum;

use crate::show::format::{counted, duration};

/// The axis of a search's progress.
#[derive(ValueEnum, Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum By {
    /// Matches of a repetition
    #[default]
    Matches,
    /// Candidates that a repetition has tried
    Evaluations,
    /// Decisions that a repetition has learned from
    Decisions,
    /// Ticks or turns of those matches
    Steps,
    /// Seconds of the whole study, on the machine that made it
    Time,
}

impl By {
    /// Returns the name of the axis.
    pub(crate) fn axis(self) -> &'static str {
        match self {
            Self::Matches => "Matches of a repetition",
            Self::Evaluations => "Candidates that a repetition has tried",
            Self::Decisions => "Decisions that a repetition has learned from",
            Self::Steps => "Ticks or turns of a repetition",
            Self::Time => "Seconds of the study",
        }
    }

    /// This much of it, in words.
    pub(crate) fn amount(self, spent: f64) -> String {
        let whole = spent.round() as u64;
        match self {
            Self::Matches => counted(whole, "match", "matches"),
            Self::Evaluations => counted(whole, "evaluation", "evaluations"),
            Self::Decisions => counted(whole, "decision", "decisions"),
            Self::Steps => counted(whole, "step", "steps"),
            Self::Time => duration(spent),
        }
    }

    /// Returns the noun of one search's cost beside another's.
    pub(crate) fn many(self) -> &'static str {
        match self {
            Self::Matches => "as many matches",
            Self::Evaluations => "as many evaluations",
            Self::Decisions => "as many decisions",
            Self::Steps => "as many steps",
            Self::Time => "as much time",
        }
    }
}
