//! Kinds of study: the methods of each kind, and the steps that all share.

use inkpot_core::{GameEntry, Rows};
use inkpot_stats::Interval;

use crate::checker::Checker;
use crate::standing::Played;
use crate::tally::CellTally;
use crate::{Cell, EntrantSummary, PairingSummary, Plan, Summary};

/// A kind of study: how it is laid out and played.
pub(crate) trait Kind {
    /// Fills in the cells of a plan that is otherwise complete: all of them, or those of a first round.
    fn lay_out(&self, plan: &mut Plan, checker: &mut Checker);

    /// Returns the seats of a match with this many entrants and this request.
    fn seats(&self, checker: &mut Checker, wanted: Option<u64>, entrants: usize) -> usize {
        checker.seats(wanted, entrants)
    }

    /// A cell in words: `guest against house`, `skill 0.4`.
    fn cell_name(&self, plan: &Plan, cell: &Cell) -> String {
        plan.pairing_name(cell)
    }

    /// Whether the cells are played block by block instead of one after the other: a study that may stop at any block
    /// plays the same blocks of all.
    fn interleaved(&self) -> bool {
        false
    }

    /// Whether the same people may play several matches in a row.
    fn has_series(&self) -> bool {
        true
    }

    /// Whether each cell has decision times of its own.
    fn times_by_cell(&self) -> bool {
        false
    }

    /// Whether the outcome of every block is kept, to compare cells block by block.
    fn compares_blocks(&self, plan: &Plan) -> bool {
        plan.total_cells() > 1
    }

    /// Whether a one-sided result deserves a note: a champion is meant to win.
    fn notes_one_sided(&self) -> bool {
        true
    }

    /// Blocks of the study that share no chance.
    fn fresh_blocks(&self, plan: &Plan) -> u64 {
        plan.blocks
    }

    /// Draws the next round of a study that draws rounds from results, given every table played before it.
    fn draw_round(&self, _plan: &mut Plan, _played: &[Played]) {}

    /// Watches the blocks of a study that may end early; none of another kind.
    fn watch(&self, _plan: &Plan, _game: &dyn GameEntry) -> Option<Box<dyn Watching>> {
        None
    }
}

/// Looks at the blocks of a study in order and says when it may end.
pub(crate) trait Watching {
    /// Takes rows in order of blocks; once the study may end, how many of these rows belong to it.
    fn take(&mut self, rows: &Rows) -> Option<usize>;

    /// The figure of interest so far.
    fn latest(&self) -> Option<Interval>;
}

/// A kind of study with its finding.
pub(crate) trait Finds: Kind {
    /// The finding of this kind, beside the common summary.
    type Finding;

    /// The reading that makes the finding of the stored rows.
    fn reading<'a>(&'a self, plan: &'a Plan, game: &'a dyn GameEntry) -> Box<dyn Reading<Self::Finding> + 'a>;

    /// Changes the common summary where the finding requires it.
    fn amend(&self, _found: &Self::Finding, _summary: &mut Summary) {}

    /// Caveats of the finding, in plain sentences.
    fn notes(&self, _found: &Self::Finding, _about: &About) -> Vec<String> {
        Vec::new()
    }

    /// Whether the study ended before its last block because its question was answered.
    fn stopped_early(&self, _found: &Self::Finding) -> bool {
        false
    }
}

/// The data that notes on a finding may use.
pub(crate) struct About<'a> {
    pub(crate) summary: &'a Summary,
    pub(crate) plan: &'a Plan,
    pub(crate) game: &'a dyn GameEntry,
}

/// Reads a study's finding from its stored rows.
pub(crate) trait Reading<F> {
    /// Takes whole blocks in order of cell and block.
    fn take(&mut self, _rows: &Rows) {}

    /// Returns the finding.
    fn finish(self: Box<Self>, sums: &mut Sums) -> F;
}

/// The common sums of a study, for the finding of its kind.
pub(crate) struct Sums<'a> {
    pub(crate) plan: &'a Plan,
    pub(crate) game: &'a dyn GameEntry,
    pub(crate) cells: &'a [CellTally],
    /// Suspense of each cell, where it is known.
    pub(crate) suspense: &'a [Option<Interval>],
    pub(crate) entrants: &'a [EntrantSummary],
    pub(crate) pairings: Vec<PairingSummary>,
}
