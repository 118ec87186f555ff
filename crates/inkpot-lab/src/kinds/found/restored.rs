//! Repetitions read back from a checkpoint.

use serde::de::DeserializeOwned;

use super::aim::Aim;
use crate::CheckpointError;

/// The repetitions of a checkpoint. Errs where it is not one of a search with this aim.
pub(crate) fn restored<R: DeserializeOwned>(aim: &Aim, checkpoint: &str) -> Result<Vec<R>, CheckpointError> {
    let wrong = |what: String| CheckpointError(format!("the checkpoint is not one of this search: {what}"));
    let repetitions: Vec<R> = serde_json::from_str(checkpoint).map_err(|error| wrong(error.to_string()))?;
    if repetitions.len() as u64 == aim.seeds {
        Ok(repetitions)
    } else {
        Err(wrong(format!("it has {} repetitions and not {}", repetitions.len(), aim.seeds)))
    }
}

/// The repetition of this number. Errs where there is none.
pub(crate) fn restored_of<R: DeserializeOwned>(aim: &Aim, checkpoint: &str, number: u64) -> Result<R, CheckpointError> {
    let mut all: Vec<R> = restored(aim, checkpoint)?;
    match (0..all.len()).find(|repetition| aim.number_of(*repetition) == number) {
        Some(repetition) => Ok(all.swap_remove(repetition)),
        None => Err(CheckpointError(format!("there is no repetition {number}"))),
    }
}
