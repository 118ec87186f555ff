//! The data for printing a study's finding.

use inkpot_core::GameEntry;
use inkpot_lab::StudySummary;
use inkpot_ledger::DecisionTime;

/// A study's finding, and the data for printing it.
#[derive(Clone, Copy)]
pub(crate) struct StudyView<'a> {
    pub(crate) summary: &'a StudySummary,
    pub(crate) game: &'a dyn GameEntry,
    /// Decision times, if known.
    pub(crate) times: &'a [DecisionTime],
}
