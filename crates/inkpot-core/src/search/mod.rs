//! Agents that look ahead in any game with finite options and imagined states.

mod alphabeta;
mod horizon;
mod maxn;
mod minimax;
mod playouts;
mod reuse;
mod rollout;
mod score;
mod table;
mod tree;
mod treesearch;

pub use horizon::horizon;
pub use minimax::minimax;
pub use playouts::playouts;
pub use treesearch::{treesearch, treesearch_reusing};
