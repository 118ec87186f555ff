//! How a verb can fail, and the exit code that says so.

use std::io::{self, ErrorKind};
use std::path::Path;

use inkpot_ledger::LedgerError;

/// How a verb can fail.
#[derive(Debug)]
pub(crate) enum Failure {
    /// What was asked is wrong: a whole report, ready to print. Exit code 2.
    Wrong(String),
    /// The work failed. Exit code 1.
    Failed(String),
    /// It was done, but what was required was not established. Exit code 3.
    Unmet(String),
    /// It was interrupted; the text says how to go on. Exit code 130.
    Interrupted(String),
}

impl Failure {
    /// What was asked is wrong, with what to do about it.
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
            Some(rest) => eprintln!("\x1b[1;31merror\x1b[0m:{rest}"),
            None => eprintln!("{text}"),
        }
    }

    /// A file that could not be read or written, in plain words.
    pub(crate) fn file(doing: &str, path: &Path, error: &io::Error) -> Self {
        let why = match error.kind() {
            ErrorKind::NotFound => "no such file or folder".to_string(),
            ErrorKind::PermissionDenied => "permission denied".to_string(),
            ErrorKind::IsADirectory => "it is a folder, not a file".to_string(),
            ErrorKind::InvalidData => "it is not UTF-8 text".to_string(),
            ErrorKind::AlreadyExists | ErrorKind::NotADirectory => "a file is where a folder should be".to_string(),
            _ => error.to_string(),
        };
        let text = format!("cannot {doing} {}: {why}", path.display());
        if doing == "read" {
            Self::wrong(text, "check the path; `inkpot new DIR` makes a folder with sample briefs")
        } else {
            Self::Failed(format!("{text}\n  help: choose a place you may write to"))
        }
    }
}

impl From<LedgerError> for Failure {
    fn from(error: LedgerError) -> Self {
        if error.is_users() { Self::Wrong(format!("error: {error}")) } else { Self::Failed(error.to_string()) }
    }
}
