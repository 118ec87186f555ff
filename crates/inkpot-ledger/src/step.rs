//! The steps of writing a study, where tests let the process die or the disk fill.
//!
//! With the feature `steps`, which only tests turn on, `INKPOT_STEP` says at which step what happens: `die:7` ends the
//! process at the seventh, `full:7` finds the disk full there. `INKPOT_STEP_LOG` names a file that gets a line for
//! each, and `INKPOT_PART_ROWS` cuts parts after this many rows.

use std::io;
use std::path::Path;

/// A step of writing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Step {
    /// A file is about to be written aside.
    Write,
    /// A file written aside is about to be renamed.
    Rename,
    /// It was renamed.
    Renamed,
    /// A line is about to be appended.
    Append,
    /// It was appended.
    Appended,
    /// Something is about to be removed.
    Remove,
}

/// Says that a step is being taken on a path.
#[cfg(not(feature = "steps"))]
#[expect(clippy::unnecessary_wraps, reason = "a test makes it fail")]
pub(crate) fn step(_step: Step, _path: &Path) -> io::Result<()> {
    Ok(())
}

/// Rows after which a part is written.
#[cfg(not(feature = "steps"))]
pub(crate) fn rows_a_part(usual: usize) -> usize {
    usual
}

/// Rows after which a part is written.
#[cfg(feature = "steps")]
pub(crate) fn rows_a_part(usual: usize) -> usize {
    std::env::var("INKPOT_PART_ROWS").ok().and_then(|rows| rows.parse().ok()).unwrap_or(usual)
}

/// Says that a step is being taken on a path.
#[cfg(feature = "steps")]
pub(crate) fn step(step: Step, path: &Path) -> io::Result<()> {
    use std::io::Write;
    use std::sync::atomic::{AtomicU64, Ordering};
    static TAKEN: AtomicU64 = AtomicU64::new(0);

    let number = TAKEN.fetch_add(1, Ordering::Relaxed) + 1;
    if let Ok(file) = std::env::var("INKPOT_STEP_LOG") {
        let mut log = std::fs::File::options().create(true).append(true).open(file)?;
        writeln!(log, "{number} {step:?} {}", path.display())?;
    }
    let setting = std::env::var("INKPOT_STEP").unwrap_or_default();
    match setting.split_once(':') {
        Some(("die", at)) if at.parse() == Ok(number) => std::process::abort(),
        Some(("full", at)) if at.parse() == Ok(number) => Err(io::ErrorKind::StorageFull.into()),
        _ => Ok(()),
    }
}
