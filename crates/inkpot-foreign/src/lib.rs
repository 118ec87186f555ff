//! Games in other processes.
//!
//! A game file (TOML, [`GameFile`]) names a command and describes the game: seats, rules, levels, agents and measures. A command with `steps = false` plays
//! whole matches by itself: it reads a request a line and answers with a result a line (`request`, `answer`). [`entry`] turns such a file into a
//! game like any other, so that every study plays it.

mod answer;
mod file;
mod process;
mod request;
mod whole;

pub use file::{GameFile, GameFileError};
pub use whole::entry;
