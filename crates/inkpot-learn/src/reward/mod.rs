//! Learning by reward, one decision after the other.
//!
//! A learner steps [`Environment`]s and learns from what they pay. All its state is plain data, its chance comes from its
//! seed and from how far it is, and the environments can be brought back to where they were by what was decided in them:
//! so it goes on to the same end from any checkpoint.

mod advantage;
mod dqn;
mod environment;
mod objective;
mod policy;
mod ppo;
mod replay;
mod scale;
mod table;

pub use advantage::{Segment, advantages};
pub use dqn::{Dqn, DqnSettings};
pub use environment::{Bench, Diverged, End, Environment, Episode, Learned, Step};
pub use policy::Actions;
pub use ppo::{Ppo, PpoSettings};
pub use replay::Replay;
pub use scale::Normaliser;
pub use table::{At, TableLearned, TableMethod, TableSettings, Turns, ValueTable};
