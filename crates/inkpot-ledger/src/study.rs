//! One study's folder.

use std::fs::{self, File, TryLockError};
use std::path::{Path, PathBuf};

use inkpot_core::Rows;

use crate::codec::{Columns, decode};
use crate::files::{checksum, write_whole};
use crate::manifest::now;
use crate::parts::{self, Part, Span};
use crate::{LedgerError, Manifest, ROW_FORMAT, State};

const MANIFEST: &str = "manifest.json";
/// Files that a study of any kind may have, beside its rows.
const RECORDED: [&str; 6] = ["brief.toml", "resolved.toml", "plan.json", "search.json", "history.csv", "summary.json"];

/// One study's folder.
#[derive(Clone, Debug)]
pub struct Study {
    folder: PathBuf,
    name: String,
}

/// Held while a study is worked on; freed when dropped, or by the system when the process dies.
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

    /// Takes the study for this process alone.
    pub fn lock(&self) -> Result<Lock, LedgerError> {
        let path = self.folder.join("lock");
        let file = File::create(&path).map_err(LedgerError::io("write", &path))?;
        match file.try_lock() {
            Ok(()) => Ok(Lock { _file: file }),
            Err(TryLockError::WouldBlock) => Err(LedgerError::Locked { study: self.name.clone() }),
            Err(TryLockError::Error(source)) => Err(LedgerError::Io { doing: "lock", path, source }),
        }
    }

    /// Writes a file of the study whole; `name` is its path in the folder.
    pub fn write(&self, name: &str, bytes: &[u8]) -> Result<(), LedgerError> {
        write_whole(&self.folder.join(name), bytes)
    }

    /// Reads a text file of the study.
    pub fn read_text(&self, name: &str) -> Result<String, LedgerError> {
        let path = self.folder.join(name);
        fs::read_to_string(&path).map_err(LedgerError::io("read", &path))
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
        if format < ROW_FORMAT {
            return Err(LedgerError::OlderFormat { study: self.name.clone(), found: format, known: ROW_FORMAT });
        }
        serde_json::from_value(value).map_err(|error| damaged(error.to_string()))
    }

    /// Writes the manifest.
    pub fn write_manifest(&self, manifest: &Manifest) -> Result<(), LedgerError> {
        let text = serde_json::to_string_pretty(manifest).map_err(|error| LedgerError::Encode(error.to_string()))?;
        self.write(MANIFEST, (text + "\n").as_bytes())
    }

    /// Writes the summary and marks the study complete. The checksums of what it was made from and found are kept, and those
    /// of the files named in `own`.
    pub fn complete(&self, manifest: &mut Manifest, summary: &str, own: &[&str]) -> Result<(), LedgerError> {
        self.write("summary.json", summary.as_bytes())?;
        for name in RECORDED.iter().chain(own) {
            if let Ok(bytes) = fs::read(self.folder.join(name)) {
                manifest.files.insert((*name).into(), checksum(&bytes));
            }
        }
        manifest.state = State::Complete;
        manifest.ended = Some(now());
        self.write_manifest(manifest)
    }

    /// The part files in order of their blocks.
    pub fn parts(&self) -> Result<Vec<Part>, LedgerError> {
        let folder = self.folder.join(parts::FOLDER);
        if !folder.exists() {
            return Ok(Vec::new());
        }
        let entries = fs::read_dir(&folder).map_err(LedgerError::io("read", &folder))?;
        let mut found: Vec<Part> = entries.filter_map(|entry| Part::at(&entry.ok()?.path())).collect();
        found.sort_by_key(|part| part.span.start);
        Ok(found)
    }

    /// Reads a part and checks it against the manifest's checksum, if it has one.
    pub fn read_part(&self, part: &Part, manifest: &Manifest, measures: &[String]) -> Result<Rows, LedgerError> {
        self.read_columns(part, manifest, measures, None)
    }

    fn read_columns(
        &self,
        part: &Part,
        manifest: &Manifest,
        measures: &[String],
        only: Option<&Columns>,
    ) -> Result<Rows, LedgerError> {
        let damaged = |why: &str| LedgerError::DamagedPart {
            study: self.name.clone(),
            file: part.path.strip_prefix(&self.folder).unwrap_or(&part.path).to_path_buf(),
            why: why.into(),
        };
        let bytes = fs::read(&part.path).map_err(LedgerError::io("read", &part.path))?;
        if manifest.files.get(&Part::file_name(&part.span)).is_some_and(|stored| *stored != checksum(&bytes)) {
            return Err(damaged("its bytes are not those that were written"));
        }
        decode(bytes, measures, only).map_err(|why| damaged(&why))
    }

    /// The blocks of `0..total` that are not stored.
    pub fn missing(&self, total: u64) -> Result<Vec<Span>, LedgerError> {
        Ok(parts::gaps(&self.parts()?, total))
    }

    /// Calls `visit` with the rows of every part, in order of cell, block, rotation and seat. Errs when a part is
    /// damaged or blocks are missing.
    pub fn visit(
        &self,
        manifest: &Manifest,
        measures: &[String],
        visit: impl FnMut(&Rows) -> Result<(), LedgerError>,
    ) -> Result<(), LedgerError> {
        self.visit_columns(manifest, measures, None, visit)
    }

    /// The same with only some columns read, which is several times as fast.
    pub fn visit_columns(
        &self,
        manifest: &Manifest,
        measures: &[String],
        only: Option<&Columns>,
        visit: impl FnMut(&Rows) -> Result<(), LedgerError>,
    ) -> Result<(), LedgerError> {
        self.visit_stretch(manifest, measures, only, 0..manifest.blocks, visit)
    }

    /// The same for the parts that hold any of these blocks; they may hold others too. Errs when one of the blocks is
    /// missing.
    pub fn visit_stretch(
        &self,
        manifest: &Manifest,
        measures: &[String],
        only: Option<&Columns>,
        stretch: Span,
        mut visit: impl FnMut(&Rows) -> Result<(), LedgerError>,
    ) -> Result<(), LedgerError> {
        let gaps = self.missing(stretch.end)?;
        let missing: u64 = gaps.iter().map(|gap| gap.end.saturating_sub(gap.start.max(stretch.start))).sum();
        if missing > 0 {
            return Err(LedgerError::Incomplete { study: self.name.clone(), missing, total: manifest.blocks });
        }
        let touched = |part: &Part| part.span.start < stretch.end && part.span.end > stretch.start;
        for part in self.parts()?.iter().filter(|part| touched(part)) {
            visit(&self.read_columns(part, manifest, measures, only)?)?;
        }
        Ok(())
    }

    /// Removes the parts that begin at this block or after it, so that what is left has no gap before its end.
    pub fn cut(&self, manifest: &mut Manifest, from: u64) -> Result<(), LedgerError> {
        for part in self.parts()?.into_iter().filter(|part| part.span.start >= from) {
            fs::remove_file(&part.path).map_err(LedgerError::io("remove", &part.path))?;
            manifest.files.remove(&Part::file_name(&part.span));
        }
        Ok(())
    }

    /// Sets damaged parts aside (they keep their bytes under another name), so that their blocks count as missing;
    /// gives their names. `manifest` is brought to what is left.
    pub fn set_damaged_aside(&self, manifest: &mut Manifest, measures: &[String]) -> Result<Vec<String>, LedgerError> {
        let mut aside = Vec::new();
        (manifest.blocks_done, manifest.matches_done) = (0, 0);
        for part in self.parts()? {
            let name = Part::file_name(&part.span);
            match self.read_part(&part, manifest, measures) {
                Ok(rows) => {
                    manifest.blocks_done += part.span.end - part.span.start;
                    manifest.matches_done += rows.matches().count() as u64;
                }
                Err(LedgerError::DamagedPart { .. }) => {
                    let to = part.path.with_extension("damaged");
                    fs::rename(&part.path, &to).map_err(LedgerError::io("rename", &part.path))?;
                    manifest.files.remove(&name);
                    aside.push(name);
                }
                Err(other) => return Err(other),
            }
        }
        Ok(aside)
    }

    /// Every file of the manifest that is missing or whose bytes changed, with the reason.
    pub fn changed_files(&self, manifest: &Manifest) -> Vec<(String, String)> {
        let mut changed = Vec::new();
        for (name, stored) in &manifest.files {
            match fs::read(self.folder.join(name)) {
                Ok(bytes) if checksum(&bytes) == *stored => {}
                Ok(_) => changed.push((name.clone(), "its bytes are not those that were written".into())),
                Err(_) => changed.push((name.clone(), "it is missing or cannot be read".into())),
            }
        }
        changed
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::codec::tests::{names, sample};
    use crate::{Ledger, Machine, PartWriter};

    fn study(folder: &Path) -> (Study, Manifest) {
        let study = Ledger::at(folder).create("trial").unwrap();
        let manifest = Manifest::begin(&study, "batch", "piste", 1, 4, Machine::default());
        study.write_manifest(&manifest).unwrap();
        (study, manifest)
    }

    fn fill(study: &Study, manifest: &mut Manifest, blocks: &[u64]) {
        let names = names();
        let mut writer = PartWriter::new(study, &names, manifest);
        for &block in blocks {
            writer.take(block..block + 1, &mut sample(block)).unwrap();
        }
        writer.flush().unwrap();
    }

    #[test]
    fn missing_blocks_are_named_until_all_are_there() {
        let folder = tempfile::tempdir().unwrap();
        let (study, mut manifest) = study(folder.path());
        fill(&study, &mut manifest, &[0, 3]);
        assert_eq!(study.missing(4).unwrap(), vec![1..3]);
        let seen = study.visit(&manifest, &names(), |_| Ok(()));
        assert!(matches!(seen, Err(LedgerError::Incomplete { missing: 2, total: 4, .. })));
        fill(&study, &mut manifest, &[1, 2]);
        let mut order = Vec::new();
        study
            .visit(&manifest, &names(), |rows| {
                order.extend(rows.rows.iter().map(|row| row.match_index));
                Ok(())
            })
            .unwrap();
        assert_eq!(order, [0, 0, 1, 1, 2, 2, 3, 3]);
        assert_eq!((manifest.blocks_done, manifest.matches_done), (4, 4));
    }

    #[test]
    fn a_part_cut_short_is_damaged_and_set_aside() {
        let folder = tempfile::tempdir().unwrap();
        let (study, mut manifest) = study(folder.path());
        fill(&study, &mut manifest, &[0, 1]);
        fill(&study, &mut manifest, &[3]);
        let part = study.parts().unwrap().remove(0);
        let bytes = fs::read(&part.path).unwrap();
        fs::write(&part.path, &bytes[..bytes.len() / 2]).unwrap();
        assert!(matches!(study.read_part(&part, &manifest, &names()), Err(LedgerError::DamagedPart { .. })));
        assert_eq!(study.changed_files(&manifest).len(), 1);
        assert_eq!(study.set_damaged_aside(&mut manifest, &names()).unwrap().len(), 1);
        assert_eq!(study.missing(4).unwrap(), vec![0..3]);
        assert_eq!(manifest.blocks_done, 1);
    }

    #[test]
    fn a_study_of_another_format_is_refused() {
        let folder = tempfile::tempdir().unwrap();
        let (study, mut manifest) = study(folder.path());
        manifest.format = ROW_FORMAT + 1;
        study.write_manifest(&manifest).unwrap();
        assert!(matches!(study.manifest(), Err(LedgerError::NewerFormat { .. })));
        manifest.format = ROW_FORMAT - 1;
        study.write_manifest(&manifest).unwrap();
        assert!(matches!(study.manifest(), Err(LedgerError::OlderFormat { .. })));
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
