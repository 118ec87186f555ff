//! The common part of all matches of a setting.

use std::sync::Arc;

use super::rules::RegattaRules;
use super::water::Water;

/// The common part of all matches of a setting.
#[derive(Debug)]
pub(crate) struct Course {
    pub(crate) rules: RegattaRules,
    /// Directions of the rays (degrees from the bow).
    pub(crate) ray_degrees: Vec<f64>,
    /// The waters of which each match draws one.
    pub(crate) waters: Vec<Arc<Water>>,
    /// Time limit in ticks.
    pub(crate) time: u32,
}
