//! The rows of a study: their parts, missing blocks, and adopted parts.

use std::fs;
use std::io;
use std::path::Path;

use inkpot_core::Rows;

use crate::codec::{Columns, decode};
use crate::files::{checksum, sweep};
use crate::part::{FOLDER, Part, Span, gaps};
use crate::part_list::{self, LIST, ListedPart};
use crate::study::{CHANGED, MISSING};
use crate::{LedgerError, Manifest, ROW_FORMAT, Study};

const OTHER_BLOCKS: &str = "its rows are not those of the blocks in its name";

impl Study {
    /// Stores the rows of a part, and adds it to the list.
    pub(crate) fn add_part(
        &self,
        manifest: &mut Manifest,
        span: Span,
        matches: u64,
        bytes: &[u8],
    ) -> Result<(), LedgerError> {
        self.open_list(manifest)?;
        self.write(&Part::file_name(&span), bytes)?;
        let part = ListedPart { span, matches, checksum: checksum(bytes) };
        let path = self.folder().join(LIST);
        part_list::append(self.folder(), &part).map_err(LedgerError::io("write", &path))?;
        manifest.blocks_done += part.span.end - part.span.start;
        manifest.matches_done += part.matches;
        manifest.parts.insert(part.span.start, part);
        Ok(())
    }

    /// Lets the list be changed: the manifest no longer vouches for it, and says that there is one, so that a version of
    /// the program which knows no list refuses the study and plays nothing again.
    fn open_list(&self, manifest: &mut Manifest) -> Result<(), LedgerError> {
        let is_older = std::mem::replace(&mut manifest.format, ROW_FORMAT) < ROW_FORMAT;
        if manifest.files.remove(LIST).is_some() || is_older { self.write_manifest(manifest) } else { Ok(()) }
    }

    /// Writes the list of parts anew.
    fn write_list(&self, manifest: &mut Manifest) -> Result<(), LedgerError> {
        let path = self.folder().join(LIST);
        if manifest.parts.is_empty() && !path.exists() {
            return Ok(());
        }
        self.open_list(manifest)?;
        part_list::write(self.folder(), manifest.parts.values()).map_err(LedgerError::io("write", &path))?;
        let before = manifest.files.len();
        manifest.files.retain(|name, _| Part::at(Path::new(name)).is_none());
        if manifest.files.len() < before { self.write_manifest(manifest) } else { Ok(()) }
    }

    /// Takes in a part that was played elsewhere: a file of rows under a name that says their blocks. Gives the blocks.
    /// Errs where the file is damaged, has other blocks than its name says or than the study has, or holds blocks that
    /// are stored already; the study is then as it was.
    pub fn adopt(&self, manifest: &mut Manifest, measures: &[String], file: &Path) -> Result<Span, LedgerError> {
        let refused =
            |why: String| LedgerError::NotAdopted { file: file.to_path_buf(), study: self.name().into(), why };
        let part = Part::at(file).ok_or_else(|| refused("its name says no blocks".into()))?;
        let span = part.span.clone();
        if span.end > manifest.blocks {
            return Err(refused(format!("it goes to block {}, and the study has {}", span.end, manifest.blocks)));
        }
        if manifest.parts.range(..span.end).next_back().is_some_and(|(_, last)| last.span.end > span.start) {
            return Err(refused("some of its blocks are stored already".into()));
        }
        let bytes = fs::read(file).map_err(LedgerError::io("read", file))?;
        let rows = decode(bytes.clone(), measures, None).map_err(refused)?;
        if !part.holds(&rows) {
            return Err(refused(OTHER_BLOCKS.into()));
        }
        self.add_part(manifest, span.clone(), rows.matches().count() as u64, &bytes)?;
        Ok(span)
    }

    /// The part files that are listed, in order of their blocks.
    pub fn parts(&self, manifest: &Manifest) -> Vec<Part> {
        let part = |listed: &ListedPart| Part {
            path: self.folder().join(Part::file_name(&listed.span)),
            span: listed.span.clone(),
        };
        manifest.parts.values().map(part).collect()
    }

    /// Names of part files that are not listed: a process died between writing one and saying so.
    pub fn strays(&self, manifest: &Manifest) -> Result<Vec<String>, LedgerError> {
        let folder = self.folder().join(FOLDER);
        if !folder.exists() {
            return Ok(Vec::new());
        }
        let entries = fs::read_dir(&folder).map_err(LedgerError::io("read", &folder))?;
        let parts = entries.flatten().filter_map(|entry| Part::at(&entry.path()));
        let is_listed = |span: &Span| manifest.parts.get(&span.start).is_some_and(|listed| listed.span == *span);
        let mut names: Vec<String> =
            parts.filter(|part| !is_listed(&part.span)).map(|part| Part::file_name(&part.span)).collect();
        names.sort();
        Ok(names)
    }

