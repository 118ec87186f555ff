//! Making a study: the common part of `batch`, `sweep`, `run`, `resume` and `demo`.

use inkpot_lab::{StudyPlan, StudySummary};
use inkpot_ledger::{Manifest, Naming, Phase, Study};

use crate::briefs::{self, ResolvedBrief};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::hint;
use crate::kinds;
use crate::playing::{self, go_on};
use crate::searching;
use crate::show;
use crate::show::study_view::StudyView;
use crate::stored::{self, BRIEF, HISTORY, PLAN, RESOLVED, SEARCH, machine};
use crate::telling;

/// The inputs to a study, besides its plan.
#[derive(Clone, Copy)]
pub(crate) struct Making<'a> {
    /// Its brief as given, and with every default where that is a brief of its own.
    pub(crate) brief: &'a str,
    pub(crate) resolved: Option<&'a str>,
    /// Its name, where it has one; else it is numbered after this word and its game.
    pub(crate) name: Option<&'a str>,
    pub(crate) word: &'a str,
}

/// Makes a study that is played as drafted. Returns the study and its summary.
pub(crate) fn make(
    plan: &StudyPlan,
    brief: &str,
    name: Option<&str>,
    desk: &Desk,
) -> Result<(Study, StudySummary), Failure> {
    let resolved = briefs::write(plan, desk.game(&plan.ground.game)?);
    make_as(plan, Making { brief, resolved: Some(&resolved), name, word: plan.kind().name() }, desk)
}

/// Makes a study of a plan.
pub(crate) fn make_as(plan: &StudyPlan, making: Making, desk: &Desk) -> Result<(Study, StudySummary), Failure> {
    let (kind, ground) = (plan.kind().name(), &plan.ground);
    let numbered = format!("{}-{}", making.word, ground.game);
    // From the first file on an interrupt leaves a sound study, and says how to go on.
    Desk::halt_on_interrupt();
    let begun = desk.ledger.begin(making.name.map_or(Naming::Numbered(&numbered), Naming::Named))?;
    begun.study().write(BRIEF, making.brief.as_bytes())?;
    if let Some(resolved) = making.resolved {
        begun.study().write(RESOLVED, resolved.as_bytes())?;
    }
    playing::store_plan(begun.study(), plan)?;
    let manifest = Manifest::begin(kind, ground.game.name(), ground.seed, plan.total_blocks(), machine(desk));
    let (study, mut manifest, _lock) = begun.settle(manifest)?;
    let summary = go_on(&study, &mut manifest, plan, desk)?;
    Ok((study, summary))
}

/// Makes the study of a brief.
pub(crate) fn make_asked(
    asked: &ResolvedBrief,
    brief: &str,
    name: Option<&str>,
    desk: &Desk,
) -> Result<(Study, StudySummary), Failure> {
    match asked {
        ResolvedBrief::Study(plan) => make(plan, brief, name, desk),
        ResolvedBrief::Search(search) => searching::make(search, brief, name, desk),
    }
}

/// Returns the text of a brief with every default.
pub(crate) fn resolved(brief: &ResolvedBrief, desk: &Desk) -> Result<String, Failure> {
    match brief {
        ResolvedBrief::Study(plan) => Ok(briefs::write(plan, desk.game(&plan.ground.game)?)),
        ResolvedBrief::Search(search) => Ok(kinds::searches(search).write()),
    }
}

/// Goes on with a study where it stopped.
pub(crate) fn resume(study: &Study, desk: &Desk) -> Result<StudySummary, Failure> {
    let _lock = study.lock()?;
    let mut manifest = study.manifest()?;
    manifest.machine = machine(desk);
    remade(study, &manifest, desk)?;
    if manifest.phase == Phase::Search {
        let search = stored::stored_search(study, &manifest)?;
        if desk.watch && search.aim().is_none() {
            let what = format!(
                "`{}` is a {} study, and only an evolution or a training can be watched",
                study.name(),
                search.kind().name()
            );
            return Err(Failure::wrong(what, "leave `--watch` out: the progress line says how far the search is"));
        }
        return searching::go_on(study, &mut manifest, &search, desk);
    }
    // Its later rounds are drawn as they are reached: what they follow from may be damaged, and is then played again.
    let plan = stored::stored_plan(study, &manifest)?;
    go_on(study, &mut manifest, &plan, desk)
}

