//! Studies that search: the search with its checkpoints, and the study of its proof.

use inkpot_core::GameEntry;
use inkpot_lab::{
    Made, Place, Problem, SearchPlan, Searching, Sitting, StudyPlan, StudySummary, Threads, search, search_job,
};
use inkpot_ledger::{LedgerError, Manifest, Naming, Phase, State, Study};

use crate::clock;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::hint;
use crate::kinds;
use crate::playing;
use crate::progress::SearchProgress;
use crate::saved::Keeper;
use crate::source::Source;
use crate::stored::{self, BRIEF, CHECKPOINT, HISTORY, PLAN, RESOLVED, SEARCH};
use crate::watch;

/// Makes a study that searches; `text` is its brief as given. Returns the study and its summary.
pub(crate) fn make(
    search: &SearchPlan,
    text: &str,
    name: Option<&str>,
    desk: &Desk,
) -> Result<(Study, StudySummary), Failure> {
    let (kind, ground) = (search.kind().name(), search.as_search().ground());
    let numbered = format!("{kind}-{}", ground.game);
    // From the first file on an interrupt leaves a sound study, and says how to go on.
    Desk::halt_on_interrupt();
    let begun = desk.ledger.begin(name.map_or(Naming::Numbered(&numbered), Naming::Named))?;
    begun.study().write(BRIEF, text.as_bytes())?;
    begun.study().write(RESOLVED, kinds::searches(search).write().as_bytes())?;
    for (file, text) in kinds::searches(search).files() {
        begun.study().write(file, text.as_bytes())?;
    }
    stored::store_search(begun.study(), search)?;
    let blocks = search.as_search().proof_blocks();
    let mut manifest = Manifest::begin(kind, ground.game.name(), ground.seed, blocks, stored::machine(desk));
    manifest.phase = Phase::Search;
    let (study, mut manifest, lock) = begun.settle(manifest)?;
    let made = go_on(&study, &mut manifest, search, desk);
    if matches!(made, Err(Failure::Wrong(_))) && !has_learned(&study, search, desk)? {
        // What was asked makes no sense with the first that was seen: there is nothing to go on from.
        drop(lock);
        desk.ledger.remove(study.name())?;
    }
    Ok((study, made?))
}

/// Whether more than the beginning of a search is saved.
fn has_learned(study: &Study, search: &SearchPlan, desk: &Desk) -> Result<bool, Failure> {
    let saved = study.read_sealed(CHECKPOINT, SEARCH)?;
    let fresh = search.as_search().begin(desk.game(&search.as_search().ground().game)?, None);
    Ok(saved.is_some_and(|saved| fresh.is_ok_and(|fresh| fresh.checkpoint() != saved)))
}

/// Builds a search at its beginning, or from its checkpoint. A damaged checkpoint is set aside: a new search comes to
/// the same end.
fn begun<'a>(
    study: &Study,
    search: &'a SearchPlan,
    game: &'a dyn GameEntry,
    desk: &Desk,
) -> Result<Box<dyn Searching + 'a>, Failure> {
    let damaged = match study.read_sealed(CHECKPOINT, SEARCH) {
        Ok(None) => None,
        Ok(Some(text)) => match search.as_search().begin(game, Some(&text)) {
            Ok(begun) => return Ok(begun),
            Err(error) => Some(error.to_string()),
        },
        Err(LedgerError::Changed { why, .. }) => Some(why),
        Err(other) => return Err(other.into()),
    };
    if let Some(why) = damaged {
        desk.say(format!(
            "warning: {CHECKPOINT} cannot be used and has been set aside ({why}); the search starts again"
        ));
        study.set_aside(CHECKPOINT)?;
    }
    search.as_search().begin(game, None).map_err(|error| Failure::Failed(error.to_string()))
}

