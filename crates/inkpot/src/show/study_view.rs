//! What it takes to tell what a study found.

use inkpot_core::GameEntry;
use inkpot_lab::StudySummary;
use inkpot_ledger::DecisionTime;

/// What a study found, and what it takes to tell it.
#[derive(Clone, Copy)]
pub(crate) struct StudyView<'a> {
    pub(crate) summary: &'a StudySummary,
    pub(crate) game: &'a dyn GameEntry,
    /// How long decisions took, where that is known.
    pub(crate) times: &'a [DecisionTime],
}
