//! Briefs: read strictly, written with every default.

mod read;
mod reader;
mod write;

pub(crate) use read::{load, read};
pub(crate) use write::write;
