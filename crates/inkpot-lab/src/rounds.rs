//! The rounds of a stored study, drawn from its rows.

use inkpot_core::GameEntry;
use inkpot_ledger::{LedgerError, Manifest, Study};

use crate::StudyPlan;
use crate::standing::read;

/// Draws every round of a stored study that follows from its rows, and returns the plan. Errs if they are damaged.
pub fn drawn(
    study: &Study,
    manifest: &Manifest,
    mut plan: StudyPlan,
    game: &dyn GameEntry,
) -> Result<StudyPlan, LedgerError> {
    draw(study, manifest, &mut plan, game)?;
    Ok(plan)
}

/// Draws the rounds that follow from undamaged rows.
pub fn drawn_as_far(
    study: &Study,
    manifest: &Manifest,
    mut plan: StudyPlan,
    game: &dyn GameEntry,
) -> Result<StudyPlan, LedgerError> {
    match draw(study, manifest, &mut plan, game) {
        Err(LedgerError::DamagedPart { .. }) | Ok(()) => Ok(plan),
        Err(other) => Err(other),
    }
}

fn draw(study: &Study, manifest: &Manifest, plan: &mut StudyPlan, game: &dyn GameEntry) -> Result<(), LedgerError> {
    let measures = game.measure_names();
    let mut played = Vec::new();
    while plan.rounds_drawn() < plan.rounds.len()
        && study.missing(manifest, plan.cells.len() as u64 * plan.blocks).is_empty()
    {
        read(study, manifest, &measures, plan, &mut played)?;
        plan.draw_round(&played);
    }
    Ok(())
}
