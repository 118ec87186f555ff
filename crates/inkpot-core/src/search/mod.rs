//! Agents that look ahead in any game with finite options and imagined states.

mod alphabeta;
mod maxn;
mod minimax;
mod score;
mod table;

pub use minimax::minimax;
