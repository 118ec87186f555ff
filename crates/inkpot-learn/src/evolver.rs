//! Evolution by ask and tell, whatever the method.

use serde::{Deserialize, Serialize};

use crate::{Cma, Genetic, Graph, Judged, MapElites, Nes, Spread, Topology};

/// What a candidate is made of.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Genome {
    /// Numbers, one a gene of the space.
    Numbers(Vec<f64>),
    /// A network whose nodes and links were evolved.
    Graph(Graph),
    /// The file of an agent that has learned, as it is handed over.
    File(#[serde(with = "crate::bits::bytes")] Vec<u8>),
}

/// A search by evolution. Asked twice without being told anything in between, it gives the same candidates.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Evolver {
    /// A generational genetic algorithm.
    Genetic(Genetic),
    /// Evolution of the covariance of the candidates.
    CmaEs(Cma),
    /// Evolution along an estimated gradient.
    Nes(Nes),
    /// A map of elites over what candidates do.
    MapElites(MapElites),
    /// Evolution of nodes and links together.
    Topology(Box<Topology>),
}

impl Evolver {
    /// The candidates that it wants to be told of next; never none.
    pub fn ask(&self) -> Vec<Genome> {
        let numbers = |genomes: Vec<Vec<f64>>| genomes.into_iter().map(Genome::Numbers).collect();
        match self {
            Self::Genetic(own) => numbers(own.ask()),
            Self::CmaEs(own) => numbers(own.ask()),
            Self::Nes(own) => numbers(own.ask()),
            Self::MapElites(own) => numbers(own.ask()),
            Self::Topology(own) => own.ask().into_iter().map(Genome::Graph).collect(),
        }
    }

    /// How many candidates it wants to be told of next.
    pub fn asks(&self) -> usize {
        match self {
            Self::Genetic(own) => own.asks(),
            Self::CmaEs(own) => own.asks(),
            Self::Nes(own) => own.asks(),
            Self::MapElites(own) => own.asks(),
            Self::Topology(own) => own.asks(),
        }
    }

    /// Learns what the candidates that it asked for last came to, in the order in which it asked.
    ///
    /// # Panics
    /// When not every candidate is judged.
    pub fn tell(&mut self, judged: &[Judged]) {
        match self {
            Self::Genetic(own) => own.tell(judged),
            Self::CmaEs(own) => own.tell(judged),
            Self::Nes(own) => own.tell(judged),
            Self::MapElites(own) => own.tell(judged),
            Self::Topology(own) => own.tell(judged),
        }
    }

    /// Generations that it was told of.
    pub fn generation(&self) -> u64 {
        match self {
            Self::Genetic(own) => own.generation(),
            Self::CmaEs(own) => own.generation(),
            Self::Nes(own) => own.generation(),
            Self::MapElites(own) => own.generation(),
            Self::Topology(own) => own.generation(),
        }
    }

    /// How far apart the candidates are that it would give next.
    pub fn spread(&self) -> Spread {
        match self {
            Self::Genetic(own) => own.spread(),
            Self::CmaEs(own) => own.spread(),
            Self::Nes(own) => own.spread(),
            Self::MapElites(own) => own.spread(),
            Self::Topology(own) => own.spread(),
        }
    }
}
