//! Briefs: read strictly, written with every default.

mod read;
mod reader;
mod tune;
mod write;

pub(crate) use read::{Asked, entrant, load, read, read_any, read_tune};
pub(crate) use reader::{Findings, Reader};
pub(crate) use tune::{free as free_draft, write_tune};
pub(crate) use write::write;
