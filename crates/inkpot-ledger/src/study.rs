//! One study's folder.

use std::fs::{self, File, TryLockError};
use std::io;
use std::path::{Path, PathBuf};

use crate::files::{checksum, write_whole};
use crate::manifest::{OLDEST_FORMAT, now};
use crate::part::{FOLDER, Part};
use crate::part_list::{self, LIST, ListedPart};
use crate::step::{Step, step};
use crate::{LedgerError, Manifest, ROW_FORMAT, State};

pub(crate) const MANIFEST: &str = "manifest.json";
pub(crate) const LOCK: &str = "lock";
const SUMMARY: &str = "summary.json";
/// The files from which a study of any kind starts.
const MADE_FROM: [&str; 4] = ["brief.toml", "resolved.toml", "plan.json", "search.json"];
/// The beginning of a sealed file's first line; its checksum follows.
const SEAL: &str = "sha256 ";
/// The ending of a file that is set aside.
const DAMAGED: &str = "damaged";

pub(crate) const CHANGED: &str = "its bytes are not those that were written";
pub(crate) const MISSING: &str = "it is missing or cannot be read";

/// One study's folder.
#[derive(Clone, Debug)]
pub struct Study {
    folder: PathBuf,
    name: String,
}

/// Whether a folder in the ledger that holds this is one of a study.
pub(crate) fn marks_a_study(name: &str) -> bool {
    MADE_FROM.contains(&name) || [LOCK, FOLDER, SUMMARY].contains(&name)
}

/// Held while a study is worked on; freed when dropped, or by the system when the process dies.
#[derive(Debug)]
pub struct Lock {
    _file: File,
}

impl Study {
    pub(crate) fn at(folder: PathBuf, name: &str) -> Self {
        Self { folder, name: name.into() }
    }

    /// The study's name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The study's folder.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// Takes the study for this process alone. Errs while another has it.
    pub fn lock(&self) -> Result<Lock, LedgerError> {
        let path = self.folder.join(LOCK);
        if path.symlink_metadata().is_ok_and(|there| there.is_symlink()) {
            let source = io::Error::other("it is a symbolic link; remove it");
            return Err(LedgerError::Io { doing: "lock", path, source });
        }
        let file = File::options().create(true).truncate(false).write(true).open(&path);
        let file = file.map_err(LedgerError::io("lock", &path))?;
        match file.try_lock() {
            Ok(()) => Ok(Lock { _file: file }),
            Err(TryLockError::WouldBlock) => Err(LedgerError::Locked { study: self.name.clone() }),
            Err(TryLockError::Error(source)) => Err(LedgerError::Io { doing: "lock", path, source }),
        }
    }

    /// Writes a file of the study whole; `name` is its path in the folder.
    pub fn write(&self, name: &str, bytes: &[u8]) -> Result<(), LedgerError> {
        let path = self.folder.join(name);
        write_whole(&path, bytes).map_err(LedgerError::io("write", &path))
    }

    /// Writes a file whose bytes the manifest vouches for from its next writing on.
    pub fn write_kept(&self, manifest: &mut Manifest, name: &str, bytes: &[u8]) -> Result<(), LedgerError> {
        self.write(name, bytes)?;
        manifest.files.insert(name.into(), checksum(bytes));
        Ok(())
    }

    /// Writes a text file with its own checksum, for data that changes more often than the manifest. The checksum also
    /// covers the study's file on which the text rests.
    pub fn write_sealed(&self, name: &str, basis: &str, text: &str) -> Result<(), LedgerError> {
        let basis = self.basis(basis)?;
        self.write(name, format!("{SEAL}{} {basis}\n{text}", sealed(&basis, text)).as_bytes())
    }

    /// The checksum of a file of the study on which others rest.
    fn basis(&self, name: &str) -> Result<String, LedgerError> {
        let path = self.folder.join(name);
        Ok(checksum(&fs::read(&path).map_err(LedgerError::io("read", &path))?))
    }

