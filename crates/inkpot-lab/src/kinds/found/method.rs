//! The methods by which agents are found, by name.

use serde::{Deserialize, Serialize};

/// A method of evolution.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum EvolutionName {
    /// A generational genetic algorithm.
    Genetic,
    /// Evolution of the covariance of the candidates.
    CmaEs,
    /// Natural evolution strategies.
    Nes,
    /// Nodes and links of a network together.
    Topology,
    /// A map of elites over two measures.
    MapElites,
}

/// A method of training.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum TrainingName {
    /// Proximal policy optimisation.
    Ppo,
    /// Q-learning with a network, replay and double targets.
    Dqn,
    /// Values of the best decisions, position by position.
    QLearning,
    /// Values of decisions as they are made, position by position.
    Sarsa,
    /// Expected SARSA: the mean over the next decisions.
    ExpectedSarsa,
    /// Exact best responses to one opponent, over all positions.
    Exact,
}

/// A method of evolution or of training.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged)]
#[expect(missing_docs, reason = "the methods of each family")]
pub enum MethodName {
    Evolution(EvolutionName),
    Training(TrainingName),
}

/// A family of methods.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MethodFamily {
    /// Evolution: candidates are bred by their fitness.
    Evolution,
    /// An agent learns by reward.
    Training,
}

impl EvolutionName {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Genetic, Self::CmaEs, Self::Nes, Self::Topology, Self::MapElites];

    /// Its name in briefs and JSON.
    pub fn name(self) -> &'static str {
        match self {
            Self::Genetic => "genetic",
            Self::CmaEs => "cma-es",
            Self::Nes => "nes",
            Self::Topology => "topology",
            Self::MapElites => "map-elites",
        }
    }
}

impl TrainingName {
    /// All of them.
    pub const ALL: [Self; 6] = [Self::Ppo, Self::Dqn, Self::QLearning, Self::Sarsa, Self::ExpectedSarsa, Self::Exact];

    /// Its name in briefs and JSON.
    pub fn name(self) -> &'static str {
        match self {
            Self::Ppo => "ppo",
            Self::Dqn => "dqn",
            Self::QLearning => "q-learning",
            Self::Sarsa => "sarsa",
            Self::ExpectedSarsa => "expected-sarsa",
            Self::Exact => "exact",
        }
    }

    /// Whether it learns the values of single positions.
    pub fn learns_positions(self) -> bool {
        matches!(self, Self::Sarsa | Self::ExpectedSarsa | Self::QLearning | Self::Exact)
    }
}

impl MethodFamily {
    /// The verb that searches by it.
    pub fn verb(self) -> &'static str {
        match self {
            Self::Evolution => "evolve",
            Self::Training => "train",
        }
    }

    /// The other one.
    pub(crate) fn other(self) -> Self {
        match self {
            Self::Evolution => Self::Training,
            Self::Training => Self::Evolution,
        }
    }

    /// Its methods, the usual one first.
    pub fn methods(self) -> Vec<MethodName> {
        match self {
            Self::Evolution => EvolutionName::ALL.map(MethodName::Evolution).to_vec(),
            Self::Training => TrainingName::ALL.map(MethodName::Training).to_vec(),
        }
    }
}

impl MethodName {
    /// Whether an agent learns by reward.
    pub fn trains(self) -> bool {
        matches!(self, Self::Training(_))
    }

    /// Its name in briefs and JSON.
    pub fn name(self) -> &'static str {
        match self {
            Self::Evolution(method) => method.name(),
            Self::Training(method) => method.name(),
        }
    }
}
