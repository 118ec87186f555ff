//! Paths of an evolution's champion and last generation on the level.

use inkpot_core::GameEntry;

use super::asked::Evolve;
use super::repetition::Repetition;
use crate::CheckpointError;
use crate::kinds::found::{Paths, restored_of, ways};

/// Plays the champion of the repetition with this number, and the last generation of that, on blocks that no search saw.
/// None where the game draws no scene of seats. Errs where the checkpoint is not one of this search.
pub(crate) fn paths(
    evolve: &Evolve,
    checkpoint: &str,
    number: u64,
    game: &dyn GameEntry,
) -> Result<Option<Paths>, CheckpointError> {
    let repetition: Repetition = restored_of(&evolve.aim, checkpoint, number)?;
    let champion = &repetition.looks.champion_or_last().pick.genome;
    let field = evolve.aim.training(&[], game);
    let field = if field.stands_alone() == (evolve.seating().seats() == 1) { field } else { evolve.aim.looking() };
    Ok(ways(&evolve.aim, &field, champion, &repetition.population.evolver.ask(), game))
}