/// Rebuilds damaged files among those that a study was made from, where the others determine them. Errs otherwise: a
/// study never continues with other settings.
fn remade(study: &Study, manifest: &Manifest, desk: &Desk) -> Result<(), Failure> {
    for file in [BRIEF, RESOLVED, SEARCH, PLAN, HISTORY].into_iter().filter(|file| manifest.files.contains_key(*file)) {
        let Err(error) = study.read_kept(manifest, file) else { continue };
        let again = again(study, manifest, file, desk).ok().flatten();
        let Some(text) = again.filter(|text| manifest.vouches_for(file, text.as_bytes())) else {
            let brief = study.folder().join(BRIEF).display().to_string();
            let anew = hint::on_ledger(["run", &brief, "--name", "NAME"]);
            let help = format!("restore {file} as it was; to play with other settings, make a new study: {anew}");
            return Err(Failure::Failed(format!("{error}\n  help: {help}")));
        };
        desk.say(format!("warning: {file} was damaged or changed, and has been restored"));
        study.write(file, text.as_bytes())?;
    }
    Ok(())
}

/// The text of a file that a study was made from, by the other files.
fn again(study: &Study, manifest: &Manifest, file: &str, desk: &Desk) -> Result<Option<String>, Failure> {
    if file == BRIEF {
        return Ok(Some(study.read_kept(manifest, RESOLVED)?));
    }
    if file == PLAN && stored::has_search(study) {
        return searching::proved_again(study, manifest, desk)?.map(|plan| stored::plan_text(&plan)).transpose();
    }
    if file == HISTORY {
        return searching::history_again(study, manifest, desk);
    }
    let brief = study.read_kept(manifest, BRIEF)?;
    let parsed = briefs::read_named(&brief, &study.folder().join(BRIEF), desk)?;
    match (file, &parsed) {
        (RESOLVED, _) => resolved(&parsed, desk).map(Some),
        (PLAN, ResolvedBrief::Study(plan)) => stored::plan_text(plan).map(Some),
        (SEARCH, ResolvedBrief::Search(search)) => stored::plan_text(search).map(Some),
        _ => Ok(None),
    }
}

/// Prints a study's finding: its summary as JSON, or tables.
pub(crate) fn print(study: &Study, summary: &StudySummary, desk: &Desk) -> Result<(), Failure> {
    let (manifest, plan) = stored::open(study, desk)?;
    let times = &manifest.decision_times;
    let slow = show::costs::notes(&plan, times);
    if desk.json {
        let text = serde_json::to_string_pretty(summary).map_err(|error| Failure::Failed(error.to_string()))?;
        desk.print(text);
        for note in &slow {
            desk.say(format!("note: {note}"));
        }
        return Ok(());
    }
    if desk.quiet {
        desk.print(telling::finding(summary));
        return Ok(());
    }
    let game = desk.game(&summary.game)?;
    desk.print(telling::text(&StudyView { summary, game, times }, desk.color));
    for note in &slow {
        desk.print(format!("note: {note}"));
    }
    let plot = hint::on_ledger(["plot", study.name()]);
    desk.print(format!("\nIn {}; {plot} draws it.", study.folder().display()));
    Ok(())
}

/// Reads the incident of the first match of a study.
fn first_incident(study: &Study, desk: &Desk) -> Result<Option<String>, Failure> {
    let (manifest, plan) = stored::open(study, desk)?;
    Ok(stored::rows_of(study, &manifest, &plan, 0, desk)?.into_iter().find_map(|row| row.incident))
}

/// Prints a study's finding. Errs if a requested file was not `written`, if there is no finding, or if a requirement is
/// not established.
pub(crate) fn finish(
    study: &Study,
    summary: &StudySummary,
    written: Result<(), Failure>,
    desk: &Desk,
) -> Result<(), Failure> {
    print(study, summary, desk)?;
    written?;
    if summary.voids > summary.abandoned() && summary.voids == summary.matches {
        let rows = hint::on_ledger(["ledger", "export", study.name()]);
        let help = format!("{rows} shows why for each match, in the column `incident`");
        let reason = first_incident(study, desk)?.map(|reason| format!(": {reason}")).unwrap_or_default();
        return Err(Failure::Failed(format!("every match was void{reason}\n  help: {help}")));
    }
    kinds::of(summary).requirement()
}
