//! `sowing`: seeds and pits. Two seats, turns, nothing hidden.
//!
//! Rules, position text and agents are on the game's page, `docs/games/sowing.md`.

mod board;
mod game;
mod grabber;
mod note;
mod scene;
mod sheet;
mod tally;

pub use board::Board;
pub use game::{Pit, Sowing, View};
pub use sheet::entry;
