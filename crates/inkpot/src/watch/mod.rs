//! A search that somebody watches in the terminal: it goes on in its threads while a view draws and listens to keys.
//!
//! Search and view share a lock; the search makes a `Watched` only once the view has shown the last. `terminal::leave` restores the terminal, whoever calls it first.

mod picture;
mod view;

use std::sync::{Condvar, Mutex, MutexGuard, PoisonError};
use std::thread;
use std::time::{Duration, Instant};

use inkpot_core::{GameEntry, Halt};
use inkpot_lab::{SearchRound, Searching, Watched};
use ratatui::crossterm::event::{Event, KeyCode, KeyEventKind, KeyModifiers};

use self::view::{FRAME, State, View};
use crate::failure::Failure;
use crate::terminal::{Heard, Screen, heard};

/// The state shared by a search and its view.
#[derive(Default)]
pub(crate) struct Watching {
    board: Mutex<Board>,
    woken: Condvar,
}

/// The data of the search, and requests to it.
#[derive(Default)]
struct Board {
    round: Option<SearchRound>,
    watched: Option<Watched>,
    /// Whether the view wants to be told more.
    wanted: bool,
    paused: bool,
    ended: bool,
}

/// Ends the view however the search ends.
struct Ending<'a>(&'a Watching);

impl Drop for Ending<'_> {
    fn drop(&mut self) {
        self.0.board().ended = true;
        self.0.woken.notify_all();
    }
}

impl Watching {
    fn board(&self) -> MutexGuard<'_, Board> {
        self.board.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Reads a search's progress, asked only if the view wants it.
    pub(crate) fn hear(&self, searching: &dyn Searching) {
        let wanted = std::mem::take(&mut self.board().wanted);
        if wanted {
            let (round, watched) = (searching.round(), searching.watched());
            let mut board = self.board();
            (board.round, board.watched) = (Some(round), watched);
        }
    }

    /// Whether somebody asked for a pause.
    pub(crate) fn is_paused(&self) -> bool {
        self.board().paused
    }

    /// Waits until nobody wants a pause any more. Gives how long that took.
    pub(crate) fn wait(&self, halt: &Halt) -> Duration {
        let began = Instant::now();
        let mut board = self.board();
        while board.paused && !halt.is_called() {
            board = self.woken.wait_timeout(board, FRAME).unwrap_or_else(PoisonError::into_inner).0;
        }
        began.elapsed()
    }
}

/// Does the work while its view is on the screen.
pub(crate) fn watched<T>(
    title: &str,
    game: &dyn GameEntry,
    halt: &Halt,
    color: bool,
    work: impl FnOnce(&Watching) -> T,
) -> Result<T, Failure> {
    let failed = |error: std::io::Error| Failure::Failed(format!("the terminal cannot be drawn on: {error}"));
    let screen = Screen::enter().map_err(failed)?;
    let watching = Watching::default();
    let (done, outcome) = thread::scope(|scope| {
        let view = scope.spawn(|| show(screen, View::new(title, game, color), &watching, halt));
        let done = {
            let _ending = Ending(&watching);
            work(&watching)
        };
        (done, view.join())
    });
    match outcome {
        Ok(Ok(())) => Ok(done),
        Ok(Err(error)) => Err(failed(error)),
        Err(_) => Err(Failure::Failed("the view failed; `inkpot resume` continues the study without it".into())),
    }
}

/// Draws and listens until the search has ended.
fn show(mut screen: Screen, mut view: View, watching: &Watching, halt: &Halt) -> std::io::Result<()> {
    loop {
        {
            let mut board = watching.board();
            if board.ended {
                return Ok(());
            }
            board.wanted = true;
            let state = match (halt.is_called(), board.paused) {
                (true, _) => State::Stopping,
                (false, true) => State::Paused,
                (false, false) => State::Searching,
            };
            view.hear(board.round.clone(), board.watched.take(), state);
        }
        screen.draw(|frame| view.draw(frame))?;
        let key = match heard(FRAME) {
            Heard::Event(Event::Key(key)) => key,
            Heard::Event(_) | Heard::Nothing => continue,
            Heard::Gone => {
                halt.call();
                thread::sleep(FRAME);
                continue;
            }
        };
        if key.kind == KeyEventKind::Release {
            continue;
        }
        match key.code {
            KeyCode::Char('c') if key.modifiers.contains(KeyModifiers::CONTROL) => {
                halt.call();
            }
            KeyCode::Char('s' | 'q') => {
                halt.call();
            }
            KeyCode::Char('p' | ' ') => {
                let mut board = watching.board();
                board.paused = !board.paused;
                watching.woken.notify_all();
            }
            KeyCode::Char('m') => view.picture(),
            _ => {}
        }
    }
}
