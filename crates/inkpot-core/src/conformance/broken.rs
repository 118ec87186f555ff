//! Violations of a promise, in words.

use std::fmt;

use crate::Knobs;

/// A promise that a game does not keep.
#[derive(Clone, PartialEq, Eq)]
pub struct Broken {
    pub(super) at: String,
    pub(super) what: String,
}

impl fmt::Display for Broken {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.at, self.what)
    }
}

/// The same words: a test that returns it prints it so.
impl fmt::Debug for Broken {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{self}")
    }
}

impl std::error::Error for Broken {}

/// Several errors as one.
pub(super) fn in_words(errors: &[impl fmt::Display]) -> String {
    errors.iter().map(ToString::to_string).collect::<Vec<_>>().join("; ")
}

/// Names the rules of a check, unless they are the defaults.
pub(super) fn under(rules: &Knobs) -> String {
    let values: Vec<String> = rules.iter().map(|(name, value)| format!("{name}={value}")).collect();
    if values.is_empty() { String::new() } else { format!(" under the rules {}", values.join(",")) }
}
