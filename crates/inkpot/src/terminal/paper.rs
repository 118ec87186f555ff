//! A writer thread for the terminal: a line that stands still, as one stopped by a key or with a busy reader, blocks no
//! drawing.

use std::io::{self, Write, stdout};
use std::sync::mpsc::{Sender, channel};
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};
use std::thread;
use std::time::Duration;

/// Takes drawn output. Each flush hands it on.
pub(super) struct Paper {
    drawn: Vec<u8>,
    to: Sender<Vec<u8>>,
    line: Line,
}

/// The state of the line to the terminal.
#[derive(Clone, Default)]
pub(super) struct Line(Arc<(Mutex<Load>, Condvar)>);

#[derive(Default)]
struct Load {
    /// Pieces that are not written yet.
    waiting: usize,
    /// The error of a write, until it is reported.
    error: Option<io::Error>,
}

impl Paper {
    /// Begins to write. Gives how its line takes it, too.
    pub(super) fn new() -> (Self, Line) {
        let (to, from) = channel::<Vec<u8>>();
        let line = Line::default();
        let shared = line.clone();
        thread::spawn(move || {
            for piece in from {
                let written = stdout().write_all(&piece).and_then(|()| stdout().flush());
                let mut load = shared.load();
                load.waiting -= 1;
                load.error = written.err().or(load.error.take());
                drop(load);
                shared.0.1.notify_all();
            }
        });
        (Self { drawn: Vec::new(), to, line: line.clone() }, line)
    }
}

impl Write for Paper {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.drawn.extend_from_slice(bytes);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        if self.drawn.is_empty() {
            return Ok(());
        }
        self.line.load().waiting += 1;
        let gone = |_| io::Error::from(io::ErrorKind::BrokenPipe);
        self.to.send(std::mem::take(&mut self.drawn)).map_err(gone)
    }
}

impl Line {
    fn load(&self) -> MutexGuard<'_, Load> {
        self.0.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Whether all output is written. Errs with the error since the last call.
    pub(super) fn is_free(&self) -> io::Result<bool> {
        let mut load = self.load();
        load.error.take().map_or(Ok(load.waiting == 0), Err)
    }

    /// Waits until all is written, at most so long. Gives whether it is.
    pub(super) fn drained(&self, wait: Duration) -> bool {
        let waited = self.0.1.wait_timeout_while(self.load(), wait, |load| load.waiting > 0);
        waited.unwrap_or_else(PoisonError::into_inner).0.waiting == 0
    }
}
