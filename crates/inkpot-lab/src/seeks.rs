//! Searches: the methods of each kind.

use inkpot_core::{GameEntry, Setting};
use thiserror::Error;

use crate::searching::SearchWork;
use crate::{Ground, Searching};

/// A kind of search, resolved and checked.
pub trait Seeks {
    /// Returns the ground.
    fn ground(&self) -> &Ground;

    /// Returns the number of blocks of the proof, before its contents are known.
    fn proof_blocks(&self) -> u64;

    /// Returns settings from the middle of the searched region, to time them.
    fn samples(&self, game: &dyn GameEntry) -> Vec<Setting>;

    /// The search at its beginning, or where a checkpoint left it. Errs when that is not one of this search.
    fn begin<'a>(
        &'a self,
        game: &'a dyn GameEntry,
        checkpoint: Option<&str>,
    ) -> Result<Box<dyn Searching + 'a>, CheckpointError>;

    /// Builds the work of its workers. Errs if the work does not fit the search.
    fn work<'a>(&'a self, game: &'a dyn GameEntry) -> Result<Box<dyn SearchWork + 'a>, CheckpointError>;
}

/// The study that a search is part of.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Made<'a> {
    /// Name of the study.
    pub study: &'a str,
    /// Its brief as given.
    pub brief: &'a str,
}

/// A checkpoint that no search of this kind wrote.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("{0}")]
pub struct CheckpointError(pub String);
