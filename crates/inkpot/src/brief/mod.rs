//! Briefs: read strictly, written with every default.

mod entrant;
mod reader;
mod write;

pub(crate) use entrant::{entrant, entrant_or_file};
pub(crate) use reader::{Findings, Reader};
pub(crate) use write::{BriefText, agent, inline, inline_knobs, knobs, value};
