//! Studies as they are stored: their folders, plans, searches, sheets and summaries.

use inkpot_lab::{Plan, Sought, Summary, drawn, read_plan, write_plan};
use inkpot_ledger::{LedgerError, Machine, Manifest, Phase, Study};
use serde::Serialize;
use serde::de::DeserializeOwned;

use crate::desk::Desk;
use crate::failure::Failure;

/// Where a study keeps the history of its search, for people and figures.
pub(crate) const HISTORY: &str = "history.csv";
/// Where a study keeps the state of its search, which resuming reads.
pub(crate) const CHECKPOINT: &str = "checkpoints/search-1.txt";

/// Where a study keeps what it plays, and what it searches with before.
const PLAN: &str = "plan.json";
const SEARCH: &str = "search.json";

/// Stores a plan whole, with every default.
fn store(study: &Study, file: &str, plan: &impl Serialize) -> Result<(), Failure> {
    let text = write_plan(plan).map_err(|error| Failure::Failed(format!("the plan cannot be written: {error}")))?;
    Ok(study.write(file, text.as_bytes())?)
}

/// A stored plan, as it was planned.
fn stored<P: DeserializeOwned>(study: &Study, file: &str) -> Result<P, Failure> {
    read_plan(&study.read_text(file)?).map_err(|error| {
        Failure::Failed(format!(
            "{} cannot be read: {error}\n  help: `inkpot run {}` makes the study again",
            study.folder().join(file).display(),
            study.folder().join("brief.toml").display()
        ))
    })
}

/// Stores what is played of a study, its first plan or what a search found.
pub(crate) fn store_plan(study: &Study, plan: &Plan) -> Result<(), Failure> {
    store(study, PLAN, plan)
}

/// Stores what a study searches with.
pub(crate) fn store_search(study: &Study, sought: &Sought) -> Result<(), Failure> {
    store(study, SEARCH, sought)
}

/// What a study searches, or searched, with.
pub(crate) fn stored_search(study: &Study) -> Result<Sought, Failure> {
    stored(study, SEARCH)
}

/// Whether a study searched for what it plays.
pub(crate) fn has_search(study: &Study) -> bool {
    study.folder().join(SEARCH).exists()
}

/// The folder of a new study, numbered after its kind and game where it has no name.
pub(crate) fn create(name: Option<&str>, kind: &str, game: &str, desk: &Desk) -> Result<Study, Failure> {
    Ok(match name {
        Some(name) => desk.ledger.create(name)?,
        None => desk.ledger.create_numbered(&format!("{kind}-{game}"))?,
    })
}

/// The manifest and the plan of a stored study. Errs while what is played is still searched for.
pub(crate) fn open(study: &Study, desk: &Desk) -> Result<(Manifest, Plan), Failure> {
    let manifest = searched(study, desk)?;
    let plan = stored(study, PLAN)?;
    let plan = drawn(study, &manifest, plan, desk.game(&manifest.game)?)?;
    Ok((manifest, plan))
}

/// The manifest of a study that does not search, or not any more.
fn searched(study: &Study, desk: &Desk) -> Result<Manifest, Failure> {
    let manifest = study.manifest()?;
    if manifest.phase == Phase::Search {
        let resume = format!("`inkpot {}resume {}` goes on with it", ledger_option(desk), study.name());
        return Err(Failure::wrong(format!("the search of `{}` has not finished", study.name()), resume));
    }
    Ok(manifest)
}

/// What a stored study found. Errs when it is not complete.
pub(crate) fn stored_summary(study: &Study, desk: &Desk) -> Result<Summary, Failure> {
    let manifest = searched(study, desk)?;
    if manifest.blocks_done < manifest.blocks || !study.folder().join("summary.json").exists() {
        let missing = manifest.blocks - manifest.blocks_done.min(manifest.blocks);
        return Err(LedgerError::Incomplete { study: study.name().into(), missing, total: manifest.blocks }.into());
    }
    let text = study.read_text("summary.json")?;
    serde_json::from_str(&text).map_err(|error| {
        Failure::Failed(format!(
            "{} cannot be read ({error}); `inkpot {}resume {}` sums the study up anew",
            study.folder().join("summary.json").display(),
            ledger_option(desk),
            study.name()
        ))
    })
}

pub(crate) fn machine(desk: &Desk) -> Machine {
    Machine { os: std::env::consts::OS.into(), arch: std::env::consts::ARCH.into(), threads: desk.threads }
}

/// The option that names the ledger, where it is not the default one.
pub(crate) fn ledger_option(desk: &Desk) -> String {
    let folder = desk.ledger.folder();
    if folder == std::path::Path::new("ledger") { String::new() } else { format!("--ledger {} ", folder.display()) }
}
