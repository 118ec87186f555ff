//! The folder of all studies.

use std::fs;
use std::io;
use std::path::{Path, PathBuf};
use std::time::Duration;

use inkpot_core::nearest;
use tempfile::TempDir;

use crate::files::{sync_folder, usual_permissions};
use crate::part::FOLDER;
use crate::step::{Step, step};
use crate::study::{LOCK, Lock, MANIFEST, marks_a_study};
use crate::{LedgerError, Manifest, Study};

/// Folders of studies that are being made begin so ...
const NEW: &str = ".new-";
/// ... and those that are being removed so.
const GONE: &str = ".gone-";
/// The longest time in which a study is created; older leftovers belong to a process that died.
const MOMENT: Duration = Duration::from_secs(600);

/// The folder of all studies.
#[derive(Clone, Debug)]
pub struct Ledger {
    folder: PathBuf,
}

/// The name of a new study, or how to find one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Naming<'a> {
    /// The file's name.
    Named(&'a str),
    /// `STEM-001`, or the next free number.
    Numbered(&'a str),
}

/// A study that is being made, out of sight until all that it is made from is there.
#[derive(Debug)]
pub struct Begun<'a> {
    ledger: &'a Ledger,
    naming: Naming<'a>,
    folder: TempDir,
    study: Study,
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
            .filter_map(|entry| entry.file_name().into_string().ok())
            .filter(|name| fine(name) && (self.has_study(name) || self.is_leftover(name)))
            .collect();
        names.sort();
        Ok(names)
    }

    /// The study of this name.
    pub fn open(&self, name: &str) -> Result<Study, LedgerError> {
        let folder = self.folder.join(name);
        if fine(name) && self.has_study(name) {
            return Ok(Study::at(folder, name));
        }
        if fine(name) && self.is_leftover(name) {
            return Err(LedgerError::Leftover { name: name.into(), folder });
        }
        let names = self.names()?;
        let nearest = nearest(name, names.iter().map(String::as_str));
        Err(LedgerError::NoSuchStudy { name: name.into(), ledger: self.folder.clone(), nearest })
    }

    fn has_study(&self, name: &str) -> bool {
        self.folder.join(name).join(MANIFEST).is_file()
    }

    /// Whether this is a folder of a study that never got its manifest, or lost it.
    fn is_leftover(&self, name: &str) -> bool {
        let folder = self.folder.join(name);
        let Ok(entries) = fs::read_dir(&folder) else { return false };
        let names: Vec<_> = entries.flatten().map(|entry| entry.file_name()).collect();
        let marks = |name: &std::ffi::OsString| name.to_str().is_some_and(marks_a_study);
        !folder.join(MANIFEST).exists() && (names.is_empty() || names.iter().any(marks))
    }

    /// Whether a folder holds nothing that would be missed: a study was begun there and never played.
    fn is_worthless(&self, name: &str) -> bool {
        let folder = self.folder.join(name);
        let mut names = fs::read_dir(&folder).into_iter().flatten().flatten().map(|entry| entry.file_name());
        self.is_leftover(name)
            && !folder.join(FOLDER).exists()
            && names.all(|name| name.to_str().is_some_and(marks_a_study))
    }

    /// Begins a new study. Errs when it cannot be called so.
    pub fn begin<'a>(&'a self, naming: Naming<'a>) -> Result<Begun<'a>, LedgerError> {
        let (Naming::Named(name) | Naming::Numbered(name)) = naming;
        if !fine(name) {
            return Err(LedgerError::BadName { name: name.into() });
        }
        if matches!(naming, Naming::Named(_)) && self.has_study(name) {
            return Err(self.taken(name));
        }
        fs::create_dir_all(&self.folder).map_err(LedgerError::io("create", &self.folder))?;
        self.sweep();
        let folder = self.out_of_sight(NEW).map_err(LedgerError::io("write into", &self.folder))?;
        let study = Study::at(folder.path().to_path_buf(), name);
        Ok(Begun { ledger: self, naming, folder, study })
    }

    /// A new folder that no verb shows.
    fn out_of_sight(&self, prefix: &str) -> io::Result<TempDir> {
        let mut builder = tempfile::Builder::new();
        if let Some(permissions) = usual_permissions(0o777) {
            builder.permissions(permissions);
        }
        builder.prefix(prefix).tempdir_in(&self.folder)
    }

    /// Puts a finished folder under a name. False when the name is taken.
    fn settle(&self, from: &Path, name: &str) -> Result<bool, LedgerError> {
        let folder = self.folder.join(name);
        if folder.symlink_metadata().is_ok() {
            if !self.is_worthless(name) || self.worked_on(name) {
                return Ok(false);
            }
            self.discard(name)?;
        }
        step(Step::Rename, &folder).map_err(LedgerError::io("create", &folder))?;
        match fs::rename(from, &folder) {
            Ok(()) => {
                step(Step::Renamed, &folder).map_err(LedgerError::io("create", &folder))?;
                sync_folder(&self.folder);
                Ok(true)
            }
            Err(_) if folder.symlink_metadata().is_ok() => Ok(false),
            Err(source) => Err(LedgerError::Io { doing: "create", path: folder, source }),
        }
    }

    fn worked_on(&self, name: &str) -> bool {
        let study = Study::at(self.folder.join(name), name);
        study.folder().join(LOCK).exists() && study.lock().is_err()
    }

    fn taken(&self, name: &str) -> LedgerError {
        LedgerError::NameTaken { name: name.into(), ledger: self.folder.clone() }
    }

    /// Removes a study, or its remains, with everything in its folder. Errs if there is none, or while it is in use.
    pub fn remove(&self, name: &str) -> Result<(), LedgerError> {
        let _lock = match self.open(name) {
            Ok(study) => Some(study.lock()?),
            Err(LedgerError::Leftover { .. }) if self.worked_on(name) => {
                return Err(LedgerError::Locked { study: name.into() });
            }
            Err(LedgerError::Leftover { .. }) => None,
            Err(other) => return Err(other),
        };
        self.discard(name)
    }

    /// Takes a folder out of sight, then removes it: there is never half a study. Symbolic links are removed, not
    /// followed.
    fn discard(&self, name: &str) -> Result<(), LedgerError> {
        let folder = self.folder.join(name);
        let failed = |doing| LedgerError::io(doing, &folder);
        let gone = self.out_of_sight(GONE).map_err(failed("remove"))?.keep();
        let inner = gone.join(name);
        step(Step::Remove, &folder).map_err(failed("remove"))?;
        fs::rename(&folder, &inner).map_err(failed("remove"))?;
        step(Step::Remove, &inner).map_err(failed("remove"))?;
        remove_tree(&inner).map_err(failed("remove"))?;
        fs::remove_dir(&gone).map_err(failed("remove"))
    }

    /// Removes the hidden leftovers of processes that died.
    fn sweep(&self) {
        for entry in fs::read_dir(&self.folder).into_iter().flatten().flatten() {
            let name = entry.file_name();
            let name = name.to_string_lossy();
            let age = || entry.metadata().ok()?.modified().ok()?.elapsed().ok();
            if name.starts_with(GONE) || name.starts_with(NEW) && age().is_some_and(|age| age > MOMENT) {
                let _ = remove_tree(&entry.path());
            }
        }
    }
}

