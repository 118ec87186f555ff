//! Keys and new sizes of the terminal, read by a thread of their own: where a terminal vanishes, reading may never end,
//! and nothing else waits for it.

use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::sync::{Mutex, OnceLock, PoisonError};
use std::thread;
use std::time::Duration;

use ratatui::crossterm::event::{Event, read};

/// Events read and not taken yet.
static EVENTS: OnceLock<Mutex<Receiver<Event>>> = OnceLock::new();

/// The result of waiting for an event.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Heard {
    Event(Event),
    /// No event in time.
    Nothing,
    /// The input has ended.
    Gone,
}

/// Waits for an event, at most so long. The first call begins to listen.
pub(crate) fn heard(wait: Duration) -> Heard {
    let events = EVENTS.get_or_init(|| {
        let (to, from) = channel();
        thread::spawn(move || listen(&to));
        Mutex::new(from)
    });
    match events.lock().unwrap_or_else(PoisonError::into_inner).recv_timeout(wait) {
        Ok(event) => Heard::Event(event),
        Err(RecvTimeoutError::Timeout) => Heard::Nothing,
        Err(RecvTimeoutError::Disconnected) => Heard::Gone,
    }
}

/// Reads until nobody takes the events, or the input ends.
fn listen(to: &Sender<Event>) {
    while let Ok(event) = read() {
        if to.send(event).is_err() {
            return;
        }
    }
}
