//! Making a study: what `batch`, `sweep`, `run`, `resume` and `demo` share.

use inkpot_lab::{Plan, Summary};
use inkpot_ledger::{Manifest, Phase, Study};

use crate::briefs::{self, Asked};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds;
use crate::playing::{self, go_on};
use crate::searching;
use crate::show;
use crate::show::told::Told;
use crate::stored::{self, ledger_option, machine};
use crate::telling;

/// How a study is made of a plan.
#[derive(Clone, Copy)]
pub(crate) struct Making<'a> {
    /// Its brief as given, and with every default where that is a brief of its own.
    pub(crate) brief: &'a str,
    pub(crate) resolved: Option<&'a str>,
    /// Its name, where it has one; else it is numbered after this word and its game.
    pub(crate) name: Option<&'a str>,
    pub(crate) word: &'a str,
}

/// Makes a study that is played as it was drafted. Gives the study and what it found.
pub(crate) fn make(plan: &Plan, brief: &str, name: Option<&str>, desk: &Desk) -> Result<(Study, Summary), Failure> {
    let resolved = briefs::write(plan, desk.game(&plan.ground.game)?);
    make_as(plan, Making { brief, resolved: Some(&resolved), name, word: plan.kind().name() }, desk)
}

/// Makes a study of a plan.
pub(crate) fn make_as(plan: &Plan, making: Making, desk: &Desk) -> Result<(Study, Summary), Failure> {
    let (kind, ground) = (plan.kind().name(), &plan.ground);
    let study = stored::create(making.name, making.word, &ground.game, desk)?;
    let _lock = study.lock()?;
    study.write("brief.toml", making.brief.as_bytes())?;
    if let Some(resolved) = making.resolved {
        study.write("resolved.toml", resolved.as_bytes())?;
    }
    playing::store_plan(&study, plan)?;
    let mut manifest = Manifest::begin(&study, kind, &ground.game, ground.seed, plan.total_blocks(), machine(desk));
    study.write_manifest(&manifest)?;
    let summary = go_on(&study, &mut manifest, plan, desk)?;
    Ok((study, summary))
}

/// Makes a study of what a brief asks for.
pub(crate) fn make_asked(
    asked: &Asked,
    brief: &str,
    name: Option<&str>,
    desk: &Desk,
) -> Result<(Study, Summary), Failure> {
    match asked {
        Asked::Study(plan) => make(plan, brief, name, desk),
        Asked::Search(sought) => searching::make(sought, brief, name, desk),
    }
}

/// The text of what a brief asks for, with every default.
pub(crate) fn resolved(asked: &Asked, desk: &Desk) -> Result<String, Failure> {
    match asked {
        Asked::Study(plan) => Ok(briefs::write(plan, desk.game(&plan.ground.game)?)),
        Asked::Search(sought) => Ok(kinds::searches(sought).write()),
    }
}

/// Goes on with a study where it stopped.
pub(crate) fn resume(study: &Study, desk: &Desk) -> Result<Summary, Failure> {
    let _lock = study.lock()?;
    let mut manifest = study.manifest()?;
    manifest.machine = machine(desk);
    if manifest.phase == Phase::Search {
        return searching::go_on(study, &mut manifest, &stored::stored_search(study)?, desk);
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
    desk.print(telling::text(&Told { summary, game, times }, desk.color));
    for note in &slow {
        desk.print(format!("note: {note}"));
    }
    let (folder, name) = (study.folder(), study.name());
    desk.print(format!("\nIn {}; `inkpot {}plot {name}` draws it.", folder.display(), ledger_option(desk)));
    Ok(())
}

/// Prints what a study found; errs when it does not establish what it requires.
pub(crate) fn finish(study: &Study, summary: &Summary, desk: &Desk) -> Result<(), Failure> {
    print(study, summary, desk)?;
    kinds::of(summary).requirement()
}
