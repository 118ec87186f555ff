//! Networks and tapes as files in open formats: safetensors holds everything, ONNX the part that other programs play.
//!
//! An ONNX graph is read as layers as far as it is a chain of sums and activations, in double precision, so a network that is written and read back has the same bits.

mod arrays;
mod links;
mod onnx;
mod proto;

use inkpot_core::ActionSpace;
use thiserror::Error;

use crate::{Dense, Network};

/// A fixed sequence of actions.
#[derive(Clone, Debug, PartialEq)]
pub struct Tape {
    /// Numbers of each step.
    pub width: usize,
    /// The steps one after the other, each number in `-1..=1`.
    pub values: Vec<f32>,
}

/// The contents of a file of weights.
#[derive(Clone, Debug, PartialEq)]
pub struct Weights {
    /// Names of the inputs, in order; none for a tape. Empty names if the file has none.
    pub observation: Vec<String>,
    /// Names of the outputs, in order. Empty names if the file has none.
    pub actions: Vec<String>,
    /// The meaning of its outputs.
    pub gives: Gives,
    /// The numbers.
    pub body: Body,
    /// Earlier stages of a network of layers in its training, each with the share of the training by then, in order.
    pub earlier: Vec<(f64, Dense)>,
}

/// The meaning of a network's outputs: one an option, or one an action.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Gives {
    /// Scores, of which only the order counts.
    #[default]
    Scores,
    /// Logarithms of the chances with which it took them while it learned, up to a constant.
    Chances,
    /// Values in rewards.
    Values,
    /// The actions themselves, to be held to `-1..=1`.
    Actions,
}

impl Gives {
    const ALL: [Self; 4] = [Self::Scores, Self::Chances, Self::Values, Self::Actions];

    /// These where there are options, else the actions themselves.
    #[must_use]
    pub fn among(self, actions: &ActionSpace) -> Self {
        if actions.is_discrete() { self } else { Self::Actions }
    }

    /// The one of this name, or else scores.
    fn named(word: &str) -> Self {
        Self::ALL.into_iter().find(|kind| kind.name() == word).unwrap_or_default()
    }

    fn name(self) -> &'static str {
        match self {
            Self::Scores => "scores",
            Self::Chances => "log chances",
            Self::Values => "values",
            Self::Actions => "actions from -1 to 1",
        }
    }
}

/// The numbers of a file.
#[derive(Clone, Debug, PartialEq)]
#[expect(missing_docs, reason = "what there is")]
pub enum Body {
    Network(Network),
    Tape(Tape),
}

/// An error: the file of weights cannot be used.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum WeightsError {
    /// The file is of no format that is read.
    #[error("it is neither a safetensors file nor an ONNX model")]
    Unknown,
    /// The file is not whole, or was changed.
    #[error("it cannot be read as {0}: {1}")]
    Format(&'static str, String),
    /// A network that cannot be written as ONNX.
    #[error("only a network that remembers nothing can be written as ONNX, and this is {0}")]
    NoLayers(&'static str),
    /// A part of it is missing or of the wrong shape.
    #[error("it holds no network or tape that can be used: {0}")]
    Content(String),
}

fn content(what: impl Into<String>) -> WeightsError {
    WeightsError::Content(what.into())
}

impl Weights {
    /// The file that holds it, in safetensors: the same bytes for the same weights.
    pub fn to_bytes(&self) -> Vec<u8> {
        arrays::write(self)
    }

    /// Returns the ONNX model of its network, with these facts as metadata. Errs without a network, and for one that
    /// remembers earlier observations.
    pub fn to_onnx(&self, facts: &[(&str, String)]) -> Result<Vec<u8>, WeightsError> {
        onnx::write(self, facts)
    }

    /// Reads a file of either format. Errs with the problem.
    pub fn from_bytes(bytes: &[u8]) -> Result<Self, WeightsError> {
        let weights = match (bytes.first(), bytes.get(8)) {
            // A header in JSON, after eight bytes of its length.
            (_, Some(b'{')) => arrays::read(bytes),
            // The first field of a model.
            (Some(8), _) => onnx::read(bytes),
            _ => Err(WeightsError::Unknown),
        }?;
        weights
            .agrees()
            .then_some(weights)
            .ok_or_else(|| content("its names are not as many as its inputs and outputs"))
    }

    fn agrees(&self) -> bool {
        let (read, actions) = (self.observation.len(), self.actions.len());
        if !self.earlier.iter().all(|(_, network)| network.inputs() == read && network.outputs() == actions) {
            return false;
        }
        match &self.body {
            Body::Network(network) => {
                network.inputs() == self.observation.len() && network.outputs() == self.actions.len()
            }
            Body::Tape(tape) => tape.width == self.actions.len(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Activation, Topology, TopologySettings};
    use inkpot_core::Chance;

    fn named(prefix: &str, count: usize) -> Vec<String> {
        (0..count).map(|place| format!("{prefix}{place}")).collect()
    }

    fn samples() -> Vec<Weights> {
        let sizes = vec![4, 5, 2];
        let mut chance = Chance::from_seed(1);
        let drawn = (0..Dense::count(&sizes)).map(|_| chance.normal() as f32).collect();
        let dense = Dense::new(sizes, Activation::Relu, drawn).unwrap();
        let settings = TopologySettings {
            population: 2,
            inputs: 4,
            outputs: 2,
            recurrent: true,
            add_node: 1.0,
            add_link: 1.0,
            mutation_rate: 1.0,
            mutation_strength: 0.5,
            species: 1,
            pressure: 1.0,
            weight_distance: 0.4,
            renew: false,
        };
        let graph = Topology::new(settings, 1).ask().remove(0);
        let tape = Tape { width: 2, values: vec![0.5, -1.0, 0.25, 1.0] };
        let bodies = [Body::Network(Network::Dense(dense)), Body::Network(Network::Graph(graph)), Body::Tape(tape)];
        let weights = |body: Body| {
            let observation = if matches!(body, Body::Tape(_)) { Vec::new() } else { named("in", 4) };
            let earlier = match &body {
                Body::Network(Network::Dense(dense)) => vec![(0.0, dense.clone()), (0.25, dense.clone())],
                _ => Vec::new(),
            };
            let gives = if earlier.is_empty() { Gives::Scores } else { Gives::Chances };
            Weights { observation, actions: named("out", 2), gives, body, earlier }
        };
        bodies.into_iter().map(weights).collect()
    }

    #[test]
    fn what_is_written_reads_back_and_is_written_the_same() {
        for sample in samples() {
            let bytes = sample.to_bytes();
            let back = Weights::from_bytes(&bytes).unwrap();
            assert_eq!(back, sample);
            assert_eq!(back.to_bytes(), bytes);
        }
    }

    #[test]
    fn a_damaged_file_is_an_error_and_never_a_panic() {
        for sample in samples() {
            let bytes = sample.to_bytes();
            for cut in 0..bytes.len() {
                assert!(Weights::from_bytes(&bytes[..cut]).is_err(), "cut at {cut}");
                let mut flipped = bytes.clone();
                flipped[cut] ^= 0x55;
                let _ = Weights::from_bytes(&flipped);
            }
        }
    }
}