    /// Reads a text file of the study that nothing vouches for.
    pub fn read_text(&self, name: &str) -> Result<String, LedgerError> {
        let path = self.folder.join(name);
        fs::read_to_string(&path).map_err(LedgerError::io("read", &path))
    }

    /// Reads a file and checks it against the manifest's checksum, if it has one. Errs when it is missing or changed.
    pub fn read_kept_bytes(&self, manifest: &Manifest, name: &str) -> Result<Vec<u8>, LedgerError> {
        let why = match (manifest.files.get(name), fs::read(self.folder.join(name))) {
            (stored, Ok(bytes)) if stored.is_none_or(|stored| *stored == checksum(&bytes)) => return Ok(bytes),
            (_, Ok(_)) => CHANGED,
            (_, Err(_)) => MISSING,
        };
        Err(self.changed(name, why))
    }

    /// The same of a text file.
    pub fn read_kept(&self, manifest: &Manifest, name: &str) -> Result<String, LedgerError> {
        let bytes = self.read_kept_bytes(manifest, name)?;
        String::from_utf8(bytes).map_err(|_| self.changed(name, "it is not text"))
    }

    fn changed(&self, file: &str, why: &str) -> LedgerError {
        LedgerError::Changed { study: self.name.clone(), file: file.into(), why: why.into() }
    }

    /// Reads a sealed text file that rests on another of the study; none if it does not exist. Errs if the text was
    /// changed, or sealed for another study. A seal of earlier versions covers the text alone.
    pub fn read_sealed(&self, name: &str, basis: &str) -> Result<Option<String>, LedgerError> {
        let path = self.folder.join(name);
        if !path.exists() {
            return Ok(None);
        }
        let changed = || LedgerError::Changed { study: self.name.clone(), file: name.into(), why: CHANGED.into() };
        let bytes = fs::read(&path).map_err(LedgerError::io("read", &path))?;
        let text = String::from_utf8(bytes).map_err(|_| changed())?;
        let (seal, text) = text.strip_prefix(SEAL).and_then(|rest| rest.split_once('\n')).ok_or_else(changed)?;
        let sound = match seal.split_once(' ') {
            Some((sum, sealed_for)) if sum == sealed(sealed_for, text) => {
                if sealed_for != self.basis(basis)? {
                    return Err(
                        self.changed(name, &format!("it was written by another study: it rests on another {basis}"))
                    );
                }
                true
            }
            Some(_) => false,
            None => seal == checksum(text.as_bytes()),
        };
        if sound { Ok(Some(text.into())) } else { Err(changed()) }
    }

    /// Files that stand at the top of the folder, but for the manifest and the lock.
    pub(crate) fn files(&self) -> Result<Vec<String>, LedgerError> {
        let entries = fs::read_dir(&self.folder).map_err(LedgerError::io("read", &self.folder))?;
        let files = entries.flatten().filter(|entry| entry.path().is_file());
        let names = files.filter_map(|entry| entry.file_name().into_string().ok());
        Ok(names.filter(|name| name != MANIFEST && name != LOCK).collect())
    }

    /// Lets the manifest vouch for a file as it stands, from its next writing on.
    pub fn keep(&self, manifest: &mut Manifest, name: &str) -> Result<(), LedgerError> {
        let path = self.folder.join(name);
        let bytes = fs::read(&path).map_err(LedgerError::io("read", &path))?;
        manifest.files.insert(name.into(), checksum(&bytes));
        Ok(())
    }

    /// The manifest, after checking that this version can read the study.
    pub fn manifest(&self) -> Result<Manifest, LedgerError> {
        let damaged = |why: String| LedgerError::Damaged { file: self.folder.join(MANIFEST), why };
        let value: serde_json::Value =
            serde_json::from_str(&self.read_text(MANIFEST)?).map_err(|error| damaged(error.to_string()))?;
        let format = value.get("format").and_then(serde_json::Value::as_u64).unwrap_or_default() as u32;
        if format > ROW_FORMAT {
            return Err(LedgerError::NewerFormat { study: self.name.clone(), found: format, known: ROW_FORMAT });
        }
        if format < OLDEST_FORMAT {
            return Err(LedgerError::OlderFormat { study: self.name.clone(), found: format, known: ROW_FORMAT });
        }
        let manifest: Manifest = serde_json::from_value(value).map_err(|error| damaged(error.to_string()))?;
        self.with_parts(manifest.unsealed().ok_or_else(|| damaged(CHANGED.into()))?)
    }

