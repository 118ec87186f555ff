//! The setting from which matches are laid.

use crate::{FeatureSheet, Knobs, Level};

/// The ground of a match, laid once for all matches of a setting.
#[derive(Clone, Copy, Debug)]
pub struct Laying<'a> {
    /// Every rules knob.
    pub rules: &'a Knobs,
    /// The level, with every knob of its generator, or a file.
    pub level: &'a Level,
    /// Seats of the match, as many as the game's sheet allows.
    pub seats: usize,
    /// The observations and actions under these rules, in a game with features.
    pub features: Option<&'a FeatureSheet>,
}