/// Continues a search, and proves its result.
pub(crate) fn go_on(
    study: &Study,
    manifest: &mut Manifest,
    sought: &SearchPlan,
    desk: &Desk,
) -> Result<StudySummary, Failure> {
    let game = desk.game(&sought.as_search().ground().game)?;
    let mut searching = begun(study, sought, game, desk)?;
    let searching = searching.as_mut();
    let halt = Desk::halt_on_interrupt();
    let job = search_job(sought, game, halt).map_err(|error| Failure::Failed(error.to_string()))?;
    let threads = Threads(desk.threads);
    let (mut keeper, mut results) = Keeper::new(study, searching);
    let ended: Sitting = if desk.watch {
        let title = format!("{} {}", sought.kind().name(), study.name());
        watch::watched(&title, game, halt, desk.color, |watching| -> Result<Sitting, Failure> {
            let ended = search(searching, &job, &threads, halt, &mut results, |searching, results| {
                watching.hear(searching);
                keeper.hear(searching, results, watching.is_paused())?;
                keeper.leave_out(watching.wait(halt));
                Ok::<(), Failure>(())
            })?;
            keeper.save(searching, &results)?;
            Ok(ended)
        })??
    } else {
        let mut progress = SearchProgress::new(desk);
        let ended = search(searching, &job, &threads, halt, &mut results, |searching, results| {
            if results.is_empty() {
                progress.hear(&searching.round());
            }
            keeper.hear(searching, results, false)
        });
        progress.finish();
        let ended = ended?;
        keeper.save(searching, &results)?;
        ended
    };
    if ended == Sitting::Interrupted {
        manifest.state = State::Interrupted;
        study.write_manifest(manifest)?;
        let resume = format!("{} continues the study", hint::on_ledger(["resume", study.name()]));
        return Err(Failure::Interrupted(format!("interrupted: what the search has played is saved; {resume}")));
    }
    keeper.finish()?;
    let plan = proving(study, manifest, sought, &searching.checkpoint(), desk)?;
    playing::store_plan(study, &plan)?;
    study.write_kept(manifest, PLAN, stored::plan_text(&plan)?.as_bytes())?;
    study.write_kept(manifest, HISTORY, searching.history().as_bytes())?;
    // Nothing writes these any more, and figures are drawn from them.
    study.keep(manifest, CHECKPOINT)?;
    study.keep(manifest, clock::TIMES)?;
    manifest.phase = Phase::Play;
    // A search says beforehand how much there is to prove at most.
    manifest.blocks = plan.total_blocks();
    study.write_manifest(manifest)?;
    playing::go_on(study, manifest, &plan, desk)
}

/// Returns the plan of the proof for the finished search of this checkpoint.
fn proving(
    study: &Study,
    manifest: &Manifest,
    search: &SearchPlan,
    checkpoint: &str,
    desk: &Desk,
) -> Result<StudyPlan, Failure> {
    let brief = study.read_kept(manifest, BRIEF)?;
    let made = Made { study: study.name(), brief: &brief };
    StudyPlan::of_found(search, checkpoint, &made, &desk.registry).map_err(|problems| unproved(search, &problems, desk))
}

/// Rebuilds the plan of a searched study from its search; none if its checkpoint has changed.
pub(crate) fn proved_again(study: &Study, manifest: &Manifest, desk: &Desk) -> Result<Option<StudyPlan>, Failure> {
    let search = stored::stored_search(study, manifest)?;
    let Some(checkpoint) = study.read_sealed(CHECKPOINT, SEARCH)? else { return Ok(None) };
    proving(study, manifest, &search, &checkpoint, desk).map(Some)
}

/// Rebuilds the history of a finished search from its end; none if its checkpoint has changed.
pub(crate) fn history_again(study: &Study, manifest: &Manifest, desk: &Desk) -> Result<Option<String>, Failure> {
    let search = stored::stored_search(study, manifest)?;
    let Some(checkpoint) = study.read_sealed(CHECKPOINT, SEARCH)? else { return Ok(None) };
    let begun = search.as_search().begin(desk.game(&search.as_search().ground().game)?, Some(&checkpoint));
    Ok(begun.ok().map(|searching| searching.history()))
}

/// The share of its budget that an unfinished search has spent; none where its checkpoint cannot be read.
pub(crate) fn progress(study: &Study, manifest: &Manifest, desk: &Desk) -> Option<f64> {
    let search = stored::stored_search(study, manifest).ok()?;
    let checkpoint = study.read_sealed(CHECKPOINT, SEARCH).ok()??;
    let game = desk.game(&search.as_search().ground().game).ok()?;
    let round = search.as_search().begin(game, Some(&checkpoint)).ok()?.round();
    Some(round.spent as f64 / round.most.max(1) as f64)
}

fn unproved(search: &SearchPlan, problems: &[Problem], desk: &Desk) -> Failure {
    let what = format!("what the {} found", search.kind().name());
    Source::Arguments([(Place::default(), what)].into()).report(problems, desk.color_err)
}
