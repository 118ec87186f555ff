//! Files that a user names: read whole, unless they are no files or are far too large.

use std::fs::File;
use std::io::{self, Read};
use std::path::Path;

use inkpot_ledger::plainly;

use crate::failure::Failure;
use crate::hint;

/// The most bytes of a brief, an agent, a pool or a level: a thousand times a usual file.
const MOST_BYTES: u64 = 8 << 20;
/// The most bytes of a file of weights: a table of some million positions.
const MOST_OF_WEIGHTS: u64 = 256 << 20;
/// The paths of a shell's pipes, which end by themselves.
const HANDED_OVER: [&str; 3] = ["/dev/fd/", "/dev/stdin", "/proc/self/fd/"];

/// The reason why a file is unusable, and the help.
pub(crate) struct Unread {
    /// The problem.
    pub what: String,
    /// The help; none for a file that may simply be absent.
    pub help: Option<&'static str>,
}

impl From<Unread> for Failure {
    fn from(unread: Unread) -> Self {
        let samples = || format!("check the path; {} makes a folder with sample briefs", hint::command(["new", "DIR"]));
        Self::wrong(unread.what, unread.help.map_or_else(samples, String::from))
    }
}

/// The text of a file. Errs where there is none, where it is no file (a folder, a named pipe, a device), where it is
/// larger than 8 MiB, and where it is not text.
pub(crate) fn text(path: &Path) -> Result<String, Failure> {
    let bytes = bytes(path)?;
    let wrong = |_| Failure::wrong(format!("{} is not text", path.display()), "give a file in UTF-8");
    String::from_utf8(bytes).map_err(wrong)
}

/// The bytes of a file. Errs as [`text`] does.
pub(crate) fn bytes(path: &Path) -> Result<Vec<u8>, Failure> {
    Ok(whole(path, MOST_BYTES)?)
}

/// The bytes of a file of weights. Errs as [`text`] does, beyond 256 MiB.
pub(crate) fn weights(path: &Path) -> Result<Vec<u8>, Unread> {
    whole(path, MOST_OF_WEIGHTS)
}

/// The bytes of a file that has at most so many.
fn whole(path: &Path, most: u64) -> Result<Vec<u8>, Unread> {
    let unread =
        |error: io::Error| Unread { what: format!("cannot read {}: {}", path.display(), plainly(&error)), help: None };
    let is_handed_over =
        HANDED_OVER.iter().any(|place| path.starts_with(place) || path.to_string_lossy().starts_with(place));
    let kind = path.metadata().map_err(unread)?.file_type();
    if kind.is_dir() {
        return Err(unread(io::Error::from(io::ErrorKind::IsADirectory)));
    }
    if !kind.is_file() && !is_handed_over {
        let what = format!("{} is not a file", path.display());
        return Err(Unread { what, help: Some("give a file, not a named pipe or a device") });
    }
    let mut bytes = Vec::new();
    File::open(path).and_then(|file| file.take(most + 1).read_to_end(&mut bytes)).map_err(unread)?;
    if bytes.len() as u64 > most {
        let what = format!("{} is larger than {} MiB", path.display(), most >> 20);
        return Err(Unread { what, help: Some("give another file: nothing that Inkpot reads there is as large") });
    }
    Ok(bytes)
}