impl Begun<'_> {
    /// The study before it is settled: its files stand aside.
    pub fn study(&self) -> &Study {
        &self.study
    }

    /// Puts the study into the ledger, and takes it for this process. The checksums of its files are kept in the
    /// manifest, which gets its name. Errs when the name was taken meanwhile.
    pub fn settle(self, mut manifest: Manifest) -> Result<(Study, Manifest, Lock), LedgerError> {
        for name in self.study.files()? {
            self.study.keep(&mut manifest, &name)?;
        }
        for name in names(self.naming).filter(|name| !self.ledger.has_study(name)) {
            manifest.study.clone_from(&name);
            self.study.write_manifest(&manifest)?;
            if self.ledger.settle(self.folder.path(), &name)? {
                // Nothing is left to clean up under the old name.
                let _ = self.folder.keep();
                let study = Study::at(self.ledger.folder.join(&name), &name);
                let lock = study.lock()?;
                return Ok((study, manifest, lock));
            }
        }
        let (Naming::Named(name) | Naming::Numbered(name)) = self.naming;
        Err(self.ledger.taken(name))
    }
}

/// The names to be tried, in order.
fn names(naming: Naming) -> Box<dyn Iterator<Item = String> + '_> {
    match naming {
        Naming::Named(name) => Box::new(std::iter::once(name.to_string())),
        Naming::Numbered(stem) => Box::new((1..=u32::MAX).map(move |number| format!("{stem}-{number:03}"))),
    }
}

