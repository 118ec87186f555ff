//! Subjects of a search, and the way from genome to agent.

use inkpot_core::{ActionSpace, AgentSheet, Bytes, FeatureSheet, KnobValue, Knobs};
use inkpot_learn::{Activation, Body, Dense, Gene, Genome, Gives, Network, Space, Tape, Weights};
use serde::{Deserialize, Serialize};

use crate::Free;

/// The knob that takes it.
const KNOB: &str = "file";

/// The agent that is sought.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Candidate {
    /// Agent kind or preset as asked for.
    pub agent: String,
    /// Agent kind.
    pub kind: String,
    /// Knobs set by the preset and by hand.
    pub given: Knobs,
    /// The shape of a candidate.
    pub shape: Shape,
}

/// The part of an agent that is searched for.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Shape {
    /// Values of its knobs; of the numbers in `log` the logarithm is searched.
    Knobs {
        /// The knobs.
        free: Vec<Free>,
        /// Whether each is searched on a logarithmic scale.
        log: Vec<bool>,
    },
    /// The weights of a network.
    Network {
        /// Nodes of each hidden layer.
        layers: Vec<usize>,
        /// The activation of hidden nodes.
        activation: Activation,
        /// Its inputs and outputs.
        features: FeatureSheet,
    },
    /// Nodes, links and weights of a network.
    Graph {
        /// Its inputs and outputs.
        features: FeatureSheet,
    },
    /// The values of single positions.
    Table,
    /// A sequence of actions.
    Tape {
        /// Its length.
        steps: usize,
        /// Its outputs.
        actions: ActionSpace,
    },
}

/// The knob of policies that says how many ticks there are from one decision to the next.
pub(crate) const DECIDE_EVERY: &str = "decide_every";

impl Candidate {
    /// Ticks from one decision to the next.
    pub(crate) fn decide_every(&self) -> u32 {
        self.given.get(DECIDE_EVERY).and_then(KnobValue::number).map_or(1, |every| every as u32)
    }

    /// The space of its genomes; empty where nodes and links are sought.
    pub fn space(&self) -> Space {
        match &self.shape {
            Shape::Knobs { free, .. } => Space(free.iter().map(gene).collect()),
            Shape::Network { layers, features, .. } => {
                Space(Dense::scales(&sizes(layers, features)).into_iter().map(Gene::Free).collect())
            }
            Shape::Graph { .. } | Shape::Table => Space(Vec::new()),
            Shape::Tape { steps, actions } => Space(vec![Gene::Share; steps * actions.outputs()]),
        }
    }

    /// The ending of a file of its weights.
    pub(crate) fn ending(&self) -> &'static str {
        if self.shape == Shape::Table { "csv" } else { "safetensors" }
    }

    /// Numbers that a network of it reads and gives.
    pub(crate) fn nodes(&self) -> (usize, usize) {
        match &self.shape {
            Shape::Graph { features } => (features.observation.len(), features.actions.outputs()),
            _ => (0, 0),
        }
    }

    /// The values of the free knobs of a genome; none of weights.
    pub(crate) fn values(&self, genome: &Genome) -> Vec<KnobValue> {
        match (&self.shape, genome) {
            (Shape::Knobs { free, log }, Genome::Numbers(numbers)) => {
                let each = free.iter().zip(log).zip(numbers);
                each.map(|((free, log), share)| free.value(placed(free, *log, *share))).collect()
            }
            _ => Vec::new(),
        }
    }

    /// Returns the knobs set by a genome.
    pub(crate) fn turned(&self, genome: &Genome) -> Knobs {
        let turned: Knobs = if let Shape::Knobs { free, .. } = &self.shape {
            free.iter().map(|free| free.knob.clone()).zip(self.values(genome)).collect()
        } else {
            let bytes = match genome {
                Genome::File(bytes) => Bytes(bytes.as_slice().into()),
                _ => Bytes(self.weights(genome).to_bytes().into()),
            };
            [(KNOB.to_string(), KnobValue::File { file: format!("champion.{}", self.ending()), bytes })]
                .into_iter()
                .collect()
        };
        turned.over(&self.given)
    }

    /// Every knob of the agent that a genome describes.
    pub(crate) fn knobs(&self, genome: &Genome, sheet: &AgentSheet) -> Knobs {
        self.turned(genome).resolve(&sheet.knobs).expect("a candidate takes values that the brief was checked for")
    }

    fn weights(&self, genome: &Genome) -> Weights {
        let body = match (&self.shape, genome) {
            (Shape::Network { layers, activation, features }, Genome::Numbers(numbers)) => {
                let parameters = numbers.iter().map(|x| *x as f32).collect();
                let network = Dense::new(sizes(layers, features), *activation, parameters);
                Body::Network(Network::Dense(network.expect("a genome has a gene for every parameter")))
            }
            (Shape::Tape { actions, .. }, Genome::Numbers(numbers)) => {
                let values = numbers.iter().map(|share| (2.0 * share - 1.0) as f32).collect();
                Body::Tape(Tape { width: actions.outputs(), values })
            }
            (_, Genome::Graph(graph)) => Body::Network(Network::Graph(graph.clone())),
            (Shape::Knobs { .. } | Shape::Graph { .. } | Shape::Table, Genome::Numbers(_)) | (_, Genome::File(_)) => {
                unreachable!("knobs have no weights, a graph is no row of numbers, and a file has been made of its own")
            }
        };
        self.filed(body, Gives::Scores)
    }

    /// Returns these weights under the names of the game's figures; `gives` describes the options' outputs.
    pub(crate) fn filed(&self, body: Body, gives: Gives) -> Weights {
        let (read, actions) = match &self.shape {
            Shape::Network { features, .. } | Shape::Graph { features } => {
                (features.observation.as_slice(), &features.actions)
            }
            Shape::Tape { actions, .. } => (&[][..], actions),
            Shape::Knobs { .. } | Shape::Table => unreachable!("knobs and tables have no weights"),
        };
        Weights {
            observation: read.iter().map(|figure| figure.name.clone()).collect(),
            actions: actions.names().into_iter().map(String::from).collect(),
            gives: gives.among(actions),
            body,
            earlier: Vec::new(),
        }
    }
}

/// Nodes of every layer.
fn sizes(layers: &[usize], features: &FeatureSheet) -> Vec<usize> {
    let ends = (features.observation.len(), features.actions.outputs());
    std::iter::once(ends.0).chain(layers.iter().copied()).chain([ends.1]).collect()
}

fn gene(free: &Free) -> Gene {
    match &free.range {
        crate::FreeRange::Number { .. } => Gene::Share,
        crate::FreeRange::Words(words) => Gene::Choice(words.len()),
    }
}

/// The value of a free knob at a share of its range; a choice is its own number.
fn placed(free: &Free, log: bool, share: f64) -> f64 {
    let (low, high) = free.bounds();
    match &free.range {
        crate::FreeRange::Words(_) => share,
        crate::FreeRange::Number { .. } if log => {
            free.held(rounded(libm::exp(libm::log(low) + share * (libm::log(high) - libm::log(low)))))
        }
        crate::FreeRange::Number { .. } => free.held(rounded(low + share * (high - low))),
    }
}

/// Rounds a number to four digits: candidates play with the published values.
fn rounded(x: f64) -> f64 {
    format!("{x:.3e}").parse().unwrap_or(x)
}
