//! Paths of a training's champion on the level, and of its earlier states.

use inkpot_core::GameEntry;

use super::asked::Train;
use super::repetition::Repetition;
use crate::CheckpointError;
use crate::kinds::found::{Paths, restored_of, ways};

/// Plays the champion of the repetition with this number, and its earlier states, on blocks that no search saw. None if
/// the game draws no scene of seats. Errs if the checkpoint belongs to another search.
pub(crate) fn paths(
    train: &Train,
    checkpoint: &str,
    number: u64,
    game: &dyn GameEntry,
) -> Result<Option<Paths>, CheckpointError> {
    let repetition: Repetition = restored_of(&train.aim, checkpoint, number)?;
    let champion = &repetition.looks.champion_or_last().pick.genome;
    Ok(ways(&train.aim, &train.aim.looking(), champion, &repetition.earlier(), game))
}
