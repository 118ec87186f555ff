//! Learning: policy networks, evolution by ask and tell, and reinforcement.
//!
//! An [`Evolver`] is asked for candidates, told what each is worth, and asked again. It knows no game, no study and no
//! file; all its chance comes from a seed and the number of the generation, so that its state is plain data that can be
//! written down and read back.

mod bits;
mod cma;
mod elites;
mod evolver;
mod fitness;
mod genetic;
mod judged;
mod linear;
mod nes;
mod network;
mod reward;
mod space;
mod topology;
mod weights;

pub use cma::{Cma, CmaSettings, Covariance};
pub use elites::{Elite, MapElites, MapElitesSettings};
pub use evolver::{Evolver, Genome};
pub use fitness::Fitness;
pub use genetic::{Crossover, Genetic, GeneticSettings, Selection};
pub use judged::{Judged, Spread};
pub use nes::{Nes, NesSettings};
pub use network::{Activation, Adam, Dense, Graph, GraphNode, Link, Memory, Network, Pass, largest, shorten};
pub use reward::{
    Actions, At, Bench, Diverged, Dqn, DqnSettings, End, Environment, Episode, Learned, Normaliser, Ppo, PpoSettings,
    Replay, Segment, Step, TableLearned, TableMethod, TableSettings, Turns, ValueTable, advantages,
};
pub use space::{Gene, Space};
pub use topology::{Topology, TopologySettings};
pub use weights::{Body, Gives, Tape, Weights, WeightsError};
