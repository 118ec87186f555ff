//! `berths`: boats are moored in a basin until somebody finds no room. Two seats, turns, nothing hidden.
//!
//! Rules, position text and agents are on the game's page, `docs/games/berths.md`.

mod basin;
mod game;
mod harbourmaster;
mod note;
mod scene;
mod sheet;
mod tally;

pub use basin::{Basin, Mooring};
pub use game::{Berths, View};
pub use sheet::entry;

#[cfg(test)]
pub(crate) use game::WON;
