//! Evaluations given to a method of evolution, and its reports.

use serde::{Deserialize, Serialize};

use crate::Fitness;

/// The judgement of a candidate that was tried.
#[derive(Clone, Debug, PartialEq)]
pub struct Judged {
    /// The fitness.
    pub fitness: Fitness,
    /// The traits, in shares of the range of each measure: where it belongs on a map of niches. Empty for all other
    /// methods.
    pub traits: Vec<f64>,
}

impl Judged {
    /// A candidate of this worth.
    pub fn of(fitness: f64) -> Self {
        Self { fitness: Fitness::of(fitness), traits: Vec::new() }
    }
}

/// The spread of a generation's candidates.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Spread {
    /// Mean standard deviation of a gene, as a share of its scale; of graphs, of their distances.
    pub diversity: f64,
    /// Groups that are kept apart: species, or niches that are filled; 1 where there are none.
    pub groups: usize,
}
