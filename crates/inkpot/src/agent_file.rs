//! Agent files: an agent kept under a name, for many studies.

use std::cell::RefCell;
use std::path::{Path, PathBuf};

use inkpot_lab::{EntrantDraft, Place};

use crate::brief::{Findings, Reader};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::input;
use crate::source::{Source, toml_of};

/// Whether an agent is given as a file, or a pattern of files.
pub(crate) fn is_file(agent: &str) -> bool {
    Path::new(agent).extension().is_some_and(|ending| ending == "toml") || agent.contains(['/', '*', '?', '['])
}

/// The agents of all files that a pattern names, in order of path; a relative one is looked up from `base`.
pub(crate) fn load_all(base: &Path, pattern: &str, desk: &Desk) -> Result<Vec<EntrantDraft>, Failure> {
    // A pattern is what was typed, not what the folder happens to be called.
    let from = Path::new(&glob::Pattern::escape(&base.to_string_lossy())).join(pattern);
    let wrong = |what: String| Failure::wrong(what, "as in champion.toml or 'agents/*.toml'");
    let paths = glob::glob(&from.to_string_lossy())
        .map_err(|error| wrong(format!("`{pattern}` is not a valid pattern of file names: {}", error.msg)))?;
    let mut paths: Vec<PathBuf> = paths.filter_map(Result::ok).filter(|path| path.is_file()).collect();
    paths.sort();
    if paths.is_empty() {
        return Err(wrong(format!("there is no agent file at `{}`", base.join(pattern).display())));
    }
    paths.iter().map(|path| load(path, desk)).collect()
}

/// The agent of one file, named after the file unless it says otherwise.
fn load(path: &Path, desk: &Desk) -> Result<EntrantDraft, Failure> {
    let text = input::text(path)?;
    let shown = path.display().to_string();
    let help = "an agent file has a line like `agent = \"fencer\"`, and `knobs = { skill = 0.6 }`";
    let table = toml_of(&text, &shown, help, desk.color_err)?;
    let findings = RefCell::new(Findings::at(path.parent().unwrap_or(Path::new(""))));
    let mut reader = Reader::new(table.get_ref(), Place::default(), &findings);
    let stem = path.file_stem().map(|stem| stem.to_string_lossy().into_owned());
    let draft = EntrantDraft {
        name: reader.text("name").or(stem),
        agent: reader.needed_text("agent", "`agent = \"fencer\"`").unwrap_or_default(),
        knobs: reader.knobs("knobs"),
        vary: Vec::new(),
    };
    reader.finish();
    let mut findings = findings.into_inner();
    let places = std::mem::take(&mut findings.places);
    let problems = findings.with(Vec::new());
    if problems.is_empty() {
        return Ok(draft);
    }
    Err(Source::Brief { path: shown, text: text.clone(), places }.report(&problems, desk.color_err))
}