    /// The manifest with the parts that the list names. The first two releases had them among the manifest's own files.
    fn with_parts(&self, mut manifest: Manifest) -> Result<Manifest, LedgerError> {
        let path = self.folder.join(LIST);
        let listed = part_list::read(&self.folder).map_err(LedgerError::io("read", &path))?;
        let is_listed = listed.is_some();
        for (name, checksum) in &manifest.files {
            if let Some(Part { span, .. }) = Part::at(Path::new(name)) {
                let part = ListedPart { matches: 0, checksum: checksum.clone(), span };
                manifest.parts.insert(part.span.start, part);
            }
        }
        manifest.parts.extend(listed.into_iter().flatten().map(|part| (part.span.start, part)));
        if is_listed {
            manifest.count();
        }
        Ok(manifest)
    }

    /// Writes the manifest.
    pub fn write_manifest(&self, manifest: &Manifest) -> Result<(), LedgerError> {
        let text = manifest.sealed().map_err(|error| LedgerError::Encode(error.to_string()))?;
        self.write(MANIFEST, text.as_bytes())
    }

    /// Writes the summary and marks the study complete.
    pub fn complete(&self, manifest: &mut Manifest, summary: &str) -> Result<(), LedgerError> {
        self.write_kept(manifest, SUMMARY, summary.as_bytes())?;
        if self.folder.join(LIST).exists() {
            self.keep(manifest, LIST)?;
        }
        manifest.state = State::Complete;
        manifest.ended = Some(now());
        self.write_manifest(manifest)
    }

    /// Keeps a damaged file under another name, if it is there.
    pub fn set_aside(&self, name: &str) -> Result<(), LedgerError> {
        let path = self.folder.join(name);
        match fs::rename(&path, path.with_extension(DAMAGED)) {
            Err(error) if error.kind() != io::ErrorKind::NotFound => Err(LedgerError::io("rename", &path)(error)),
            _ => Ok(()),
        }
    }

    /// Removes a file of the study, if it is there.
    pub fn discard(&self, name: &str) -> Result<(), LedgerError> {
        let path = self.folder.join(name);
        step(Step::Remove, &path).map_err(LedgerError::io("remove", &path))?;
        match fs::remove_file(&path) {
            Err(error) if error.kind() != io::ErrorKind::NotFound => Err(LedgerError::io("remove", &path)(error)),
            _ => Ok(()),
        }
    }

    /// Every file of the manifest that is missing or whose bytes changed, with the reason.
    pub fn changed_files(&self, manifest: &Manifest) -> Vec<(String, &'static str)> {
        let parts = manifest.parts.values().map(|part| (Part::file_name(&part.span), &part.checksum));
        let files = manifest.files.iter().filter(|(name, _)| Part::at(Path::new(name)).is_none());
        let mut changed = Vec::new();
        for (name, stored) in files.map(|(name, stored)| (name.clone(), stored)).chain(parts) {
            match fs::read(self.folder.join(&name)) {
                Ok(bytes) if checksum(&bytes) == *stored => {}
                Ok(_) => changed.push((name, CHANGED)),
                Err(_) => changed.push((name, MISSING)),
            }
        }
        changed
    }
}