/// Removes a folder with everything in it, or the symbolic link that leads to one.
fn remove_tree(path: &Path) -> io::Result<()> {
    if path.symlink_metadata()?.is_symlink() { fs::remove_file(path) } else { fs::remove_dir_all(path) }
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
    use crate::Machine;

    fn make(ledger: &Ledger, naming: Naming) -> Result<Study, LedgerError> {
        let begun = ledger.begin(naming)?;
        begun.study().write("brief.toml", b"kind = \"batch\"\n")?;
        Ok(begun.settle(Manifest::begin("batch", "piste", 1, 4, Machine::default()))?.0)
    }

    fn hidden(ledger: &Ledger) -> usize {
        let entries = fs::read_dir(ledger.folder()).unwrap().flatten();
        entries.filter(|entry| entry.file_name().to_string_lossy().starts_with('.')).count()
    }

    #[test]
    fn names_stay_inside_the_ledger() {
        let folder = tempfile::tempdir().unwrap();
        let ledger = Ledger::at(folder.path());
        for name in ["", "..", "a/b", ".hidden", "é", &"x".repeat(65)] {
            assert!(matches!(ledger.begin(Naming::Named(name)), Err(LedgerError::BadName { .. })), "{name}");
            assert!(ledger.open(name).is_err(), "{name}");
        }
    }

    #[test]
    fn numbers_count_on_from_what_is_there() {
        let folder = tempfile::tempdir().unwrap();
        let ledger = Ledger::at(folder.path());
        let made = |_| make(&ledger, Naming::Numbered("batch-piste")).unwrap().name().to_string();
        let names: Vec<String> = (0..3).map(made).collect();
        assert_eq!(names, ["batch-piste-001", "batch-piste-002", "batch-piste-003"]);
        assert!(matches!(make(&ledger, Naming::Named("batch-piste-002")), Err(LedgerError::NameTaken { .. })));
        assert_eq!(ledger.names().unwrap(), names);
        assert_eq!(hidden(&ledger), 0);
    }

    #[test]
    fn a_study_appears_with_all_it_is_made_from_or_not_at_all() {
        let folder = tempfile::tempdir().unwrap();
        let ledger = Ledger::at(folder.path());
        let begun = ledger.begin(Naming::Named("birds")).unwrap();
        begun.study().write("brief.toml", b"game = \"piste\"\n").unwrap();
        assert_eq!(ledger.names().unwrap(), Vec::<String>::new());
        assert!(matches!(ledger.open("birds"), Err(LedgerError::NoSuchStudy { .. })));
        let rival = make(&ledger, Naming::Named("birds")).unwrap();
        let late = begun.settle(Manifest::begin("batch", "piste", 2, 4, Machine::default()));
        assert!(matches!(late, Err(LedgerError::NameTaken { .. })));
        assert_eq!(rival.manifest().unwrap().seed, 1);
        assert_eq!(rival.manifest().unwrap().files.len(), 1);
        assert_eq!(hidden(&ledger), 0);
    }

    #[test]
    fn what_is_left_of_a_study_can_be_seen_removed_and_begun_anew() {
        let folder = tempfile::tempdir().unwrap();
        let ledger = Ledger::at(folder.path());
        let leave = |name: &str, file: &str| {
            fs::create_dir_all(folder.path().join(name)).unwrap();
            fs::write(folder.path().join(name).join(file), "").unwrap();
        };
        leave("birds", "brief.toml");
        leave("fish", "brief.toml");
        leave("own", "letters.txt");
        assert_eq!(ledger.names().unwrap(), ["birds", "fish"], "a folder of something else is none of ours");
        assert!(matches!(ledger.open("birds"), Err(LedgerError::Leftover { .. })));
        make(&ledger, Naming::Named("birds")).unwrap();
        ledger.remove("fish").unwrap();
        assert_eq!(ledger.names().unwrap(), ["birds"]);
        assert!(matches!(ledger.remove("own"), Err(LedgerError::NoSuchStudy { .. })));
        assert!(matches!(make(&ledger, Naming::Named("own")), Err(LedgerError::NameTaken { .. })));
        // Rows without a manifest are not thrown away in passing.
        fs::create_dir_all(folder.path().join("rich/rows")).unwrap();
        assert!(matches!(make(&ledger, Naming::Named("rich")), Err(LedgerError::NameTaken { .. })));
        ledger.remove("rich").unwrap();
    }

    #[test]
    fn what_a_dead_process_left_out_of_sight_is_swept() {
        let folder = tempfile::tempdir().unwrap();
        let ledger = Ledger::at(folder.path());
        for name in [".gone-x/birds/rows", ".new-old", ".new-young"] {
            fs::create_dir_all(folder.path().join(name)).unwrap();
        }
        let old = fs::File::open(folder.path().join(".new-old")).unwrap();
        old.set_modified(std::time::SystemTime::now() - 2 * MOMENT).unwrap();
        make(&ledger, Naming::Named("birds")).unwrap();
        assert_eq!(hidden(&ledger), 1, "what is young may be at work");
    }

    #[cfg(unix)]
    #[test]
    fn removing_follows_no_link_out() {
        let folder = tempfile::tempdir().unwrap();
        let elsewhere = tempfile::tempdir().unwrap();
        let stray = elsewhere.path().join("letters.txt");
        fs::write(&stray, "kept").unwrap();
        let ledger = Ledger::at(folder.path());
        let study = make(&ledger, Naming::Named("birds")).unwrap();
        std::os::unix::fs::symlink(elsewhere.path(), study.folder().join("rows")).unwrap();
        let _ = fs::remove_file(study.folder().join(LOCK));
        std::os::unix::fs::symlink(&stray, study.folder().join(LOCK)).unwrap();
        assert!(matches!(study.lock(), Err(LedgerError::Io { .. })));
        assert_eq!(fs::read(&stray).unwrap(), b"kept");
        fs::remove_file(study.folder().join(LOCK)).unwrap();
        ledger.remove("birds").unwrap();
        assert_eq!(fs::read(&stray).unwrap(), b"kept");
    }
}
