//! What the tables of a tournament came to, read off the stored rows: all that the next round is drawn from.

use inkpot_core::{Block, GameEntry};
use inkpot_ledger::{Columns, LedgerError, Manifest, Span, Study};

use super::schedule::Played;
use crate::Plan;

/// Adds the tables that are drawn and played to those known already.
pub(crate) fn read(
    study: &Study,
    manifest: &Manifest,
    measures: &[String],
    plan: &Plan,
    known: &mut Vec<Played>,
) -> Result<(), LedgerError> {
    let first = known.len();
    let mut tables: Vec<Table> = plan.cells[first..].iter().map(|cell| Table::new(&cell.entrants)).collect();
    let stretch: Span = first as u64 * plan.blocks..plan.cells.len() as u64 * plan.blocks;
    let only = Columns {
        fields: vec!["cell", "block", "match", "entrant", "score", "outcome", "placement"],
        measures: Vec::new(),
    };
    study.visit_stretch(manifest, measures, Some(&only), stretch, |rows| {
        for block in rows.blocks() {
            if let Some(table) = block.cell().checked_sub(first).and_then(|index| tables.get_mut(index)) {
                table.take(block);
            }
        }
        Ok(())
    })?;
    known.extend(tables.into_iter().map(Table::played));
    Ok(())
}

/// The sums of one table.
struct Table {
    entrants: Vec<usize>,
    points: Vec<f64>,
    blocks_won: Vec<f64>,
    score: Vec<f64>,
    matches: f64,
}

impl Table {
    fn new(entrants: &[usize]) -> Self {
        let none = vec![0.0; entrants.len()];
        Self { entrants: entrants.to_vec(), points: none.clone(), blocks_won: none.clone(), score: none, matches: 0.0 }
    }

    /// Counts a block; a void match counts for nobody.
    fn take(&mut self, block: Block) {
        let mut own = vec![0.0; self.entrants.len()];
        let mut scores = own.clone();
        for played in block.matches().filter(|played| !played.is_void()) {
            self.matches += 1.0;
            for (seat, row) in played.seats().iter().enumerate() {
                if let Some(who) = self.entrants.iter().position(|entrant| *entrant == usize::from(row.entrant)) {
                    own[who] += played.points(seat);
                    scores[who] += row.score;
                }
            }
        }
        let most = own.iter().copied().fold(0.0, f64::max);
        if own.iter().filter(|points| **points == most).count() == 1 {
            own.iter()
                .zip(&mut self.blocks_won)
                .filter(|(points, _)| **points == most)
                .for_each(|(_, won)| *won += 1.0);
        }
        scores.iter().zip(&mut self.score).for_each(|(own, sum)| *sum += own);
        own.iter().zip(&mut self.points).for_each(|(own, sum)| *sum += own);
    }

    fn played(self) -> Played {
        let matches = self.matches.max(1.0);
        let points = self.points.iter().map(|sum| if self.matches > 0.0 { sum / matches } else { 0.5 }).collect();
        Played { entrants: self.entrants, points, blocks_won: self.blocks_won, score: self.score }
    }
}

/// The plan of a stored study with every round drawn whose tables follow from what is stored. Errs when that is
/// damaged.
pub fn drawn(study: &Study, manifest: &Manifest, mut plan: Plan, game: &dyn GameEntry) -> Result<Plan, LedgerError> {
    draw(study, manifest, &mut plan, game)?;
    Ok(plan)
}

/// The same as far as what is stored is sound.
pub fn drawn_as_far(
    study: &Study,
    manifest: &Manifest,
    mut plan: Plan,
    game: &dyn GameEntry,
) -> Result<Plan, LedgerError> {
    match draw(study, manifest, &mut plan, game) {
        Err(LedgerError::DamagedPart { .. }) | Ok(()) => Ok(plan),
        Err(other) => Err(other),
    }
}

fn draw(study: &Study, manifest: &Manifest, plan: &mut Plan, game: &dyn GameEntry) -> Result<(), LedgerError> {
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