/// The checksum of a text that rests on a file with this checksum.
fn sealed(basis: &str, text: &str) -> String {
    checksum(format!("{basis}\n{text}").as_bytes())
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;
    use crate::codec::tests::{names, sample};
    use crate::{Ledger, Machine, Naming, PartWriter};

    /// A study of four blocks, none of which is played.
    pub(crate) fn study(folder: &Path) -> (Study, Manifest) {
        let ledger = Ledger::at(folder);
        let begun = ledger.begin(Naming::Named("trial")).unwrap();
        begun.study().write("plan.json", b"{}").unwrap();
        let (study, manifest, _) = begun.settle(Manifest::begin("batch", "piste", 1, 4, Machine::default())).unwrap();
        (study, manifest)
    }

    /// Plays these blocks, each in a run of its own.
    pub(crate) fn fill(study: &Study, manifest: &mut Manifest, blocks: &[u64]) {
        let names = names();
        let mut writer = PartWriter::new(study, &names, manifest);
        for &block in blocks {
            writer.take(block..block + 1, &mut sample(block)).unwrap();
        }
        writer.flush().unwrap();
    }

    #[test]
    fn a_study_of_another_format_is_refused() {
        let folder = tempfile::tempdir().unwrap();
        let (study, mut manifest) = study(folder.path());
        manifest.format = ROW_FORMAT + 1;
        study.write_manifest(&manifest).unwrap();
        assert!(matches!(study.manifest(), Err(LedgerError::NewerFormat { .. })));
        manifest.format = OLDEST_FORMAT - 1;
        study.write_manifest(&manifest).unwrap();
        assert!(matches!(study.manifest(), Err(LedgerError::OlderFormat { .. })));
    }

    #[test]
    fn a_manifest_changed_by_a_bit_is_damaged() {
        let folder = tempfile::tempdir().unwrap();
        let (study, mut manifest) = study(folder.path());
        fill(&study, &mut manifest, &[0, 1]);
        let path = study.folder().join(MANIFEST);
        let text = fs::read(&path).unwrap();
        let sound: Manifest = study.manifest().unwrap();
        for at in 0..text.len() {
            let mut flipped = text.clone();
            flipped[at] ^= 1;
            fs::write(&path, flipped).unwrap();
            assert!(study.manifest().map_or(true, |read| read == sound), "byte {at}");
        }
    }

    #[test]
    fn a_file_changed_by_hand_is_refused_and_what_is_sealed_says_so_itself() {
        let folder = tempfile::tempdir().unwrap();
        let (study, manifest) = study(folder.path());
        assert_eq!(study.read_kept(&manifest, "plan.json").unwrap(), "{}");
        study.write("plan.json", b"{ }").unwrap();
        assert!(matches!(study.read_kept(&manifest, "plan.json"), Err(LedgerError::Changed { .. })));
        let read = || study.read_sealed("checkpoints/one.txt", "plan.json");
        assert_eq!(read().unwrap(), None);
        study.write_sealed("checkpoints/one.txt", "plan.json", "so far\n").unwrap();
        assert_eq!(read().unwrap().as_deref(), Some("so far\n"));
        let sound = study.read_text("checkpoints/one.txt").unwrap();
        let sum = sound.lines().next().unwrap();
        let other = format!("{SEAL}{}\n", checksum(b"so far\n"));
        let changes = [
            sound.replace("far", "fat"),
            sound.replace(sum, "sha256"),
            "so far\n".into(),
            sound[..9].into(),
            String::new(),
        ];
        for changed in changes {
            study.write("checkpoints/one.txt", changed.as_bytes()).unwrap();
            assert!(matches!(read(), Err(LedgerError::Changed { .. })), "{changed}");
        }
        study.write("checkpoints/one.txt", (other + "so far\n").as_bytes()).unwrap();
        assert_eq!(read().unwrap().as_deref(), Some("so far\n"), "as earlier versions sealed it");
        // Of another study.
        study.write("checkpoints/one.txt", sound.as_bytes()).unwrap();
        study.write("plan.json", b"{ \"seed\": 2 }").unwrap();
        assert!(read().is_err_and(|error| error.to_string().contains("written by another study")));
    }

    #[test]
    fn only_one_process_works_on_a_study() {
        let folder = tempfile::tempdir().unwrap();
        let (study, _) = study(folder.path());
        let first = study.lock().unwrap();
        assert!(matches!(study.lock(), Err(LedgerError::Locked { .. })));
        drop(first);
        assert!(study.lock().is_ok());
    }
}
