//! Making a tuning: the search, its history, the sheet, and the proof as a study.

use std::path::PathBuf;

use inkpot_lab::{Plan, Sheet, Summary, Tune, found, read_history, search, write_history};
use inkpot_ledger::{Manifest, State, Study};

use crate::brief;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::progress::SearchProgress;
use crate::source::Source;
use crate::study;

/// Where a study keeps the history of its search, and its sheet in both formats.
pub(crate) const HISTORY: &str = "history.csv";
pub(crate) const SHEETS: [&str; 2] = ["sheet.json", "sheet.toml"];

/// Makes a study of a tuning; `text` is its brief as given. Gives the study and what was proved.
pub(crate) fn make(tune: &Tune, text: &str, name: Option<&str>, desk: &Desk) -> Result<(Study, Summary), Failure> {
    let study = study::create(name, "tune", &tune.game, desk)?;
    let _lock = study.lock()?;
    study.write("brief.toml", text.as_bytes())?;
    study.write("resolved.toml", brief::write_tune(tune).as_bytes())?;
    let players: u64 = tune.rungs.iter().map(|rung| rung.players.len() as u64).sum();
    let blocks = tune.proof.div_ceil(tune.series.unwrap_or(2)) * players;
    let mut manifest = Manifest::begin(&study, "tune", &tune.game, tune.seed, blocks, study::machine(desk));
    study.write_manifest(&manifest)?;
    let summary = go_on(&study, &mut manifest, tune, desk)?;
    Ok((study, summary))
}

/// Makes a study that measures a sheet again.
pub(crate) fn measure_again(sheet: &Sheet, name: Option<&str>, desk: &Desk) -> Result<(Study, Summary), Failure> {
    let plan = Plan::proving(sheet, &desk.registry).map_err(|problems| wrong(&problems, desk))?;
    let study = study::create(name, "verify", &sheet.game, desk)?;
    let _lock = study.lock()?;
    study.write("brief.toml", sheet.proof.brief.as_bytes())?;
    let blocks = plan.total_blocks();
    let mut manifest = Manifest::begin(&study, "tune", &plan.game, plan.seed, blocks, study::machine(desk));
    study.write_manifest(&manifest)?;
    write_sheet(&study, sheet)?;
    let summary = study::go_on(&study, &mut manifest, &plan, desk)?;
    Ok((study, summary))
}

/// Goes on with a tuning where it stopped.
pub(crate) fn resume(study: &Study, manifest: &mut Manifest, desk: &Desk) -> Result<Summary, Failure> {
    if study.folder().join(SHEETS[0]).exists() {
        let plan = proof_of(study, desk)?;
        return study::go_on(study, manifest, &plan, desk);
    }
    let text = study.read_text("resolved.toml")?;
    let tune = brief::read_tune(&text, &format!("{}/resolved.toml", study.name()), desk)?;
    go_on(study, manifest, &tune, desk)
}

/// The plan of a tuning's proof. Errs while the search is not finished.
pub(crate) fn proof_of(study: &Study, desk: &Desk) -> Result<Plan, Failure> {
    if !study.folder().join(SHEETS[0]).exists() {
        let resume = format!("`inkpot {}resume {}` goes on with it", study::ledger_option(desk), study.name());
        return Err(Failure::wrong(format!("the search of `{}` has not finished", study.name()), resume));
    }
    let sheet: Sheet = serde_json::from_str(&study.read_text(SHEETS[0])?).map_err(|error| {
        Failure::Failed(format!("{} cannot be read: {error}", study.folder().join(SHEETS[0]).display()))
    })?;
    Plan::proving(&sheet, &desk.registry).map_err(|problems| wrong(&problems, desk))
}

fn go_on(study: &Study, manifest: &mut Manifest, tune: &Tune, desk: &Desk) -> Result<Summary, Failure> {
    let game = desk.game(&tune.game)?;
    let before = if study.folder().join(HISTORY).exists() {
        read_history(tune, &study.read_text(HISTORY)?).map_err(|error| {
            let path = study.folder().join(HISTORY);
            Failure::Failed(format!("{}: {error}; remove the file to search anew", path.display()))
        })?
    } else {
        Vec::new()
    };
    let mut progress = SearchProgress::new(desk);
    let ended = search(tune, game, desk.threads, Desk::stop_on_interrupt(), before, |history, round| {
        progress.hear(round);
        study.write(HISTORY, write_history(tune, history).as_bytes())
    });
    progress.finish();
    let Some(history) = ended? else {
        manifest.state = State::Interrupted;
        study.write_manifest(manifest)?;
        let resume = format!("`inkpot {}resume {}` goes on", study::ledger_option(desk), study.name());
        return Err(Failure::Interrupted(format!(
            "interrupted: every finished round of the search is saved; {resume}"
        )));
    };
    let text = study.read_text("brief.toml")?;
    write_sheet(study, &Sheet::of(tune, &found(tune, &history), study.name(), &text, game))?;
    let plan = proof_of(study, desk)?;
    study::go_on(study, manifest, &plan, desk)
}

/// Writes a sheet into its study, in both formats; gives the paths.
pub(crate) fn write_sheet(study: &Study, sheet: &Sheet) -> Result<Vec<PathBuf>, Failure> {
    let failed = |error: &dyn std::fmt::Display| Failure::Failed(format!("the sheet cannot be written: {error}"));
    let json = serde_json::to_string_pretty(sheet).map_err(|error| failed(&error))? + "\n";
    let toml = toml::to_string(sheet).map_err(|error| failed(&error))?;
    for (name, text) in SHEETS.iter().zip([json, toml]) {
        study.write(name, text.as_bytes())?;
    }
    Ok(SHEETS.iter().map(|name| study.folder().join(name)).collect())
}

fn wrong(problems: &[inkpot_lab::Problem], desk: &Desk) -> Failure {
    Source::Arguments([(String::new(), "the difficulty sheet".to_string())].into()).report(problems, desk.color_err)
}
