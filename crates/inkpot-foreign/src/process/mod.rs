//! Processes that answer lines with lines, within limits.

#[cfg(not(unix))]
mod elsewhere;
#[cfg(unix)]
mod unix;

use std::io;
use std::path::Path;
use std::time::Duration;

use thiserror::Error;

#[cfg(not(unix))]
pub(crate) use elsewhere::Process;
#[cfg(unix)]
pub(crate) use unix::Process;

/// The command of a process.
#[derive(Clone, Debug)]
pub(crate) struct Program {
    /// The program and its arguments.
    pub(crate) command: Vec<String>,
    /// The folder in which it runs.
    pub(crate) folder: Box<Path>,
    /// Environment variables to pass on besides `PATH`.
    pub(crate) environment: Vec<String>,
    /// The longest time until an answer.
    pub(crate) patience: Duration,
    /// The largest answer in bytes.
    pub(crate) most_bytes: u64,
}

/// The reason why a process gave no answer.
#[derive(Debug, Error)]
pub(crate) enum NoAnswer {
    /// It could not be started.
    #[error("`{command}` cannot be started: {error}")]
    Start { command: String, error: io::Error },
    /// It took too long.
    #[error("`{command}` gave no answer within {seconds} s{words}")]
    TooLate { command: String, seconds: f64, words: String },
    /// It closed its output, or ended.
    #[error("`{command}` ended without an answer{words}")]
    Ended { command: String, words: String },
    /// It wrote a line that nobody asked for.
    #[error("`{command}` wrote more than one line for a request")]
    Unasked { command: String },
    /// Its answer is too long.
    #[error("the answer of `{command}` is longer than {kib} KiB")]
    TooLong { command: String, kib: u64 },
    /// Its answer is no text.
    #[error("the answer of `{command}` is not text in UTF-8")]
    NoText { command: String },
}

impl Program {
    /// Writes the command as in the file.
    fn shown(&self) -> String {
        self.command.join(" ")
    }
}
