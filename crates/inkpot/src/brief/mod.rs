//! Briefs: read strictly, written with every default.

mod read;
mod reader;
mod tune;
mod write;

pub(crate) use read::{Asked, entrant, load, read, read_tune};
pub(crate) use reader::{Findings, Reader};
pub(crate) use tune::write_tune;
pub(crate) use write::write;
