//! Standard output and standard error: results, and messages beside them.
//!
//! A reader that leaves early, as `head` does, ends no work and changes no exit code. What else goes wrong with
//! standard output is kept and fails the program at its end; nothing that goes wrong with standard error does.

use std::borrow::Cow;
use std::io::{self, Write};
use std::sync::OnceLock;

use inkpot_ledger::plainly;

/// Why results are no longer written.
static LOST: OnceLock<Loss> = OnceLock::new();

/// Why results are no longer written.
#[derive(Clone, Debug, PartialEq, Eq)]
enum Loss {
    /// The reader is gone.
    Unread,
    /// The terminal takes nothing: waiting would last for ever.
    Stalled,
    /// They cannot be written, for this reason.
    Failed(String),
}

/// Prints a line of results.
pub(crate) fn print(text: &str, color: bool) {
    if !is_lost() {
        keep(writeln!(io::stdout().lock(), "{}", shown(text.trim_end(), color)));
    }
}

/// Whether results are no longer written: making more of them is of no use.
pub(crate) fn is_lost() -> bool {
    LOST.get().is_some()
}

/// Writes nothing more, to standard error neither: they lead to a terminal that takes nothing.
pub(crate) fn give_up() {
    let _ = LOST.set(Loss::Stalled);
}

/// Says something beside the results.
pub(crate) fn say(text: &str, color: bool) {
    if LOST.get() == Some(&Loss::Stalled) {
        return;
    }
    let _ = writeln!(io::stderr().lock(), "{}", shown(text, color));
}

/// Writes the buffer. Returns the reason of lost results, if that is a failure.
pub(crate) fn close() -> Option<&'static str> {
    if LOST.get().is_none() {
        keep(io::stdout().lock().flush());
    }
    match LOST.get() {
        Some(Loss::Failed(why)) => Some(why),
        _ => None,
    }
}

/// Remembers the error of standard output.
pub(crate) fn keep(written: io::Result<()>) {
    if let Err(error) = written {
        let loss = match error.kind() {
            io::ErrorKind::BrokenPipe => Loss::Unread,
            _ => Loss::Failed(plainly(&error)),
        };
        let _ = LOST.set(loss);
    }
}

/// A text as a terminal may show it: control characters, which can come from files and paths, are escaped; only colours
/// stay, where they are wanted.
pub(crate) fn shown(text: &str, color: bool) -> Cow<'_, str> {
    let harmless = |c: char| !c.is_control() || c == '\n' || c == '\t';
    if text.chars().all(harmless) {
        return Cow::Borrowed(text);
    }
    let mut shown = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(c) = rest.chars().next() {
        let sequence = if color { color_sequence(rest) } else { 0 };
        if sequence > 0 {
            shown.push_str(&rest[..sequence]);
        } else if harmless(c) {
            shown.push(c);
        } else {
            shown.extend(c.escape_default());
        }
        rest = &rest[sequence.max(c.len_utf8())..];
    }
    Cow::Owned(shown)
}

/// Length of the colour sequence (`ESC [ digits and ; m`) that a text begins with; 0 if it begins with none.
fn color_sequence(text: &str) -> usize {
    let Some(rest) = text.strip_prefix("\x1b[") else { return 0 };
    let inner = rest.find(|c: char| !c.is_ascii_digit() && c != ';').unwrap_or(rest.len());
    if rest[inner..].starts_with('m') { 2 + inner + 1 } else { 0 }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn control_characters_are_escaped_and_colours_are_kept_where_wanted() {
        assert_eq!(shown("plain\n\tädä", false), "plain\n\tädä");
        assert_eq!(shown("a\x1b[2Jb\x07\r", true), "a\\u{1b}[2Jb\\u{7}\\r");
        assert_eq!(shown("\x1b[1;31merror\x1b[0m: a\x1b]0;b", true), "\x1b[1;31merror\x1b[0m: a\\u{1b}]0;b");
        assert_eq!(shown("\x1b[1mbold", false), "\\u{1b}[1mbold");
        assert_eq!(shown("\x1b[1", true), "\\u{1b}[1");
    }
}
