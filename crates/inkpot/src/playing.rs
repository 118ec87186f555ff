//! Playing a plan into its study, in one sitting or several.

use inkpot_lab::{Event, Plan, Runner, Sitting, Summary, summarise};
use inkpot_ledger::{Manifest, Study};

use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds;
use crate::progress::Progress;
use crate::stored::{self, ledger_option};

/// Plays what is missing of a plan into its study, and sums it up.
pub(crate) fn go_on(study: &Study, manifest: &mut Manifest, plan: &Plan, desk: &Desk) -> Result<Summary, Failure> {
    let game = desk.game(&plan.ground.game)?;
    let runner = Runner::new(plan, game, desk.threads, Desk::stop_on_interrupt());
    let mut progress = Progress::new(plan, desk);
    let sitting = runner.play(study, manifest, |event| progress.hear(event));
    if let Ok((Sitting::Complete, _)) = sitting {
        progress.hear(&Event::SummingUp);
    }
    progress.finish();
    let go_on = format!("`inkpot {}resume {}` goes on", ledger_option(desk), study.name());
    let plan = match sitting {
        Ok((Sitting::Complete, plan)) => plan,
        Ok((Sitting::Interrupted, _)) => {
            let (done, all) = (manifest.blocks_done, manifest.blocks);
            return Err(Failure::Interrupted(format!("interrupted: {done} of {all} blocks are saved; {go_on}")));
        }
        Err(error) => return Err(Failure::Failed(format!("{error}\n  help: what was finished is saved; {go_on}"))),
    };
    let (summary, decision_times) = summarise(study, manifest, &plan, game)?;
    manifest.decision_times = decision_times;
    write_files(study, &plan, Some(&summary))?;
    let text = serde_json::to_string_pretty(&summary).map_err(|error| Failure::Failed(error.to_string()))? + "\n";
    study.complete(manifest, &text, kinds::written(&plan.design).kept())?;
    Ok(summary)
}

/// Stores what is played of a study, its first plan or what a search found, with the files it keeps for people.
pub(crate) fn store_plan(study: &Study, plan: &Plan) -> Result<(), Failure> {
    write_files(study, plan, None)?;
    stored::store_plan(study, plan)
}

/// Writes the files that a study keeps for people, with what it found once that is known.
fn write_files(study: &Study, plan: &Plan, summary: Option<&Summary>) -> Result<(), Failure> {
    for (name, text) in kinds::written(&plan.design).files(summary)? {
        study.write(name, text.as_bytes())?;
    }
    Ok(())
}
