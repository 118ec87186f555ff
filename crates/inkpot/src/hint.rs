//! Commands that the program suggests, as they can be typed.

use std::ffi::OsStr;
use std::path::{Path, PathBuf};
use std::sync::{PoisonError, RwLock};

/// The ledger of a command line that names none.
pub(crate) const LEDGER: &str = "ledger";

/// The ledger in use, where it is not the default one.
static IN_USE: RwLock<Option<String>> = RwLock::new(None);

/// From now on suggested commands work on this ledger.
pub(crate) fn use_ledger(folder: &Path) {
    let named = (folder != Path::new(LEDGER)).then(|| folder.display().to_string());
    *IN_USE.write().unwrap_or_else(PoisonError::into_inner) = named;
}

/// The name of the running program.
pub(crate) fn program() -> String {
    let path = std::env::args_os().next().map(PathBuf::from).unwrap_or_default();
    path.file_stem().and_then(OsStr::to_str).unwrap_or("inkpot").to_string()
}

/// A command of this program in backticks, quoted for a shell: `["resume", "birds"]`.
pub(crate) fn command<W: AsRef<str>>(words: impl IntoIterator<Item = W>) -> String {
    format!("`{}`", bare(words))
}

/// The same without backticks, for a column of its own.
pub(crate) fn bare<W: AsRef<str>>(words: impl IntoIterator<Item = W>) -> String {
    let mut line = quoted(&program());
    for word in words {
        line.push(' ');
        line.push_str(&quoted(word.as_ref()));
    }
    line
}

/// A command that works on studies: with the ledger that is in use.
pub(crate) fn on_ledger<W: AsRef<str>>(words: impl IntoIterator<Item = W>) -> String {
    format!("`{}`", bare_on_ledger(words))
}

/// The same without backticks.
pub(crate) fn bare_on_ledger<W: AsRef<str>>(words: impl IntoIterator<Item = W>) -> String {
    let ledger = IN_USE.read().unwrap_or_else(PoisonError::into_inner).clone();
    let option = ledger.iter().flat_map(|ledger| ["--ledger".to_string(), ledger.clone()]);
    bare(option.chain(words.into_iter().map(|word| word.as_ref().to_string())))
}

/// A word as a shell takes it.
fn quoted(word: &str) -> String {
    // Only a word with a zero byte cannot be quoted, and none reaches a command line.
    shlex::try_quote(word).map_or_else(|_| word.to_string(), std::borrow::Cow::into_owned)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_quoted_where_a_shell_would_take_them_apart() {
        assert_eq!(quoted("how-hard"), "how-hard");
        assert_eq!(quoted("my studies"), "'my studies'");
        assert_eq!(quoted("a;rm"), "'a;rm'");
        assert_eq!(quoted("it's"), "\"it's\"");
    }
}
