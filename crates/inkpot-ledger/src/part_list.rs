//! The list of a study's parts: a line for each, appended once its file is in place.
//!
//! A line has the part's first block, the one after its last, its matches, the SHA-256 of its file, and the beginning of
//! the SHA-256 of all that. A line that was cut short or changed is left out, and its part is then one that nobody knows.

use std::fs::{self, File};
use std::io::{self, Write};
use std::path::Path;

use crate::files::{checksum, sync_folder, write_whole};
use crate::part::Span;
use crate::step::{Step, step};

/// The file of the list.
pub(crate) const LIST: &str = "rows/parts.txt";
/// Digits of the checksum of a line.
const DIGITS: usize = 8;

/// A part in the list.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct ListedPart {
    pub(crate) span: Span,
    pub(crate) matches: u64,
    /// SHA-256 of its file.
    pub(crate) checksum: String,
}

impl ListedPart {
    fn line(&self) -> String {
        let text = format!("{} {} {} {}", self.span.start, self.span.end, self.matches, self.checksum);
        format!("{text} {}\n", &checksum(text.as_bytes())[..DIGITS])
    }

    fn read(line: &str) -> Option<Self> {
        let (text, seal) = line.rsplit_once(' ')?;
        if checksum(text.as_bytes())[..DIGITS] != *seal {
            return None;
        }
        let mut words = text.split(' ');
        let mut number = || words.next()?.parse::<u64>().ok();
        let (start, end, matches) = (number()?, number()?, number()?);
        Some(Self { span: start..end, matches, checksum: words.next()?.into() })
            .filter(|part| part.span.start < part.span.end)
    }
}

/// The parts that a list names; none where there is no list.
pub(crate) fn read(folder: &Path) -> io::Result<Option<Vec<ListedPart>>> {
    match fs::read(folder.join(LIST)) {
        Ok(bytes) => Ok(Some(String::from_utf8_lossy(&bytes).lines().filter_map(ListedPart::read).collect())),
        Err(error) if matches!(error.kind(), io::ErrorKind::NotFound | io::ErrorKind::NotADirectory) => Ok(None),
        Err(error) => Err(error),
    }
}

/// Adds a part at the end of a list without a line that was cut short.
pub(crate) fn append(folder: &Path, part: &ListedPart) -> io::Result<()> {
    let path = folder.join(LIST);
    step(Step::Append, &path)?;
    let is_new = !path.exists();
    let mut file = File::options().create(true).append(true).open(&path)?;
    file.write_all(part.line().as_bytes())?;
    file.sync_data()?;
    if is_new {
        sync_folder(path.parent().unwrap_or(folder));
    }
    step(Step::Appended, &path)
}

/// Writes the whole list anew.
pub(crate) fn write<'a>(folder: &Path, parts: impl Iterator<Item = &'a ListedPart>) -> io::Result<()> {
    let text: String = parts.map(ListedPart::line).collect();
    write_whole(&folder.join(LIST), text.as_bytes())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn part(start: u64) -> ListedPart {
        ListedPart { span: start..start + 3, matches: 6, checksum: checksum(&start.to_le_bytes()) }
    }

    fn listed(folder: &Path) -> Vec<u64> {
        read(folder).unwrap().unwrap_or_default().iter().map(|part| part.span.start).collect()
    }

    #[test]
    fn a_list_that_is_cut_anywhere_names_the_parts_before() {
        let folder = tempfile::tempdir().unwrap();
        fs::create_dir(folder.path().join("rows")).unwrap();
        assert_eq!(read(folder.path()).unwrap(), None);
        (0..4).for_each(|number| append(folder.path(), &part(3 * number)).unwrap());
        assert_eq!(listed(folder.path()), [0, 3, 6, 9]);
        let (path, whole) = (folder.path().join(LIST), fs::read(folder.path().join(LIST)).unwrap());
        // A line is whole without the line break behind it.
        let ends: Vec<usize> = (0..whole.len()).filter(|at| whole[*at] == b'\n').collect();
        for length in 0..whole.len() {
            fs::write(&path, &whole[..length]).unwrap();
            let expected = ends.iter().filter(|end| **end <= length).count();
            assert_eq!(listed(folder.path()).len(), expected, "{length} bytes");
        }
    }

    #[test]
    fn a_line_that_was_changed_is_left_out() {
        let folder = tempfile::tempdir().unwrap();
        fs::create_dir(folder.path().join("rows")).unwrap();
        (0..3).for_each(|number| append(folder.path(), &part(3 * number)).unwrap());
        let (path, whole) = (folder.path().join(LIST), fs::read(folder.path().join(LIST)).unwrap());
        for at in 0..whole.len() {
            let mut flipped = whole.clone();
            flipped[at] ^= 1;
            fs::write(&path, flipped).unwrap();
            let found = read(folder.path()).unwrap().unwrap();
            assert!(found.iter().all(|listed| *listed == part(listed.span.start)), "byte {at}: {found:?}");
        }
    }

    #[test]
    fn what_is_appended_after_a_line_that_was_cut_short_is_read() {
        let folder = tempfile::tempdir().unwrap();
        fs::create_dir(folder.path().join("rows")).unwrap();
        (0..2).for_each(|number| append(folder.path(), &part(3 * number)).unwrap());
        let path = folder.path().join(LIST);
        let whole = fs::read(&path).unwrap();
        fs::write(&path, &whole[..whole.len() - 5]).unwrap();
        write(folder.path(), read(folder.path()).unwrap().unwrap().iter()).unwrap();
        append(folder.path(), &part(30)).unwrap();
        assert_eq!(listed(folder.path()), [0, 30]);
    }
}
