//! Making a study: what `batch`, `sweep`, `run`, `resume` and `demo` share.

use inkpot_lab::{Plan, Summary};
use inkpot_ledger::{Manifest, Phase, Study};

use crate::brief;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::playing::go_on;
use crate::show;
use crate::stored::{self, ledger_option, machine};
use crate::tuning;

/// Makes a study of a plan; `text` is its brief as given. Gives the study and what it found.
pub(crate) fn make(plan: &Plan, text: &str, name: Option<&str>, desk: &Desk) -> Result<(Study, Summary), Failure> {
    let study = stored::create(name, plan.kind().name(), &plan.ground.game, desk)?;
    let _lock = study.lock()?;
    let game = desk.game(&plan.ground.game)?;
    study.write("brief.toml", text.as_bytes())?;
    study.write("resolved.toml", brief::write(plan, game).as_bytes())?;
    stored::store_plan(&study, plan)?;
    let blocks = plan.total_blocks();
    let mut manifest =
        Manifest::begin(&study, plan.kind().name(), &plan.ground.game, plan.ground.seed, blocks, machine(desk));
    study.write_manifest(&manifest)?;
    let summary = go_on(&study, &mut manifest, plan, desk)?;
    Ok((study, summary))
}

/// Goes on with a study where it stopped.
pub(crate) fn resume(study: &Study, desk: &Desk) -> Result<Summary, Failure> {
    let _lock = study.lock()?;
    let mut manifest = study.manifest()?;
    manifest.machine = machine(desk);
    if manifest.phase == Phase::Search {
        return tuning::go_on(study, &mut manifest, &stored::stored_search(study)?, desk);
    }
    let (_, plan) = stored::open(study, desk)?;
    go_on(study, &mut manifest, &plan, desk)
}

/// Prints what a study found: its summary as JSON, or tables.
pub(crate) fn print(study: &Study, summary: &Summary, desk: &Desk) -> Result<(), Failure> {
    let (manifest, plan) = stored::open(study, desk)?;
    let times = &manifest.decision_times;
    let slow = show::costs::notes(&plan, times);
    if desk.json {
        desk.print(study.read_text("summary.json")?);
        for note in &slow {
            desk.say(format!("note: {note}"));
        }
        return Ok(());
    }
    let game = desk.game(&summary.game)?;
    desk.print(show::summary::text(summary, game, &show::costs::text(summary, times, desk.color), desk));
    for note in &slow {
        desk.print(format!("note: {note}"));
    }
    let (folder, name) = (study.folder(), study.name());
    desk.print(format!("\nIn {}; `inkpot {}plot {name}` draws it.", folder.display(), ledger_option(desk)));
    Ok(())
}

/// Prints what a study found; errs when it does not establish what its comparison requires.
pub(crate) fn finish(study: &Study, summary: &Summary, desk: &Desk) -> Result<(), Failure> {
    print(study, summary, desk)?;
    summary.comparison().map_or(Ok(()), show::comparison::requirement)?;
    summary.tune().map_or(Ok(()), show::tune::requirement)
}
