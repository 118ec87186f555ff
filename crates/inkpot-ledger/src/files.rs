//! Files that appear whole: written aside, synced, renamed.

use std::fs::{self, File, Permissions};
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use sha2::{Digest, Sha256};
use tempfile::{Builder, NamedTempFile};

use crate::step::{Step, step};

/// The ending of a file that is written aside.
const ASIDE: &str = ".aside";
/// Symbolic links that are followed one after the other.
const MOST_LINKS: usize = 40;

/// A file that appears completely or not at all: a reader, or a crash, sees the new file or the old one. Devices and
/// pipes are written directly; a symbolic link is followed.
#[derive(Debug)]
pub struct WholeFile(Into);

#[derive(Debug)]
enum Into {
    Direct(File),
    Aside { file: NamedTempFile, target: PathBuf },
}

impl WholeFile {
    /// A file to be written at `path`; folders that are missing are made. Errs when it cannot be written there.
    pub fn at(path: &Path) -> io::Result<Self> {
        let target = followed(path)?;
        let there = fs::metadata(&target).ok();
        if there.as_ref().is_some_and(|there| !there.is_file()) {
            return Ok(Self(Into::Direct(File::options().write(true).open(&target)?)));
        }
        if there.as_ref().is_some_and(|there| there.permissions().readonly()) {
            return Err(io::ErrorKind::PermissionDenied.into());
        }
        let folder = folder_of(&target);
        fs::create_dir_all(folder)?;
        step(Step::Write, &target)?;
        let name = target.file_name().unwrap_or_default().to_string_lossy();
        let (prefix, there) = (format!(".{name}."), there.map(|there| there.permissions()));
        let mut builder = Builder::new();
        builder.prefix(&prefix).suffix(ASIDE);
        if let Some(permissions) = there.or(usual_permissions(0o666)) {
            builder.permissions(permissions);
        }
        Ok(Self(Into::Aside { file: builder.tempfile_in(folder)?, target }))
    }

    /// Puts the file in its place. Errs when that fails; the file before is then as it was.
    pub fn finish(self) -> io::Result<()> {
        match self.0 {
            Into::Direct(mut file) => file.flush(),
            Into::Aside { file, target } => {
                file.as_file().sync_all()?;
                step(Step::Rename, &target)?;
                file.persist(&target).map_err(|error| error.error)?;
                step(Step::Renamed, &target)?;
                sync_folder(folder_of(&target));
                Ok(())
            }
        }
    }
}

impl Write for WholeFile {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        match &mut self.0 {
            Into::Direct(file) => file.write(bytes),
            Into::Aside { file, .. } => file.write(bytes),
        }
    }

    fn flush(&mut self) -> io::Result<()> {
        match &mut self.0 {
            Into::Direct(file) => file.flush(),
            Into::Aside { file, .. } => file.flush(),
        }
    }
}

/// Puts `bytes` at `path` as a [`WholeFile`].
pub fn write_whole(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let mut file = WholeFile::at(path)?;
    file.write_all(bytes)?;
    file.finish()
}

/// A rename is kept by a power cut only once its folder is synced; not every file system lets a folder be opened.
pub(crate) fn sync_folder(folder: &Path) {
    if let Ok(folder) = File::open(folder) {
        let _ = folder.sync_all();
    }
}

/// Removes files that a killed writer left aside in this folder. Call it only when nobody writes there.
pub(crate) fn sweep(folder: &Path) {
    for entry in fs::read_dir(folder).into_iter().flatten().flatten() {
        if entry.file_name().to_string_lossy().ends_with(ASIDE) {
            let _ = fs::remove_file(entry.path());
        }
    }
}

fn folder_of(path: &Path) -> &Path {
    path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."))
}

/// Returns the target of a path, whether or not the file exists.
fn followed(path: &Path) -> io::Result<PathBuf> {
    let mut path = path.to_path_buf();
    for _ in 0..MOST_LINKS {
        // A pipe or device behind a link (`/dev/stdout`) has no path of its own.
        if fs::metadata(&path).is_ok_and(|there| !there.is_file()) {
            return Ok(path);
        }
        match fs::symlink_metadata(&path) {
            Ok(there) if there.is_symlink() => path = folder_of(&path).join(fs::read_link(&path)?),
            _ => return Ok(path),
        }
    }
    Err(io::Error::other("it is a symbolic link that leads round in a circle"))
}

/// Returns the permissions of a new file or folder, before the system's mask; none on systems without such numbers.
#[cfg_attr(unix, expect(clippy::unnecessary_wraps, reason = "elsewhere there are none"))]
pub(crate) fn usual_permissions(mode: u32) -> Option<Permissions> {
    #[cfg(unix)]
    return Some(std::os::unix::fs::PermissionsExt::from_mode(mode));
    #[cfg(not(unix))]
    {
        let _ = mode;
        None
    }
}

/// SHA-256 in lower-case hexadecimal.
pub fn checksum(bytes: &[u8]) -> String {
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

    #[test]
    fn what_is_not_finished_leaves_the_file_as_it_was() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("b.json");
        write_whole(&path, b"one").unwrap();
        let (mut first, mut second) = (WholeFile::at(&path).unwrap(), WholeFile::at(&path).unwrap());
        first.write_all(b"half of").unwrap();
        second.write_all(b"two").unwrap();
        drop(first);
        assert_eq!(fs::read(&path).unwrap(), b"one");
        second.finish().unwrap();
        assert_eq!(fs::read(&path).unwrap(), b"two");
        assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 1);
    }

    #[cfg(unix)]
    #[test]
    fn links_are_followed_and_modes_are_kept() {
        use std::os::unix::fs::{PermissionsExt, symlink};
        let folder = tempfile::tempdir().unwrap();
        let (file, link, lost) = (folder.path().join("own"), folder.path().join("link"), folder.path().join("lost"));
        write_whole(&file, b"one").unwrap();
        fs::set_permissions(&file, Permissions::from_mode(0o640)).unwrap();
        symlink("own", &link).unwrap();
        write_whole(&link, b"two").unwrap();
        assert_eq!(fs::read(&file).unwrap(), b"two");
        assert!(fs::symlink_metadata(&link).unwrap().is_symlink());
        assert_eq!(fs::metadata(&file).unwrap().permissions().mode() & 0o777, 0o640);
        symlink("sub/new", &lost).unwrap();
        write_whole(&lost, b"three").unwrap();
        assert_eq!(fs::read(folder.path().join("sub/new")).unwrap(), b"three");
        symlink("round", folder.path().join("round")).unwrap();
        assert!(write_whole(&folder.path().join("round"), b"").unwrap_err().to_string().contains("round in a circle"));
        // A file below /dev is a file like any other.
        if let Ok(shared) = tempfile::tempdir_in("/dev/shm") {
            write_whole(&shared.path().join("file"), b"new").unwrap();
            assert_eq!(fs::read(shared.path().join("file")).unwrap(), b"new");
        }
        write_whole(Path::new("/dev/null"), b"gone").unwrap();
        assert!(!fs::metadata("/dev/null").unwrap().is_file());
    }
}
