//! Making a study: what `batch`, `sweep`, `run`, `resume` and `demo` share.

use inkpot_lab::{Event, Plan, Runner, Sitting, StudyKind, Summary, drawn, summarise};
use inkpot_ledger::{LedgerError, Machine, Manifest, Study};

use crate::brief;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::progress::Progress;
use crate::show;
use crate::tuning;

/// Makes a study of a plan; `text` is its brief as given. Gives the study and what it found.
pub(crate) fn make(plan: &Plan, text: &str, name: Option<&str>, desk: &Desk) -> Result<(Study, Summary), Failure> {
    let study = create(name, plan.kind.name(), &plan.game, desk)?;
    let _lock = study.lock()?;
    let game = desk.game(&plan.game)?;
    study.write("brief.toml", text.as_bytes())?;
    study.write("resolved.toml", brief::write(plan, game).as_bytes())?;
    let blocks = plan.total_blocks();
    let mut manifest = Manifest::begin(&study, plan.kind.name(), &plan.game, plan.seed, blocks, machine(desk));
    study.write_manifest(&manifest)?;
    let summary = go_on(&study, &mut manifest, plan, desk)?;
    Ok((study, summary))
}

/// The folder of a new study, numbered after its kind and game where it has no name.
pub(crate) fn create(name: Option<&str>, kind: &str, game: &str, desk: &Desk) -> Result<Study, Failure> {
    Ok(match name {
        Some(name) => desk.ledger.create(name)?,
        None => desk.ledger.create_numbered(&format!("{kind}-{game}"))?,
    })
}

/// Goes on with a study where it stopped.
pub(crate) fn resume(study: &Study, desk: &Desk) -> Result<Summary, Failure> {
    let _lock = study.lock()?;
    let mut manifest = study.manifest()?;
    manifest.machine = machine(desk);
    if manifest.kind == StudyKind::Tune.name() {
        return tuning::resume(study, &mut manifest, desk);
    }
    let (_, plan) = open(study, desk)?;
    go_on(study, &mut manifest, &plan, desk)
}

/// The manifest and the plan of a stored study.
pub(crate) fn open(study: &Study, desk: &Desk) -> Result<(Manifest, Plan), Failure> {
    let manifest = study.manifest()?;
    if manifest.kind == StudyKind::Tune.name() {
        return Ok((manifest, tuning::proof_of(study, desk)?));
    }
    let text = study.read_text("resolved.toml")?;
    let plan = brief::read(&text, &format!("{}/resolved.toml", study.name()), desk)?;
    let plan = drawn(study, &manifest, plan, desk.game(&manifest.game)?)?;
    Ok((manifest, plan))
}

/// What a stored study found. Errs when it is not complete.
pub(crate) fn stored_summary(study: &Study) -> Result<Summary, Failure> {
    let manifest = study.manifest()?;
    if manifest.blocks_done < manifest.blocks || !study.folder().join("summary.json").exists() {
        let missing = manifest.blocks - manifest.blocks_done.min(manifest.blocks);
        return Err(LedgerError::Incomplete { study: study.name().into(), missing, total: manifest.blocks }.into());
    }
    let text = study.read_text("summary.json")?;
    serde_json::from_str(&text).map_err(|error| {
        Failure::Failed(format!(
            "{} cannot be read ({error}); `inkpot resume {}` sums the study up anew",
            study.folder().join("summary.json").display(),
            study.name()
        ))
    })
}

/// Prints what a study found: its summary as JSON, or tables.
pub(crate) fn print(study: &Study, summary: &Summary, desk: &Desk) -> Result<(), Failure> {
    let (manifest, plan) = open(study, desk)?;
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
    summary.comparison.as_ref().map_or(Ok(()), show::comparison::requirement)?;
    summary.tune.as_ref().map_or(Ok(()), show::tune::requirement)
}

pub(crate) fn machine(desk: &Desk) -> Machine {
    Machine { os: std::env::consts::OS.into(), arch: std::env::consts::ARCH.into(), threads: desk.threads }
}

/// Plays what is missing of a plan into its study, and sums it up.
pub(crate) fn go_on(study: &Study, manifest: &mut Manifest, plan: &Plan, desk: &Desk) -> Result<Summary, Failure> {
    let game = desk.game(&plan.game)?;
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
    if let (Some(proof), Some(told)) = (&plan.proof, &summary.tune) {
        tuning::write_sheet(study, &told.proved(proof))?;
    }
    let text = serde_json::to_string_pretty(&summary).map_err(|error| Failure::Failed(error.to_string()))? + "\n";
    study.complete(manifest, &text)?;
    Ok(summary)
}

/// The option that names the ledger, where it is not the default one.
pub(crate) fn ledger_option(desk: &Desk) -> String {
    let folder = desk.ledger.folder();
    if folder == std::path::Path::new("ledger") { String::new() } else { format!("--ledger {} ", folder.display()) }
}
