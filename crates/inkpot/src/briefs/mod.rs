//! Briefs of every kind: read into studies, and written with every default.

mod read;
#[cfg(test)]
mod tests;
mod write;

pub(crate) use read::{ResolvedBrief, load, load_with_log, read_named};
pub(crate) use write::write;
