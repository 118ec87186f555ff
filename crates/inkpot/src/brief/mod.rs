//! Briefs: read strictly, written with every default.

pub(crate) mod entrant;
mod read;
pub(crate) mod reader;
mod tune;
mod write;

pub(crate) use entrant::entrant;
pub(crate) use read::{Asked, load, read_any, read_tune};
pub(crate) use reader::{Findings, Reader};
pub(crate) use tune::{free as free_draft, write_tune};
pub(crate) use write::write;
