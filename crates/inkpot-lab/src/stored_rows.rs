//! The stored rows of a study, checked against its plan as they are read.

use inkpot_core::Rows;
use inkpot_ledger::{Columns, LedgerError, Manifest, Span, Study};

use crate::Plan;

impl Plan {
    /// Errs if rows do not match the plan's cells and entrants. The columns `cell` and `entrant` must exist.
    fn check_rows(&self, rows: &Rows) -> Result<(), String> {
        for block in rows.blocks() {
            let Some(cell) = self.cells.get(block.cell()) else {
                return Err(format!("a row is of cell {}, and the plan has {}", block.cell(), self.cells.len()));
            };
            let stranger = block.rows().iter().find(|row| !cell.entrants.contains(&usize::from(row.entrant)));
            if let Some(row) = stranger {
                return Err(format!("a row of cell {} is of entrant {}, who plays elsewhere", row.cell, row.entrant));
            }
        }
        Ok(())
    }
}

/// Calls `visit` with the stored rows of a study in order, part by part. Errs when a part is damaged, when blocks are
/// missing, and when rows are not those of the plan.
pub fn visit_rows(
    study: &Study,
    manifest: &Manifest,
    plan: &Plan,
    measures: &[String],
    visit: impl FnMut(&Rows) -> Result<(), LedgerError>,
) -> Result<(), LedgerError> {
    visit_stretch(study, manifest, plan, (measures, None), 0..manifest.blocks, visit)
}

/// The same for the parts that hold any of these blocks, with only some columns read.
pub(crate) fn visit_stretch(
    study: &Study,
    manifest: &Manifest,
    plan: &Plan,
    (measures, only): (&[String], Option<&Columns>),
    stretch: Span,
    mut visit: impl FnMut(&Rows) -> Result<(), LedgerError>,
) -> Result<(), LedgerError> {
    study.visit_stretch(manifest, measures, only, stretch, |rows| {
        let foreign = |why| LedgerError::Damaged { file: study.folder().join("rows"), why };
        plan.check_rows(rows).map_err(foreign)?;
        visit(rows)
    })
}
