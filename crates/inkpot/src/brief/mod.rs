//! Briefs: read strictly, written with every default.

mod read;
mod reader;
mod write;

pub(crate) use read::{entrant, load, read};
pub(crate) use reader::{Findings, Reader};
pub(crate) use write::write;
