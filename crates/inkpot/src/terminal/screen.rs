//! The terminal while something is drawn on all of it: taken, and given back however the program ends.

use std::io::{self, Stdout, stdout};
use std::mem::ManuallyDrop;
use std::sync::atomic::{AtomicBool, Ordering};

use ratatui::backend::CrosstermBackend;
use ratatui::crossterm::cursor::Show;
use ratatui::crossterm::execute;
use ratatui::crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode};
use ratatui::{Frame, Terminal};

/// Whether something is drawn on all of the terminal.
static UP: AtomicBool = AtomicBool::new(false);

/// The whole terminal. What draws on it is never dropped: that would show the cursor once more, and fall where nobody is
/// left to be told that it cannot.
pub(crate) struct Screen(ManuallyDrop<Terminal<CrosstermBackend<Stdout>>>);

/// Whether something is drawn on all of the terminal.
pub(crate) fn is_up() -> bool {
    UP.load(Ordering::Relaxed)
}

/// Gives the terminal back, if it was taken.
pub(crate) fn leave() {
    if UP.swap(false, Ordering::Relaxed) {
        // Nothing is left to be done where this fails.
        let _ = disable_raw_mode();
        let _ = execute!(stdout(), LeaveAlternateScreen, Show);
    }
}

impl Screen {
    /// Takes it.
    pub(crate) fn enter() -> io::Result<Self> {
        enable_raw_mode()?;
        UP.store(true, Ordering::Relaxed);
        let begun =
            execute!(stdout(), EnterAlternateScreen).and_then(|()| Terminal::new(CrosstermBackend::new(stdout())));
        if begun.is_err() {
            leave();
        }
        begun.map(|terminal| Self(ManuallyDrop::new(terminal)))
    }

    pub(crate) fn draw(&mut self, draw: impl FnOnce(&mut Frame)) -> io::Result<()> {
        self.0.draw(draw).map(|_| ())
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        leave();
    }
}
