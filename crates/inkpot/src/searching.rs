//! Making a study that searches: the search with its checkpoints, and what it found as a study that proves it.

use inkpot_core::GameEntry;
use inkpot_lab::{Made, Place, Problem, Searching, Sitting, Sought, Summary, search};
use inkpot_ledger::{Manifest, Phase, State, Study};

use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds;
use crate::playing;
use crate::progress::SearchProgress;
use crate::source::Source;
use crate::stored::{self, CHECKPOINT, HISTORY};

/// Makes a study that searches; `text` is its brief as given. Gives the study and what was proved.
pub(crate) fn make(sought: &Sought, text: &str, name: Option<&str>, desk: &Desk) -> Result<(Study, Summary), Failure> {
    let (kind, ground) = (sought.kind().name(), sought.own().ground());
    let study = stored::create(name, kind, &ground.game, desk)?;
    let _lock = study.lock()?;
    study.write("brief.toml", text.as_bytes())?;
    study.write("resolved.toml", kinds::searches(sought).write().as_bytes())?;
    for (file, text) in kinds::searches(sought).files() {
        study.write(file, text.as_bytes())?;
    }
    stored::store_search(&study, sought)?;
    let blocks = sought.own().proof_blocks();
    let mut manifest = Manifest::begin(&study, kind, &ground.game, ground.seed, blocks, stored::machine(desk));
    manifest.phase = Phase::Search;
    study.write_manifest(&manifest)?;
    let summary = go_on(&study, &mut manifest, sought, desk)?;
    Ok((study, summary))
}

/// A search at its beginning, or where its checkpoint left it.
fn begun<'a>(study: &Study, sought: &'a Sought, game: &'a dyn GameEntry) -> Result<Box<dyn Searching + 'a>, Failure> {
    let path = study.folder().join(CHECKPOINT);
    let checkpoint = path.exists().then(|| study.read_text(CHECKPOINT)).transpose()?;
    sought
        .own()
        .begin(game, checkpoint.as_deref())
        .map_err(|error| Failure::Failed(format!("{}: {error}; remove the file to search anew", path.display())))
}

/// Goes on with a search where it stopped, and proves what it found.
pub(crate) fn go_on(study: &Study, manifest: &mut Manifest, sought: &Sought, desk: &Desk) -> Result<Summary, Failure> {
    let game = desk.game(&sought.own().ground().game)?;
    let mut searches = [begun(study, sought, game)?];
    let mut progress = SearchProgress::new(desk);
    let ended = search(&mut searches, game, desk.threads, Desk::stop_on_interrupt(), |searches| {
        progress.hear(&searches[0].round());
        study.write(HISTORY, searches[0].history().as_bytes())?;
        study.write(CHECKPOINT, searches[0].checkpoint().as_bytes())
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
    let brief = study.read_text("brief.toml")?;
    let made = Made { study: study.name(), brief: &brief };
    let plan = sought
        .own()
        .prove(&searches[0].checkpoint(), &made, &desk.registry)
        .map_err(|problems| unproved(sought, &problems, desk))?;
    playing::store_plan(study, &plan)?;
    manifest.phase = Phase::Play;
    study.write_manifest(manifest)?;
    playing::go_on(study, manifest, &plan, desk)
}

fn unproved(sought: &Sought, problems: &[Problem], desk: &Desk) -> Failure {
    let what = format!("what the {} found", sought.kind().name());
    Source::Arguments([(Place::default(), what)].into()).report(problems, desk.color_err)
}
