//! Playing a plan into its study, in one sitting or several.

use inkpot_lab::{Event, PlayError, Runner, Sitting, StudyPlan, StudySummary, Threads, summarise};
use inkpot_ledger::{LedgerError, Manifest, Study};

use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds;
use crate::progress::Progress;
use crate::{hint, stored, weights};

/// Plays the missing blocks of a plan into its study, and sums it up.
pub(crate) fn go_on(
    study: &Study,
    manifest: &mut Manifest,
    plan: &StudyPlan,
    desk: &Desk,
) -> Result<StudySummary, Failure> {
    let game = desk.game(&plan.ground.game)?;
    // What it keeps for people changes at its end: until then the manifest vouches for none of that.
    for (name, _) in kinds::written(&plan.design).files(None)? {
        manifest.files.remove(&name);
    }
    let threads = Threads(desk.threads);
    let runner = Runner::new(plan, game, &threads, Desk::halt_on_interrupt());
    let mut progress = Progress::new(plan, desk);
    let sitting = runner.play(study, manifest, &mut |event| progress.hear(event));
    if let Ok((Sitting::Complete, _)) = sitting {
        progress.hear(&Event::SummingUp);
    }
    progress.finish();
    let go_on = format!("{} continues the study", hint::on_ledger(["resume", study.name()]));
    let plan = match sitting {
        Ok((Sitting::Complete, plan)) => plan,
        Ok((Sitting::Interrupted, _)) => {
            let (done, all) = (manifest.blocks_done, manifest.blocks);
            return Err(Failure::Interrupted(format!("interrupted: {done} of {all} blocks are saved; {go_on}")));
        }
        Err(PlayError::Ledger(error @ LedgerError::Io { .. })) => {
            let help = format!("what was finished is saved; once there is space and access, {go_on}");
            return Err(Failure::Failed(format!("{error}\n  help: {help}")));
        }
        Err(error @ PlayError::ByHand { .. }) => {
            let help = "restore the files of the study as they were; damaged ones are kept under another name";
            return Err(Failure::Failed(format!("{error}\n  help: {help}")));
        }
        Err(error) => return Err(Failure::Failed(format!("{error}\n  help: finished matches are saved; {go_on}"))),
    };
    let (summary, decision_times) = summarise(study, manifest, &plan, game)?;
    manifest.decision_times = decision_times;
    for (name, text) in kinds::written(&plan.design).files(Some(&summary))? {
        study.write_kept(manifest, &name, text.as_bytes())?;
    }
    for (name, bytes) in weights::files(&plan.entrants) {
        study.write_kept(manifest, name, bytes)?;
    }
    let text = serde_json::to_string_pretty(&summary).map_err(|error| Failure::Failed(error.to_string()))? + "\n";
    study.complete(manifest, &text)?;
    Ok(summary)
}

/// Stores the plan of a study's matches, its first or that of a search's proof, with the files that it keeps for
/// people.
pub(crate) fn store_plan(study: &Study, plan: &StudyPlan) -> Result<(), Failure> {
    for (name, text) in kinds::written(&plan.design).files(None)? {
        study.write(&name, text.as_bytes())?;
    }
    for (name, bytes) in weights::files(&plan.entrants) {
        study.write(name, bytes)?;
    }
    stored::store_plan(study, plan)
}
