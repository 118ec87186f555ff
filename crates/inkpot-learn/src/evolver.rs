//! Evolution by ask and tell, for every method.

use serde::{Deserialize, Serialize};

use crate::{Cma, Genetic, Graph, Judged, MapElites, Nes, Spread, Topology};

/// The genome of a candidate.
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
    /// A map of elites over measures.
    MapElites(MapElites),
    /// Evolution of nodes and links together.
    Topology(Box<Topology>),
}

impl Evolver {
    /// The candidates that it wants to be told of next; never none.
    pub fn ask(&self) -> Vec<Genome> {
        let numbers = |genomes: Vec<Vec<f64>>| genomes.into_iter().map(Genome::Numbers).collect();
        match self {
            Self::Genetic(genetic) => numbers(genetic.ask()),
            Self::CmaEs(cma_es) => numbers(cma_es.ask()),
            Self::Nes(nes) => numbers(nes.ask()),
            Self::MapElites(map_elites) => numbers(map_elites.ask()),
            Self::Topology(topology) => topology.ask().into_iter().map(Genome::Graph).collect(),
        }
    }

    /// The number of candidates that it asks for next.
    pub fn asks(&self) -> usize {
        match self {
            Self::Genetic(genetic) => genetic.asks(),
            Self::CmaEs(cma_es) => cma_es.asks(),
            Self::Nes(nes) => nes.asks(),
            Self::MapElites(map_elites) => map_elites.asks(),
            Self::Topology(topology) => topology.asks(),
        }
    }

    /// Learns from the evaluations of the requested candidates, in the order of the request.
    ///
    /// # Panics
    /// When not every candidate is judged.
    pub fn tell(&mut self, judged: &[Judged]) {
        match self {
            Self::Genetic(genetic) => genetic.tell(judged),
            Self::CmaEs(cma_es) => cma_es.tell(judged),
            Self::Nes(nes) => nes.tell(judged),
            Self::MapElites(map_elites) => map_elites.tell(judged),
            Self::Topology(topology) => topology.tell(judged),
        }
    }

    /// Generations that it was told of.
    pub fn generation(&self) -> u64 {
        match self {
            Self::Genetic(genetic) => genetic.generation(),
            Self::CmaEs(cma_es) => cma_es.generation(),
            Self::Nes(nes) => nes.generation(),
            Self::MapElites(map_elites) => map_elites.generation(),
            Self::Topology(topology) => topology.generation(),
        }
    }

    /// The spread of the candidates that it would give next.
    pub fn spread(&self) -> Spread {
        match self {
            Self::Genetic(genetic) => genetic.spread(),
            Self::CmaEs(cma_es) => cma_es.spread(),
            Self::Nes(nes) => nes.spread(),
            Self::MapElites(map_elites) => map_elites.spread(),
            Self::Topology(topology) => topology.spread(),
        }
    }
}
