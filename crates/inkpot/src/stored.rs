//! Studies as they are stored: their folders, plans, searches, sheets and summaries.

use inkpot_core::Row;
use inkpot_lab::{SearchPlan, StudyPlan, StudySummary, drawn, drawn_as_far, read_plan, summarise, write_plan};
use inkpot_ledger::{LedgerError, Machine, Manifest, Phase, State, Study};
use serde::Serialize;
use serde::de::DeserializeOwned;

use crate::desk::Desk;
use crate::failure::Failure;
use crate::hint;

/// The history of a search, for people and figures.
pub(crate) const HISTORY: &str = "history.csv";
/// The state of a search, from which `resume` continues.
pub(crate) const CHECKPOINT: &str = "checkpoints/search-1.txt";

/// The plan of the matches, and that of the search before them.
pub(crate) const PLAN: &str = "plan.json";
pub(crate) const SEARCH: &str = "search.json";

/// The brief as given; the resolved brief has every default, the summary the finding.
pub(crate) const BRIEF: &str = "brief.toml";
pub(crate) const RESOLVED: &str = "resolved.toml";
const SUMMARY: &str = "summary.json";

/// Stores a plan whole, with every default.
fn store(study: &Study, file: &str, plan: &impl Serialize) -> Result<(), Failure> {
    Ok(study.write(file, plan_text(plan)?.as_bytes())?)
}

/// A stored plan, as it was planned.
fn stored<P: DeserializeOwned>(study: &Study, manifest: &Manifest, file: &str) -> Result<P, Failure> {
    read_plan(&study.read_kept(manifest, file)?).map_err(|error| {
        let (file, brief) = (study.folder().join(file), study.folder().join(BRIEF).display().to_string());
        let again = hint::on_ledger(["run", &brief, "--name", "NAME"]);
        Failure::Failed(format!("{} cannot be read: {error}\n  help: {again} makes the study again", file.display()))
    })
}

/// Stores the plan of a study's matches, its first or that of a search's proof.
pub(crate) fn store_plan(study: &Study, plan: &StudyPlan) -> Result<(), Failure> {
    store(study, PLAN, plan)
}

/// A plan as it is stored.
pub(crate) fn plan_text(plan: &impl Serialize) -> Result<String, Failure> {
    write_plan(plan).map_err(|error| Failure::Failed(format!("the plan cannot be written: {error}")))
}

/// Stores the plan of a study's search.
pub(crate) fn store_search(study: &Study, search: &SearchPlan) -> Result<(), Failure> {
    store(study, SEARCH, search)
}

/// Reads the plan of a study's search.
pub(crate) fn stored_search(study: &Study, manifest: &Manifest) -> Result<SearchPlan, Failure> {
    stored(study, manifest, SEARCH)
}

/// Reads the plan of a study's matches: its first round or all of it.
pub(crate) fn stored_plan(study: &Study, manifest: &Manifest) -> Result<StudyPlan, Failure> {
    stored(study, manifest, PLAN)
}

/// Whether a study has a search.
pub(crate) fn has_search(study: &Study) -> bool {
    study.folder().join(SEARCH).exists()
}

/// Opens the manifest and the plan of a stored study. Errs during its search.
pub(crate) fn open(study: &Study, desk: &Desk) -> Result<(Manifest, StudyPlan), Failure> {
    let manifest = searched(study)?;
    let plan = stored_plan(study, &manifest)?;
    let game = desk.game(&plan.ground.game)?;
    let plan = drawn(study, &manifest, plan, game)?;
    Ok((manifest, plan))
}

/// Opens them with rounds drawn from undamaged rows.
pub(crate) fn open_as_far(study: &Study, desk: &Desk) -> Result<(Manifest, StudyPlan), Failure> {
    let manifest = searched(study)?;
    let plan = stored_plan(study, &manifest)?;
    let game = desk.game(&plan.ground.game)?;
    let plan = drawn_as_far(study, &manifest, plan, game)?;
    Ok((manifest, plan))
}

/// The rows of a match, one a seat; none where they are damaged or not there and nothing of them is needed to play it
/// again.
pub(crate) fn rows_of(
    study: &Study,
    manifest: &Manifest,
    plan: &StudyPlan,
    match_index: u64,
    desk: &Desk,
) -> Result<Vec<Row>, Failure> {
    let (block, measures) = (match_index / plan.matches_a_block(), desk.game(&plan.ground.game)?.measure_names());
    let part = study.parts(manifest).into_iter().find(|part| part.span.contains(&block));
    let Some(part) = part else { return Ok(Vec::new()) };
    let rows = match study.read_part(&part, manifest, &measures) {
        Ok(rows) => rows,
        Err(_) if !plan.is_recorded(&plan.cells[plan.spot(match_index).cell as usize]) => return Ok(Vec::new()),
        Err(error) => return Err(error.into()),
    };
    let found = rows.matches().find(|played| played.seats()[0].match_index == match_index);
    Ok(found.map(|played| played.seats().to_vec()).unwrap_or_default())
}

/// The manifest of a study that does not search, or not any more.
fn searched(study: &Study) -> Result<Manifest, Failure> {
    let manifest = study.manifest()?;
    if manifest.phase == Phase::Search {
        let resume = format!("{} continues it", hint::on_ledger(["resume", study.name()]));
        return Err(Failure::wrong(format!("the search of `{}` has not finished", study.name()), resume));
    }
    Ok(manifest)
}

/// Reads the summary of a stored study. Errs if it is not complete.
pub(crate) fn stored_summary(study: &Study, desk: &Desk) -> Result<StudySummary, Failure> {
    let manifest = searched(study)?;
    if manifest.state != State::Complete {
        let missing = manifest.blocks - manifest.blocks_done.min(manifest.blocks);
        return Err(LedgerError::Incomplete { study: study.name().into(), missing, total: manifest.blocks }.into());
    }
    if desk.registry.game(&manifest.game).is_none() {
        // The game of a file is known by its name once it is loaded.
        desk.game(&stored_plan(study, &manifest)?.ground.game)?;
    }
    let text = study.read_kept(&manifest, SUMMARY)?;
    serde_json::from_str(&text).map_err(|error| {
        let (file, resume) = (study.folder().join(SUMMARY), hint::on_ledger(["resume", study.name()]));
        Failure::Failed(format!("{} cannot be read: {error}\n  help: {resume} sums the study up again", file.display()))
    })
}

/// Sums up the blocks of an unfinished study before the first that is missing, with their number; none without stored
/// blocks.
pub(crate) fn partial_summary(study: &Study, desk: &Desk) -> Result<Option<(StudySummary, u64)>, Failure> {
    let (mut manifest, plan) = open(study, desk)?;
    let stored = study.missing(&manifest, manifest.blocks).first().map_or(manifest.blocks, |gap| gap.start);
    if stored == 0 {
        return Ok(None);
    }
    manifest.blocks = stored;
    let (summary, _) = summarise(study, &manifest, &plan, desk.game(&plan.ground.game)?)?;
    Ok(Some((summary, stored)))
}

pub(crate) fn machine(desk: &Desk) -> Machine {
    Machine { os: std::env::consts::OS.into(), arch: std::env::consts::ARCH.into(), threads: desk.threads }
}
