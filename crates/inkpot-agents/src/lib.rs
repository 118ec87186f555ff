//! Decision makers for any game that offers the small capabilities they ask for: a random mover, agents that look
//! ahead, planners, and limits that make weaker grades of any of them.

mod alphabeta;
mod budget;
mod drifter;
mod horizon;
mod limits;
mod maxn;
mod minimax;
mod playouts;
mod policy;
mod reuse;
mod rollout;
mod score;
mod soft;
mod tape;
mod transpositions;
mod tree;
mod treesearch;
mod value_weights;

pub use drifter::drifter;
pub use horizon::horizon;
pub use limits::Graded;
pub use minimax::minimax;
pub use playouts::playouts;
pub use policy::{Model, ModelKind, Models, networks, policy, tables};
pub use tape::tape;
pub use treesearch::{treesearch, treesearch_reusing};
