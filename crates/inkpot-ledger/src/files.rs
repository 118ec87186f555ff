//! Files that appear whole: written aside, synced, renamed.

use std::fs::{self, File};
use std::io::Write;
use std::path::Path;

use sha2::{Digest, Sha256};

use crate::LedgerError;

/// Puts `bytes` at `path` so that a reader, or a crash, sees all of them or the file as it was.
pub(crate) fn write_whole(path: &Path, bytes: &[u8]) -> Result<(), LedgerError> {
    let folder = path.parent().unwrap_or(Path::new("."));
    fs::create_dir_all(folder).map_err(LedgerError::io("create", folder))?;
    let aside = path.with_extension(format!("{}.aside", path.extension().unwrap_or_default().to_string_lossy()));
    let mut file = File::create(&aside).map_err(LedgerError::io("write", &aside))?;
    file.write_all(bytes).and_then(|()| file.sync_all()).map_err(LedgerError::io("write", &aside))?;
    fs::rename(&aside, path).map_err(LedgerError::io("write", path))?;
    // A rename is kept by a power cut only once its folder is synced; not every file system lets a folder be opened.
    if let Ok(folder) = File::open(folder) {
        let _ = folder.sync_all();
    }
    Ok(())
}

/// SHA-256 in lower-case hexadecimal.
pub(crate) fn checksum(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().fold(String::with_capacity(64), |mut text, byte| {
        for nibble in [byte >> 4, byte & 15] {
            text.push(char::from_digit(u32::from(nibble), 16).expect("a nibble is a hexadecimal digit"));
        }
        text
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn checksum_of_nothing_is_the_published_one() {
        assert_eq!(checksum(b""), "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855");
    }

    #[test]
    fn writing_replaces_and_leaves_nothing_aside() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a/b.json");
        for text in ["one", "two"] {
            write_whole(&path, text.as_bytes()).unwrap();
            assert_eq!(fs::read_to_string(&path).unwrap(), text);
        }
        assert_eq!(fs::read_dir(folder.path().join("a")).unwrap().count(), 1);
    }
}
