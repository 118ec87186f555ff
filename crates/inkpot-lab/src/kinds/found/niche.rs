//! A figure over which elites are kept apart.

use serde::{Deserialize, Serialize};

use crate::figure::Figure;

/// A figure over which elites are kept apart, most often a measure.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Niche {
    /// Its name.
    pub measure: String,
    /// The least value that has a niche of its own.
    pub low: f64,
    /// The largest.
    pub high: f64,
    /// Niches from one to the other.
    pub count: usize,
    pub(crate) of: Figure,
}

impl Niche {
    /// A value as a share of the way from the least to the largest.
    pub(crate) fn share(&self, value: f64) -> f64 {
        (value - self.low) / (self.high - self.low)
    }
}
