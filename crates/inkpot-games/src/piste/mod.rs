//! `piste`: fencing on the pier. Two fencers on a strip, in real time, choosing at once.
//!
//! Rules, constants and the reasons for them are on the game's page, `docs/games/piste.md`.

mod brain;
mod features;
mod fencer;
mod fighter;
mod game;
mod hand;
mod percept;
mod rules;
mod scene;
mod sheet;
mod standin;
mod tally;

pub use brain::Brain;
pub use fighter::Phase;
pub use game::{Blade, Order, Piste, View};
pub use rules::{Double, PisteRules};
pub use sheet::entry;
