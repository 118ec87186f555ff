//! `regatta`: round the marks. Boats under sail, in real time.
//!
//! Rules, constants and the reasons for them are on the game's page, `docs/games/regatta.md`.

mod beeline;
mod boat;
mod chart;
mod course;
mod features;
mod game;
mod generator;
mod geometry;
mod hand;
mod levels;
mod routes;
mod rules;
mod scene;
mod sheet;
mod tacker;
mod tally;
mod view;
mod water;
mod wind;

pub use game::{Helm, Regatta};
pub use sheet::entry;
pub use view::View;
