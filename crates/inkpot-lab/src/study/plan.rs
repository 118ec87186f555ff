//! The plan of a study: the common part, and the design of its kind.

use std::ops::{Deref, DerefMut};

use inkpot_core::{GameSource, Level, Registry, Spot};
use serde::{Deserialize, Serialize};

use crate::kinds::compare::Compare;
use crate::kinds::sweep::Vary;
use crate::kinds::tune::{Proof, Sheet};
use crate::kinds::{Design, SearchPlan, StudyKind};
use crate::standing::Played;
use crate::suspense::KEPT as LEADS_KEPT;
use crate::{Cell, Made, Plan, Problem};

/// A study of more cells keeps no leads: they are for the suspense of each.
const MOST_CELLS_WITH_LEADS: u64 = 64;

/// A study that is played, resolved and checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct StudyPlan {
    /// The part that all kinds share.
    #[serde(flatten)]
    pub shared: Plan,
    /// The part of its kind.
    pub design: Design,
}

impl Deref for StudyPlan {
    type Target = Plan;

    fn deref(&self) -> &Plan {
        &self.shared
    }
}

impl DerefMut for StudyPlan {
    fn deref_mut(&mut self) -> &mut Plan {
        &mut self.shared
    }
}

impl StudyPlan {
    /// Returns the plan that measures a sheet of this game; `level` is the sheet's. Errs with every mismatch with the
    /// game.
    pub fn proving(sheet: &Sheet, game: &GameSource, level: Level, registry: &Registry) -> Result<Self, Vec<Problem>> {
        let (shared, proof) = Proof::plan(sheet, game, level, registry)?;
        Ok(Self { shared, design: Design::Tune(Box::new(proof)) })
    }

    /// Returns the plan of the proof for the finished search of this checkpoint, in a study of this name made from this
    /// brief. Errs if there is nothing to prove.
    pub fn of_found(
        search: &SearchPlan,
        checkpoint: &str,
        made: &Made,
        registry: &Registry,
    ) -> Result<Self, Vec<Problem>> {
        let (shared, design) = search.prove(checkpoint, made, registry)?;
        Ok(Self { shared, design })
    }

    /// Its kind.
    pub fn kind(&self) -> StudyKind {
        self.design.kind()
    }

    /// The knobs that are varied; none but in a sweep.
    pub fn vary(&self) -> &[Vary] {
        if let Design::Sweep(sweep) = &self.design { &sweep.vary } else { &[] }
    }

    /// The wanted win rate of a sweep's first entrant.
    pub fn target(&self) -> Option<f64> {
        if let Design::Sweep(sweep) = &self.design { sweep.target } else { None }
    }

    /// The comparison, if it is one.
    pub fn comparison(&self) -> Option<&Compare> {
        if let Design::Compare(compare) = &self.design { Some(compare) } else { None }
    }

    /// A cell in words: `guest against house`, `skill 0.4`.
    pub fn cell_name(&self, cell: &Cell) -> String {
        self.design.as_kind().cell_name(&self.shared, cell)
    }

    /// The spot of a match, by its number.
    pub fn spot(&self, match_index: u64) -> Spot {
        let (unit, rotation) = (match_index / self.matches_a_block(), match_index % self.matches_a_block());
        let (cell, block) = if self.design.as_kind().interleaved() {
            let cells = self.cells.len() as u64;
            (unit % cells, unit / cells)
        } else {
            (unit / self.blocks, unit % self.blocks)
        };
        let first_block = self.cells.get(cell as usize).map_or(0, |cell| cell.first_block);
        let leads = block < LEADS_KEPT && self.seats() == 2 && self.total_cells() <= MOST_CELLS_WITH_LEADS;
        Spot { cell: cell as u32, block: first_block + block, rotation: rotation as usize, match_index, leads }
    }

    /// Draws the next round, given every table played before it.
    pub(crate) fn draw_round(&mut self, played: &[Played]) {
        self.design.as_kind().draw_round(&mut self.shared, played);
    }
}
