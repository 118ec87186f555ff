//! Files that are asked for by their path: each appears whole, or stays as it was.

use std::fs::File;
use std::path::Path;

use inkpot_ledger::{WholeFile, write_whole};

use crate::failure::Failure;

/// Writes a file; folders that are missing are made, a symbolic link is followed, a device or pipe is written directly.
pub(crate) fn write(path: &Path, bytes: impl AsRef<[u8]>) -> Result<(), Failure> {
    write_whole(path, bytes.as_ref()).map_err(|error| Failure::file("write", path, &error))
}

/// The same for a file that is written bit by bit, and is there once it is finished.
pub(crate) fn begin(path: &Path) -> Result<WholeFile, Failure> {
    WholeFile::at(path).map_err(|error| Failure::file("write", path, &error))
}

/// Locks a file for a read, change and write by this process alone, as long as the result is kept. The lock is a file
/// beside it, since the file itself is replaced.
pub(crate) fn alone(path: &Path) -> Result<File, Failure> {
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    let beside = path.with_file_name(format!(".{name}.lock"));
    let failed = |error| Failure::file("lock", path, &error);
    if beside.symlink_metadata().is_ok_and(|there| there.is_symlink()) {
        return Err(Failure::Failed(format!("{} is a symbolic link\n  help: remove it", beside.display())));
    }
    let lock = File::options().create(true).truncate(false).write(true).open(&beside).map_err(failed)?;
    lock.lock().map_err(failed)?;
    Ok(lock)
}
