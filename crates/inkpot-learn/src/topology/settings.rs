//! Settings of the evolution of nodes and links.

use serde::{Deserialize, Serialize};

/// Settings of topology evolution.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct TopologySettings {
    /// Candidates a generation.
    pub population: usize,
    /// Numbers that a network reads, and that it gives.
    pub inputs: usize,
    /// Numbers that it gives.
    pub outputs: usize,
    /// Whether links may lead back, so that a network remembers.
    pub recurrent: bool,
    /// Probability that a child gets one more node, 0 to 1.
    pub add_node: f64,
    /// Probability that a child gets one more link, 0 to 1.
    pub add_link: f64,
    /// Probability that the weights of a child are changed, 0 to 1.
    pub mutation_rate: f64,
    /// Standard deviation of the change of a weight.
    pub mutation_strength: f64,
    /// The wanted number of species, about.
    pub species: usize,
    /// The power by which a rank counts where children are shared out, from 1 up: the higher, the more do the best
    /// have.
    pub pressure: f64,
    /// The weight of the mean difference of weights in the distance of two networks, where a gene that only one has
    /// counts for 1; 0 or more. The paper has 0.4 and 3.
    pub weight_distance: f64,
    /// Whether even the best give way when they stagnate. The caller then keeps the best of all. Where luck moves a
    /// network's fitness, it is better kept here.
    pub renew: bool,
}
