//! Files that a user names: read whole, unless they are no files or are far too large.

use std::fs::File;
use std::io::{self, Read};
use std::path::Path;

use crate::failure::Failure;

/// The most bytes of a brief, an agent, a pool or a level: a thousand times what such a file has.
const MOST_BYTES: u64 = 8 << 20;
/// Where a shell puts what it hands over by a pipe, which ends by itself.
const HANDED_OVER: [&str; 3] = ["/dev/fd/", "/dev/stdin", "/proc/self/fd/"];

/// The text of a file. Errs where there is none, where it is no file (a folder, a named pipe, a device), where it is
/// larger than 8 MiB, and where it is not text.
pub(crate) fn text(path: &Path) -> Result<String, Failure> {
    let bytes = bytes(path)?;
    let wrong = |_| Failure::wrong(format!("{} is not text", path.display()), "give a file in UTF-8");
    String::from_utf8(bytes).map_err(wrong)
}

/// The bytes of a file. Errs as [`text`] does.
pub(crate) fn bytes(path: &Path) -> Result<Vec<u8>, Failure> {
    let unread = |error: io::Error| Failure::file("read", path, &error);
    let is_handed_over =
        HANDED_OVER.iter().any(|place| path.starts_with(place) || path.to_string_lossy().starts_with(place));
    let kind = path.metadata().map_err(unread)?.file_type();
    if kind.is_dir() {
        return Err(unread(io::Error::from(io::ErrorKind::IsADirectory)));
    }
    if !kind.is_file() && !is_handed_over {
        return Err(Failure::wrong(
            format!("{} is not a file", path.display()),
            "give a file, not a named pipe or a device",
        ));
    }
    let mut bytes = Vec::new();
    File::open(path).and_then(|file| file.take(MOST_BYTES + 1).read_to_end(&mut bytes)).map_err(unread)?;
    if bytes.len() as u64 > MOST_BYTES {
        let what = format!("{} is larger than {} MiB", path.display(), MOST_BYTES >> 20);
        return Err(Failure::wrong(what, "give another file: nothing that Inkpot reads there is as large"));
    }
    Ok(bytes)
}
