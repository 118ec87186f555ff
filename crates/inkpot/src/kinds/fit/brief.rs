//! The brief of a fit, read and written.

use std::fmt::Write;
use std::path::{Path, PathBuf};

use inkpot_lab::{EntrantDraft, Fit, FitDraft, Place, SearchPlan, resolve_fit};
use toml::Value;

use super::log;
use crate::brief::{Reader, agent, entrant, inline_knobs, knobs};
use crate::failure::Failure;
use crate::kinds::kind::{Brief, Checkable};
use crate::kinds::tune::{free_draft, free_table};
use crate::level;

/// The study's copy of its log.
pub(super) const LOG: &str = "log.csv";

/// Reads the brief of a fit, and its log.
pub(crate) fn read(brief: &Brief) -> Result<Checkable<SearchPlan>, Failure> {
    let mut top = Reader::new(brief.table, Place::default(), brief.findings);
    let _kind = top.text("kind");
    let game = brief.game(&mut top, "`game = \"piste\"`")?;
    let level = top.text("level").map(|text| level::typed(&text, &game, brief.base, brief.desk)).transpose()?;
    let standin = top.table("standin").map(entrant);
    if standin.is_none() {
        top.problem("", "the table `standin` is missing", "add [standin] with `agent = \"standin\"`");
    }
    let opponents: Vec<EntrantDraft> = top.tables("opponent").into_iter().map(entrant).collect();
    let log_file = log_path(&mut top, brief);
    let draft = FitDraft {
        game,
        level,
        seed: top.count("seed"),
        confidence: top.number("confidence"),
        rules: top.knobs("rules"),
        standin: standin.unwrap_or_default(),
        free: top.tables("free").into_iter().map(free_draft).collect(),
        log: log_file.as_ref().map(|path| log::read(path, &opponents, brief.desk)).transpose()?,
        opponents,
        proof: top.count("proof"),
    };
    let readable = !draft.game.name().is_empty() && !draft.standin.agent.is_empty();
    top.finish();
    let Some(path) = log_file.filter(|_| readable) else { return Ok(Err(Vec::new())) };
    let fit = resolve_fit(&draft, &brief.desk.registry).map(|fit| SearchPlan::Fit(Box::new(fit)));
    Ok(fit.map_err(|mut problems| {
        for problem in problems.iter_mut().filter(|problem| problem.at == "log".into()) {
            problem.what = format!("{}: {}", path.display(), problem.what);
        }
        problems
    }))
}

/// The log that is given beside the brief, or that it names.
fn log_path(top: &mut Reader, brief: &Brief) -> Option<PathBuf> {
    let named = top.text("log").map(|name| brief.base.join(name));
    let path = brief.log.map(Path::to_path_buf).or(named);
    if path.is_none() {
        top.problem(
            "",
            "the key `log` is missing",
            "add a line like `log = \"people.csv\"`, or give --fit-standin LOG.csv or STUDY",
        );
    }
    path
}

/// The brief of a fit with every default filled in. Read beside the log that the study keeps, it gives the same fit.
pub(super) fn write(fit: &Fit) -> String {
    let text = |text: &str| Value::from(text).to_string();
    let mut out = format!(
        "kind = \"fit\"\ngame = {}\nlevel = {}\nconfidence = {}\nseed = {}\nlog = {}\nproof = {}\n\n[rules]\n{}\n[standin]\n{}",
        text(&fit.ground.game.typed()),
        text(&fit.ground.level.to_string()),
        Value::from(fit.ground.confidence),
        fit.ground.seed,
        text(LOG),
        fit.proof,
        knobs(&fit.ground.rules),
        agent(&fit.standin),
    );
    for free in &fit.free {
        out.push_str(&free_table(free));
    }
    for draft in &fit.opponents {
        let name = text(&draft.name);
        let _ = write!(
            out,
            "\n[[opponent]]\nname = {name}\nagent = {}\nknobs = {}\n",
            text(&draft.agent),
            inline_knobs(&draft.given)
        );
    }
    out
}
