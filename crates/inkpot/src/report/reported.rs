//! A study on the page.

use inkpot_lab::{Stored, StudyPlan, StudySummary};
use inkpot_ledger::{Manifest, Study};

/// A study as it is stored.
pub(super) struct Reported {
    pub(super) study: Study,
    pub(super) manifest: Manifest,
    pub(super) plan: StudyPlan,
    pub(super) summary: StudySummary,
}

impl Reported {
    pub(super) fn stored(&self, place: usize) -> Stored<'_> {
        Stored { study: &self.study, manifest: &self.manifest, plan: &self.plan, place }
    }
}
