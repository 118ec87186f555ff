//! Briefs: read strictly, written with every default.

mod entrant;
mod read;
mod reader;
mod write;

pub(crate) use entrant::entrant;
pub(crate) use read::{Asked, load, load_with_log, read_named};
pub(crate) use reader::{Findings, Reader};
pub(crate) use write::{BriefText, agent, inline, inline_knobs, knobs, value, write};
