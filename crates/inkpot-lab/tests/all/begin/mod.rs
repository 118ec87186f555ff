//! Studies that are begun.

use std::path::Path;

use inkpot_lab::StudyPlan;
use inkpot_ledger::{Ledger, Machine, Manifest, Naming, Study};

/// A study of this plan with nothing played.
pub(crate) fn begun(folder: &Path, plan: &StudyPlan) -> (Study, Manifest) {
    let ledger = Ledger::at(folder);
    let begun = ledger.begin(Naming::Named("study")).expect("the name is free");
    let (kind, ground) = (plan.kind().name(), &plan.ground);
    let manifest = Manifest::begin(kind, ground.game.name(), ground.seed, plan.total_blocks(), Machine::default());
    let (study, manifest, _) = begun.settle(manifest).expect("the folder can be renamed");
    (study, manifest)
}
