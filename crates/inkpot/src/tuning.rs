//! Making a tuning: the search, its history, the sheet, and the proof as a study.

use std::path::Path;

use inkpot_core::GameEntry;
use inkpot_lab::{Plan, Searching, Sheet, Sitting, Summary, Tune, TuneSearch, found, search};
use inkpot_ledger::{Manifest, Phase, State, Study};

use crate::brief;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::level;
use crate::playing;
use crate::progress::SearchProgress;
use crate::source::Source;
use crate::stored::{self, CHECKPOINT, HISTORY};

/// Makes a study of a tuning; `text` is its brief as given. Gives the study and what was proved.
pub(crate) fn make(tune: &Tune, text: &str, name: Option<&str>, desk: &Desk) -> Result<(Study, Summary), Failure> {
    let study = stored::create(name, "tune", &tune.ground.game, desk)?;
    let _lock = study.lock()?;
    study.write("brief.toml", text.as_bytes())?;
    study.write("resolved.toml", brief::write_tune(tune).as_bytes())?;
    stored::store_search(&study, tune)?;
    let players: u64 = tune.rungs.iter().map(|rung| rung.players.len() as u64).sum();
    let blocks = tune.proof.div_ceil(tune.ground.series.unwrap_or(2)) * players;
    let mut manifest =
        Manifest::begin(&study, "tune", &tune.ground.game, tune.ground.seed, blocks, stored::machine(desk));
    manifest.phase = Phase::Search;
    study.write_manifest(&manifest)?;
    let summary = go_on(&study, &mut manifest, tune, desk)?;
    Ok((study, summary))
}

/// Makes a study that measures a sheet again; a level file that it names is looked up from `base`.
pub(crate) fn measure_again(
    sheet: &Sheet,
    base: &Path,
    name: Option<&str>,
    desk: &Desk,
) -> Result<(Study, Summary), Failure> {
    let plan = proving(sheet, base, desk)?;
    let study = stored::create(name, "verify", &sheet.game, desk)?;
    let _lock = study.lock()?;
    study.write("brief.toml", sheet.proof.brief.as_bytes())?;
    stored::store_plan(&study, &plan)?;
    let blocks = plan.total_blocks();
    let mut manifest =
        Manifest::begin(&study, "tune", &plan.ground.game, plan.ground.seed, blocks, stored::machine(desk));
    study.write_manifest(&manifest)?;
    stored::write_sheet(&study, sheet)?;
    let summary = playing::go_on(&study, &mut manifest, &plan, desk)?;
    Ok((study, summary))
}

fn proving(sheet: &Sheet, base: &Path, desk: &Desk) -> Result<Plan, Failure> {
    let level = level::typed(&sheet.level, &sheet.game, base, desk)?;
    Plan::proving(sheet, level, &desk.registry).map_err(|problems| wrong(&problems, desk))
}

/// A search at its beginning, or where its checkpoint left it.
fn begun<'a>(study: &Study, tune: &'a Tune, game: &'a dyn GameEntry) -> Result<TuneSearch<'a>, Failure> {
    let path = study.folder().join(CHECKPOINT);
    if !path.exists() {
        return Ok(TuneSearch::new(tune, game, Vec::new()));
    }
    TuneSearch::restored(tune, game, &study.read_text(CHECKPOINT)?)
        .map_err(|error| Failure::Failed(format!("{}: {error}; remove the file to search anew", path.display())))
}

/// Goes on with a search where it stopped, and proves what it found.
pub(crate) fn go_on(study: &Study, manifest: &mut Manifest, tune: &Tune, desk: &Desk) -> Result<Summary, Failure> {
    let game = desk.game(&tune.ground.game)?;
    let mut searches = [begun(study, tune, game)?];
    let mut progress = SearchProgress::new(desk);
    let ended = search(&mut searches, game, desk.threads, Desk::stop_on_interrupt(), |searches| {
        progress.hear(&searches[0].round());
        study.write(HISTORY, searches[0].history().as_bytes())?;
        study.write(CHECKPOINT, &searches[0].checkpoint())
    });
    progress.finish();
    if ended? == Sitting::Interrupted {
        manifest.state = State::Interrupted;
        study.write_manifest(manifest)?;
        let resume = format!("`inkpot {}resume {}` goes on", stored::ledger_option(desk), study.name());
        return Err(Failure::Interrupted(format!(
            "interrupted: every finished round of the search is saved; {resume}"
        )));
    }
    let [searched] = &searches;
    let text = study.read_text("brief.toml")?;
    let sheet = Sheet::of(tune, &found(tune, searched.played()), study.name(), &text, game);
    stored::write_sheet(study, &sheet)?;
    let level = tune.ground.level.clone();
    let plan = Plan::proving(&sheet, level, &desk.registry).map_err(|problems| wrong(&problems, desk))?;
    stored::store_plan(study, &plan)?;
    manifest.phase = Phase::Play;
    study.write_manifest(manifest)?;
    playing::go_on(study, manifest, &plan, desk)
}

fn wrong(problems: &[inkpot_lab::Problem], desk: &Desk) -> Failure {
    Source::Arguments([(String::new(), "the difficulty sheet".to_string())].into()).report(problems, desk.color_err)
}
