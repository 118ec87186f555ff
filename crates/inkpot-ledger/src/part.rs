//! Part files: each holds the rows of a run of blocks.

use std::ops::Range;
use std::path::{Path, PathBuf};

use inkpot_core::Rows;

/// A run of blocks, numbered through the whole study (cell by cell, block by block).
pub type Span = Range<u64>;

/// Folder of the part files in a study.
pub(crate) const FOLDER: &str = "rows";

/// One part file, known by its name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Part {
    /// The blocks it covers.
    pub span: Span,
    /// The path of the part.
    pub path: PathBuf,
}

impl Part {
    pub(crate) fn file_name(span: &Span) -> String {
        format!("{FOLDER}/blocks-{:012}-{:012}.parquet", span.start, span.end)
    }

    /// Whether these are the rows of its blocks: this many matches for each, numbered through the study.
    pub(crate) fn holds(&self, rows: &Rows) -> bool {
        let (blocks, matches) = (self.span.end - self.span.start, rows.matches().count() as u64);
        let first = self.span.start * (matches / blocks);
        let mut numbers = rows.matches().map(|played| played.seats()[0].match_index);
        matches > 0
            && matches.is_multiple_of(blocks)
            && (first..first + matches).all(|number| numbers.next() == Some(number))
    }

    /// Reads the span off a file's name; none if it is no part.
    pub(crate) fn at(path: &Path) -> Option<Self> {
        let name = path.file_name()?.to_str()?.strip_prefix("blocks-")?.strip_suffix(".parquet")?;
        let (start, end) = name.split_once('-')?;
        let span = start.parse().ok()?..end.parse().ok()?;
        (span.start < span.end).then(|| Self { span, path: path.to_path_buf() })
    }
}

/// The spans of `0..total` that no part covers.
pub(crate) fn gaps(parts: &[Part], total: u64) -> Vec<Span> {
    let mut gaps = Vec::new();
    let mut next = 0;
    for part in parts.iter().filter(|part| part.span.start < total) {
        if part.span.start > next {
            gaps.push(next..part.span.start);
        }
        next = next.max(part.span.end);
    }
    if next < total {
        gaps.push(next..total);
    }
    gaps
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn gaps_are_what_no_part_covers() {
        let part = |span| Part { span, path: PathBuf::new() };
        assert_eq!(gaps(&[], 5), vec![0..5]);
        assert_eq!(gaps(&[part(0..2), part(4..5)], 9), [2..4, 5..9]);
        assert_eq!(gaps(&[part(0..9)], 9), []);
        assert_eq!(gaps(&[part(0..3), part(5..9)], 3), [], "what comes after is none of it");
        assert_eq!(gaps(&[part(0..3), part(5..9)], 5), std::slice::from_ref(&(3..5)));
    }

    #[test]
    fn a_part_is_known_by_its_name() {
        let name = Part::file_name(&(7..19));
        assert_eq!(Part::at(Path::new(&name)).map(|part| part.span), Some(7..19));
        for other in ["rows/blocks-7-x.parquet", "rows/blocks-000009-000003.parquet", "rows/notes.txt"] {
            assert_eq!(Part::at(Path::new(other)), None);
        }
    }
}
