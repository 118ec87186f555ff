//! The result of a tuning's search, before its proof.

use inkpot_stats::Solved;

use super::asked::Point;

/// The result of a search for a ladder.
#[derive(Clone, Debug, PartialEq)]
pub struct Found {
    /// Each rung's values, with their intervals.
    pub rungs: Vec<FoundRung>,
    /// Matches played.
    pub matches: u64,
}

/// The values of a rung.
#[derive(Clone, Debug, PartialEq)]
pub struct FoundRung {
    /// The values of the free knobs.
    pub point: Point,
    /// Interval of the one free knob, where a curve was followed: the value that gives the wanted rate.
    pub interval: Option<(f64, f64)>,
    /// Other values of that knob which give it.
    pub others: Vec<Solved>,
    /// Free knobs that lie at an end of their range.
    pub binds: Vec<String>,
    /// Hard targets out of reach by the search, each with its obstacle.
    pub misses: Vec<Miss>,
    /// Matches of the search on this rung.
    pub matches: u64,
}

/// A target that seems out of reach.
#[derive(Clone, Debug, PartialEq)]
pub struct Miss {
    /// The target.
    pub target: String,
    /// Targets without which it could be met.
    pub fights: Vec<String>,
    /// Whether it could be met if rungs were free of each other.
    pub order: bool,
}
