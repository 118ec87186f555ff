//! Systems on which no process is started.

use std::io;

use super::{NoAnswer, Program};

/// A process, which cannot be started here.
pub(crate) enum Process {}

impl Program {
    /// Errs: processes are started on Unix systems alone.
    pub(crate) fn start(&self) -> Result<Process, NoAnswer> {
        let error = io::Error::new(io::ErrorKind::Unsupported, "game files need a Unix system");
        Err(NoAnswer::Start { command: self.shown(), error })
    }
}

impl Process {
    /// Never called, since no process starts here.
    pub(crate) fn ask(&mut self, _request: &str, _last: bool, _program: &Program) -> Result<String, NoAnswer> {
        match *self {}
    }
}
