//! Failures of a verb, with their exit codes.

use std::io::{self, ErrorKind};
use std::path::Path;

use inkpot_lab::{Fell, SearchError};
use inkpot_ledger::{Ledger, LedgerError, State, plainly};

use crate::{hint, outlet};

/// The failure of a verb.
#[derive(Debug)]
pub(crate) enum Failure {
    /// A wrong request: a whole report, ready to print. Exit code 2.
    Wrong(String),
    /// The work failed. Exit code 1.
    Failed(String),
    /// The study ended without establishing its requirement. Exit code 3.
    Unmet(String),
    /// It was interrupted; the text says how to go on. Exit code 130.
    Interrupted(String),
}

impl Failure {
    /// Builds the failure of a wrong request, with its help.
    pub(crate) fn wrong(what: impl AsRef<str>, help: impl AsRef<str>) -> Self {
        Self::Wrong(format!("error: {}\n  help: {}", what.as_ref(), help.as_ref()))
    }

    pub(crate) fn exit_code(&self) -> u8 {
        match self {
            Self::Failed(_) => 1,
            Self::Wrong(_) => 2,
            Self::Unmet(_) => 3,
            Self::Interrupted(_) => 130,
        }
    }

    pub(crate) fn print(&self, color: bool) {
        let text = match self {
            Self::Wrong(report) => report.clone(),
            Self::Failed(what) => format!("error: {what}"),
            Self::Interrupted(what) | Self::Unmet(what) => what.clone(),
        };
        match text.strip_prefix("error:").filter(|_| color) {
            Some(rest) => outlet::say(&format!("\x1b[1;31merror\x1b[0m:{rest}"), color),
            None => outlet::say(&text, color),
        }
    }

    /// A file that could not be read or written, in plain words.
    pub(crate) fn file(doing: &str, path: &Path, error: &io::Error) -> Self {
        let text = format!("cannot {doing} {}: {}", path.display(), plainly(error));
        if doing == "read" {
            let samples = hint::command(["new", "DIR"]);
            Self::wrong(text, format!("check the path; {samples} makes a folder with sample briefs"))
        } else {
            Self::Failed(format!("{text}\n  help: {}", place(error)))
        }
    }
}

/// Returns the help for a file that cannot be written.
fn place(error: &io::Error) -> &'static str {
    match error.kind() {
        ErrorKind::StorageFull | ErrorKind::QuotaExceeded => "free some space, or choose another place",
        _ => "choose a place you may write to",
    }
}

impl From<LedgerError> for Failure {
    fn from(error: LedgerError) -> Self {
        let on = |words: &[&str]| hint::on_ledger(words);
        let help = match &error {
            LedgerError::NoSuchStudy { nearest: None, .. } => {
                Some(format!("{} shows what there is", on(&["ledger", "list"])))
            }
            LedgerError::NameTaken { name, ledger } => {
                let manifest = Ledger::at(ledger).open(name).and_then(|study| study.manifest());
                let unfinished = manifest.is_ok_and(|manifest| manifest.state != State::Complete);
                let go_on =
                    if unfinished { format!(", continue it: {}", on(&["resume", name])) } else { String::new() };
                Some(format!("choose another with --name{go_on}, or remove it: {}", on(&["ledger", "remove", name])))
            }
            LedgerError::Leftover { name, .. } => {
                Some(format!("{} removes it and frees its name", on(&["ledger", "remove", name])))
            }
            LedgerError::Damaged { file, .. } => {
                let brief = file.with_file_name("brief.toml").display().to_string();
                let again = hint::on_ledger(["run", &brief, "--name", "NAME"]);
                Some(format!("restore a copy of it, or play the study again under another name: {again}"))
            }
            LedgerError::Changed { study, .. } => Some(format!(
                "restore a copy of it; {} repairs what can be made again, {} lists what else is damaged",
                on(&["resume", study]),
                on(&["ledger", "verify", study])
            )),
            LedgerError::DamagedPart { study, .. } => Some(format!(
                "{} plays its matches again, {} lists what else is damaged",
                on(&["resume", study]),
                on(&["ledger", "verify", study])
            )),
            LedgerError::Incomplete { study, missing, .. } => {
                let does = if *missing == 0 { "sums it up" } else { "plays them" };
                Some(format!("{} {does}", on(&["resume", study])))
            }
            LedgerError::Io { source, .. } => Some(format!("{} (--ledger DIR)", place(source))),
            _ => None,
        };
        let help = help.map(|help| format!("\n  help: {help}")).unwrap_or_default();
        if error.is_users() {
            Self::Wrong(format!("error: {error}{help}"))
        } else {
            Self::Failed(format!("{error}{help}"))
        }
    }
}

impl From<SearchError> for Failure {
    fn from(error: SearchError) -> Self {
        match error {
            SearchError::Fell(fell) => fell.into(),
            SearchError::Stuck(why) => Self::wrong(why, "correct the brief, and make the study again"),
        }
    }
}

impl From<Fell> for Failure {
    fn from(fell: Fell) -> Self {
        Self::Failed(fell.to_string())
    }
}