    /// Reads a part and checks it against its checksum in the list.
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
            study: self.name().into(),
            file: part.path.strip_prefix(self.folder()).unwrap_or(&part.path).to_path_buf(),
            why: why.into(),
        };
        let bytes = match fs::read(&part.path) {
            Ok(bytes) => bytes,
            Err(error) if error.kind() == io::ErrorKind::NotFound => return Err(damaged(MISSING)),
            Err(error) => return Err(LedgerError::io("read", &part.path)(error)),
        };
        let listed = manifest.parts.get(&part.span.start).filter(|listed| listed.span == part.span);
        if listed.is_none_or(|listed| listed.checksum != checksum(&bytes)) {
            return Err(damaged(CHANGED));
        }
        let rows = decode(bytes, measures, only).map_err(|why| damaged(&why))?;
        if only.is_none() && !part.holds(&rows) {
            return Err(damaged(OTHER_BLOCKS));
        }
        Ok(rows)
    }

    /// The blocks of `0..total` that are not stored.
    pub fn missing(&self, manifest: &Manifest, total: u64) -> Vec<Span> {
        gaps(&self.parts(manifest), total)
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
        let missing: u64 = self
            .missing(manifest, stretch.end)
            .iter()
            .map(|gap| gap.end.saturating_sub(gap.start.max(stretch.start)))
            .sum();
        if missing > 0 {
            return Err(LedgerError::Incomplete { study: self.name().into(), missing, total: manifest.blocks });
        }
        let touched = |part: &Part| part.span.start < stretch.end && part.span.end > stretch.start;
        for part in self.parts(manifest).iter().filter(|part| touched(part)) {
            visit(&self.read_columns(part, manifest, measures, only)?)?;
        }
        Ok(())
    }

    /// Removes the parts that begin at this block or later, so that no gap remains before the end.
    pub fn cut(&self, manifest: &mut Manifest, from: u64) -> Result<(), LedgerError> {
        let cut: Vec<Part> = self.parts(manifest).into_iter().filter(|part| part.span.start >= from).collect();
        if cut.is_empty() {
            return Ok(());
        }
        // The list first: a file that it does not know is a stray, one that it misses would be damage.
        manifest.parts.retain(|start, _| *start < from);
        manifest.count();
        self.write_list(manifest)?;
        cut.iter().try_for_each(|part| self.discard(&Part::file_name(&part.span)))
    }

    /// Reduces a study in use to its trustworthy parts: leftovers of dead processes and unlisted parts are removed,
    /// damaged parts are set aside (their bytes under another name) or, if missing, forgotten. Their blocks count as
    /// missing. Returns the names of the damaged parts.
    pub fn mend(&self, manifest: &mut Manifest, measures: &[String]) -> Result<Vec<String>, LedgerError> {
        // Not the figures: they may be drawn just now.
        for folder in ["", FOLDER, "checkpoints"] {
            sweep(&self.folder().join(folder));
        }
        for name in self.strays(manifest)? {
            tracing::debug!(name, "a part that is not listed is removed");
            self.discard(&name)?;
        }
        let mut damaged = Vec::new();
        for part in self.parts(manifest) {
            let name = Part::file_name(&part.span);
            match self.read_part(&part, manifest, measures) {
                Ok(rows) => {
                    if let Some(listed) = manifest.parts.get_mut(&part.span.start) {
                        listed.matches = rows.matches().count() as u64;
                    }
                }
                Err(LedgerError::DamagedPart { .. }) => {
                    self.set_aside(&name)?;
                    manifest.parts.remove(&part.span.start);
                    damaged.push(name);
                }
                Err(other) => return Err(other),
            }
        }
        manifest.count();
        // What is appended must not follow half a line.
        self.write_list(manifest)?;
        Ok(damaged)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::codec::tests::names;
    use crate::manifest::OLDEST_FORMAT;
    use crate::study::tests::{fill, study};

    #[test]
    fn missing_blocks_are_named_until_all_are_there() {
        let folder = tempfile::tempdir().unwrap();
        let (study, mut manifest) = study(folder.path());
        fill(&study, &mut manifest, &[0, 3]);
        assert_eq!(study.missing(&manifest, 4), vec![1..3]);
        let visited = study.visit(&manifest, &names(), |_| Ok(()));
        assert!(matches!(visited, Err(LedgerError::Incomplete { missing: 2, total: 4, .. })));
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
        let part = study.parts(&manifest).remove(0);
        let bytes = fs::read(&part.path).unwrap();
        fs::write(&part.path, &bytes[..bytes.len() / 2]).unwrap();
        assert!(matches!(study.read_part(&part, &manifest, &names()), Err(LedgerError::DamagedPart { .. })));
        assert_eq!(study.changed_files(&manifest).len(), 1);
        assert_eq!(study.mend(&mut manifest, &names()).unwrap().len(), 1);
        assert_eq!(study.missing(&manifest, 4), vec![0..3]);
        assert_eq!(manifest.blocks_done, 1);
    }

    #[test]
    fn a_part_that_is_not_listed_is_played_again() {
        let folder = tempfile::tempdir().unwrap();
        let (study, mut manifest) = study(folder.path());
        fill(&study, &mut manifest, &[0, 1]);
        let before = fs::read(study.folder().join(LIST)).unwrap();
        fill(&study, &mut manifest, &[2, 3]);
        fs::write(study.folder().join(LIST), before).unwrap();
        let mut manifest = study.manifest().unwrap();
        assert_eq!(study.strays(&manifest).unwrap().len(), 1);
        assert_eq!(study.missing(&manifest, 4), vec![2..4]);
        assert_eq!(study.mend(&mut manifest, &names()).unwrap(), Vec::<String>::new());
        assert_eq!(study.strays(&manifest).unwrap().len(), 0);
    }

    #[test]
    fn a_part_under_the_name_of_another_is_damaged() {
        let folder = tempfile::tempdir().unwrap();
        let (study, mut manifest) = study(folder.path());
        fill(&study, &mut manifest, &[0]);
        let part = study.parts(&manifest).remove(0);
        let moved = Part { span: 1..2, path: study.folder().join(Part::file_name(&(1..2))) };
        fs::rename(&part.path, &moved.path).unwrap();
        let listed = manifest.parts.remove(&0).unwrap();
        manifest.parts.insert(1, ListedPart { span: moved.span.clone(), ..listed });
        let message = study.read_part(&moved, &manifest, &names()).unwrap_err().to_string();
        assert!(message.contains("not those of the blocks in its name"), "{message}");
    }

    #[test]
    fn parts_of_the_first_releases_stand_in_the_manifest_until_the_study_is_gone_on_with() {
        let folder = tempfile::tempdir().unwrap();
        let (study, mut manifest) = study(folder.path());
        fill(&study, &mut manifest, &[0, 1]);
        let name = Part::file_name(&(0..2));
        manifest.files.insert(name.clone(), manifest.parts[&0].checksum.clone());
        manifest.format = OLDEST_FORMAT;
        study.write_manifest(&manifest).unwrap();
        fs::remove_file(study.folder().join(LIST)).unwrap();
        let mut manifest = study.manifest().unwrap();
        assert_eq!((study.missing(&manifest, 3).len(), manifest.blocks_done), (1, 2));
        assert_eq!((study.strays(&manifest).unwrap().len(), study.changed_files(&manifest).len()), (0, 0));
        assert_eq!(study.mend(&mut manifest, &names()).unwrap(), Vec::<String>::new());
        let manifest = study.manifest().unwrap();
        assert!(!manifest.files.contains_key(&name) && study.folder().join(LIST).exists());
        assert_eq!(manifest.format, ROW_FORMAT, "an older program refuses it from now on");
        assert_eq!((study.missing(&manifest, 3).len(), manifest.matches_done), (1, 2));
    }

    /// A study of its own with these blocks, and the file of its first part.
    fn elsewhere(folder: &Path, blocks: &[u64]) -> std::path::PathBuf {
        let (study, mut manifest) = study(folder);
        fill(&study, &mut manifest, blocks);
        study.parts(&manifest)[0].path.clone()
    }

    #[test]
    fn a_part_that_was_played_elsewhere_completes_a_study() {
        let [here, there] = [tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap()];
        let (study, mut manifest) = study(here.path());
        fill(&study, &mut manifest, &[0, 3]);
        let file = elsewhere(there.path(), &[1, 2]);
        assert_eq!(study.adopt(&mut manifest, &names(), &file).unwrap(), 1..3);
        assert_eq!(study.missing(&manifest, 4), []);
        let mut manifest = study.manifest().unwrap();
        assert_eq!((manifest.blocks_done, manifest.matches_done), (4, 4));
        assert_eq!(study.mend(&mut manifest, &names()).unwrap(), Vec::<String>::new(), "it is as sound as its own");
    }

    #[test]
    fn a_part_that_does_not_fit_is_refused_and_the_study_stays_as_it_was() {
        let [here, there] = [tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap()];
        let (study, mut manifest) = study(here.path());
        fill(&study, &mut manifest, &[1, 2]);
        let file = elsewhere(there.path(), &[0, 1]);
        let before = study.manifest().unwrap();
        let mut refused = |file: &Path| study.adopt(&mut manifest, &names(), file).unwrap_err().to_string();
        assert!(refused(&file).contains("stored already"), "one of its blocks is here");
        let moved = |name: &str| {
            fs::copy(&file, file.with_file_name(name)).unwrap();
            file.with_file_name(name)
        };
        assert!(refused(&moved("rows.parquet")).contains("no blocks"));
        assert!(refused(&moved("blocks-3-5.parquet")).contains("block 5"));
        assert!(refused(&moved("blocks-3-4.parquet")).contains("not those of the blocks"));
        let bytes = fs::read(&file).unwrap();
        let cut = file.with_file_name("blocks-0-1.parquet");
        fs::write(&cut, &bytes[..bytes.len() / 2]).unwrap();
        refused(&cut);
        assert_eq!(study.manifest().unwrap(), before);
    }
}
