//! The folder of all studies.

use std::fs;
use std::io;
use std::path::{Path, PathBuf};

use inkpot_core::nearest;

use crate::{LedgerError, Study};

/// The folder of all studies.
#[derive(Clone, Debug)]
pub struct Ledger {
    folder: PathBuf,
}

impl Ledger {
    /// The ledger in this folder, which need not exist yet.
    pub fn at(folder: &Path) -> Self {
        Self { folder: folder.to_path_buf() }
    }

    /// The folder.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// Names of all studies in order of name.
    pub fn names(&self) -> Result<Vec<String>, LedgerError> {
        if !self.folder.exists() {
            return Ok(Vec::new());
        }
        let entries = fs::read_dir(&self.folder).map_err(LedgerError::io("read", &self.folder))?;
        let mut names: Vec<String> = entries
            .filter_map(Result::ok)
            .filter(|entry| entry.path().join("manifest.json").is_file())
            .filter_map(|entry| entry.file_name().into_string().ok())
            .collect();
        names.sort();
        Ok(names)
    }

    /// The study of this name.
    pub fn open(&self, name: &str) -> Result<Study, LedgerError> {
        let folder = self.folder.join(name);
        if !fine(name) || !folder.join("manifest.json").is_file() {
            let names = self.names()?;
            let nearest = nearest(name, names.iter().map(String::as_str));
            return Err(LedgerError::NoSuchStudy { name: name.into(), ledger: self.folder.clone(), nearest });
        }
        Ok(Study::at(folder, name))
    }

    /// A new, empty study. Errs when the name is taken, also by a process that is just as quick.
    pub fn create(&self, name: &str) -> Result<Study, LedgerError> {
        if !fine(name) {
            return Err(LedgerError::BadName { name: name.into() });
        }
        fs::create_dir_all(&self.folder).map_err(LedgerError::io("create", &self.folder))?;
        let folder = self.folder.join(name);
        match fs::create_dir(&folder) {
            Ok(()) => Ok(Study::at(folder, name)),
            Err(error) if error.kind() == io::ErrorKind::AlreadyExists => {
                Err(LedgerError::NameTaken { name: name.into(), ledger: self.folder.clone() })
            }
            Err(source) => Err(LedgerError::Io { doing: "create", path: folder, source }),
        }
    }

    /// A new, empty study named `STEM-001` or the next free number.
    pub fn create_numbered(&self, stem: &str) -> Result<Study, LedgerError> {
        for number in 1..=u32::MAX {
            match self.create(&format!("{stem}-{number:03}")) {
                Err(LedgerError::NameTaken { .. }) => {}
                other => return other,
            }
        }
        Err(LedgerError::NameTaken { name: stem.into(), ledger: self.folder.clone() })
    }

    /// Removes a study and everything in its folder.
    pub fn remove(&self, study: &Study) -> Result<(), LedgerError> {
        fs::remove_dir_all(study.folder()).map_err(LedgerError::io("remove", study.folder()))
    }
}

/// Whether a name is one folder of its own on every system.
fn fine(name: &str) -> bool {
    name.len() <= 64
        && name.starts_with(|first: char| first.is_ascii_alphanumeric())
        && name.chars().all(|c| c.is_ascii_alphanumeric() || "-_.".contains(c))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_stay_inside_the_ledger() {
        let folder = tempfile::tempdir().unwrap();
        let ledger = Ledger::at(folder.path());
        for name in ["", "..", "a/b", ".hidden", "é", &"x".repeat(65)] {
            assert!(matches!(ledger.create(name), Err(LedgerError::BadName { .. })), "{name}");
            assert!(ledger.open(name).is_err(), "{name}");
        }
    }

    #[test]
    fn numbers_count_on_from_what_is_there() {
        let folder = tempfile::tempdir().unwrap();
        let ledger = Ledger::at(folder.path());
        let names: Vec<String> =
            (0..3).map(|_| ledger.create_numbered("batch-piste").unwrap().name().to_string()).collect();
        assert_eq!(names, ["batch-piste-001", "batch-piste-002", "batch-piste-003"]);
        assert!(matches!(ledger.create("batch-piste-002"), Err(LedgerError::NameTaken { .. })));
    }
}
