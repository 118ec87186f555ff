//! Policy networks: numbers in, numbers out.
//!
//! All sums run in a fixed order over plain `f32`, so that a network gives the same bits on every machine.

mod activation;
mod adam;
mod dense;
mod graph;
mod pass;
mod product;
mod wide;

use serde::{Deserialize, Serialize};

pub use activation::Activation;
pub use adam::{Adam, shorten};
pub use dense::Dense;
pub use graph::{Graph, GraphNode, Link};
pub use pass::Pass;

pub(crate) use graph::SLOPE;

/// A network of either kind.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Network {
    /// Layers, each wholly joined to the next.
    Dense(Dense),
    /// Nodes and links, any to any.
    Graph(Graph),
}

/// The place of the largest of the numbers that a network gives; of equals the first.
#[must_use]
pub fn largest(outputs: &[f32]) -> usize {
    (1..outputs.len()).fold(0, |best, place| if outputs[place] > outputs[best] { place } else { best })
}

/// The memory of a network: buffers, and the state of loops.
#[derive(Clone, Debug, Default)]
pub struct Memory {
    pub(crate) now: Vec<f32>,
    pub(crate) next: Vec<f32>,
}

impl Memory {
    /// Clears the state of loops, and keeps the buffers.
    pub fn forget(&mut self) {
        self.now.fill(0.0);
        self.next.fill(0.0);
    }
}

impl Network {
    /// Numbers that it reads.
    pub fn inputs(&self) -> usize {
        match self {
            Self::Dense(dense) => dense.inputs(),
            Self::Graph(graph) => graph.inputs,
        }
    }

    /// Numbers that it gives.
    pub fn outputs(&self) -> usize {
        match self {
            Self::Dense(dense) => dense.outputs(),
            Self::Graph(graph) => graph.outputs,
        }
    }

    /// Computes the outputs for these inputs.
    ///
    /// # Panics
    /// When there are not as many inputs as it reads.
    #[inline]
    pub fn forward<'m>(&self, inputs: &[f32], memory: &'m mut Memory) -> &'m [f32] {
        match self {
            Self::Dense(dense) => dense.forward(inputs, memory),
            Self::Graph(graph) => graph.forward(inputs, memory),
        }
    }
}
