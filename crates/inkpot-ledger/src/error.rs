//! Errors of a ledger, in words that say what to do.

use std::io;
use std::path::{Path, PathBuf};

use thiserror::Error;

/// An error of the ledger.
#[derive(Debug, Error)]
#[expect(missing_docs, reason = "each message says it all; the fields are what it names")]
pub enum LedgerError {
    #[error("there is no study `{name}` in {}{}", ledger.display(), did_you_mean(nearest.as_deref()))]
    NoSuchStudy { name: String, ledger: PathBuf, nearest: Option<String> },
    #[error("the study name `{name}` is taken in {}", ledger.display())]
    NameTaken { name: String, ledger: PathBuf },
    #[error(
        "`{name}` is not a valid study name: use letters, digits, `-`, `_` and `.`, 64 at most, beginning with a \
         letter or digit"
    )]
    BadName { name: String },
    #[error("{} is what is left of a study: it has no manifest", folder.display())]
    Leftover { name: String, folder: PathBuf },
    #[error(
        "`{study}` was written by a newer Inkpot (format {found}, this one reads up to {known}): read it with that version or a later one"
    )]
    NewerFormat { study: String, found: u32, known: u32 },
    #[error(
        "`{study}` was written by an older Inkpot (format {found}, this one reads {known}): run its brief.toml again, or read it with that version"
    )]
    OlderFormat { study: String, found: u32, known: u32 },
    #[error("another Inkpot is working on `{study}`: wait for it, or stop it first")]
    Locked { study: String },
    #[error("{} is damaged: {why}", file.display())]
    Damaged { file: PathBuf, why: String },
    #[error("{file} of `{study}` is damaged or was changed: {why}")]
    Changed { study: String, file: String, why: String },
    #[error("{} in `{study}` is damaged: {why}", file.display())]
    DamagedPart { study: String, file: PathBuf, why: String },
    #[error("{} is no part of `{study}`: {why}", file.display())]
    NotAdopted { study: String, file: PathBuf, why: String },
    #[error("`{study}` is not complete: {}", if *missing == 0 { "it is not summed up yet".into() } else { format!("{missing} of {total} blocks are missing") })]
    Incomplete { study: String, missing: u64, total: u64 },
    #[error("cannot {doing} {}: {}", path.display(), plainly(source))]
    Io { doing: &'static str, path: PathBuf, source: io::Error },
    #[error("cannot encode rows: {0}")]
    Encode(String),
}

impl LedgerError {
    /// Whether the request is wrong, as opposed to failed work.
    pub fn is_users(&self) -> bool {
        matches!(
            self,
            Self::NoSuchStudy { .. }
                | Self::NameTaken { .. }
                | Self::BadName { .. }
                | Self::Leftover { .. }
                | Self::NewerFormat { .. }
                | Self::OlderFormat { .. }
        )
    }

    pub(crate) fn io<'a>(doing: &'static str, path: &'a Path) -> impl FnOnce(io::Error) -> Self + 'a {
        move |source| Self::Io { doing, path: path.to_path_buf(), source }
    }
}

fn did_you_mean(nearest: Option<&str>) -> String {
    nearest.map_or_else(String::new, |name| format!("; did you mean `{name}`?"))
}

/// The error of a file in plain words; the system's own where there are none.
pub fn plainly(error: &io::Error) -> String {
    match error.kind() {
        io::ErrorKind::NotFound => "there is no such file or folder".into(),
        io::ErrorKind::PermissionDenied => "permission is denied".into(),
        io::ErrorKind::ReadOnlyFilesystem => "the file system is read-only".into(),
        io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded => "the disk is full".into(),
        io::ErrorKind::NotADirectory | io::ErrorKind::AlreadyExists => "a file is where a folder should be".into(),
        io::ErrorKind::IsADirectory => "it is a folder, not a file".into(),
        io::ErrorKind::InvalidData => "it is not UTF-8 text".into(),
        io::ErrorKind::BrokenPipe => "its reader is gone".into(),
        io::ErrorKind::FileTooLarge => "the file would be larger than the system allows".into(),
        io::ErrorKind::InvalidFilename => "the system does not accept this file name".into(),
        io::ErrorKind::TooManyLinks => "too many symbolic links lead there".into(),
        _ => format!("the system says \"{error}\""),
    }
}
