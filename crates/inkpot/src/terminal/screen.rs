//! The terminal while something is drawn on all of it: taken, and given back however the program ends.

use std::io;
use std::mem::ManuallyDrop;
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

use ratatui::backend::{Backend, CrosstermBackend};
use ratatui::crossterm::cursor::Show;
use ratatui::crossterm::execute;
use ratatui::crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode};
use ratatui::layout::{Rect, Size};
use ratatui::{Frame, Terminal, TerminalOptions, Viewport};

use super::paper::{Line, Paper};
use crate::outlet;

/// Columns and rows that are drawn on at most: more are left blank.
const MOST: Size = Size { width: 400, height: 200 };
/// The patience with the line when the terminal is given back.
const PATIENCE: Duration = Duration::from_millis(500);

/// The screen's line; none while nothing is drawn on the whole terminal.
static UP: Mutex<Option<Line>> = Mutex::new(None);

/// The whole terminal. The drawing object is never dropped: that would show the cursor once more, and fail where nobody
/// is left to report it.
pub(crate) struct Screen {
    terminal: ManuallyDrop<Terminal<CrosstermBackend<Paper>>>,
    line: Line,
    area: Rect,
}

/// Whether something is drawn on all of the terminal.
pub(crate) fn is_up() -> bool {
    UP.lock().unwrap_or_else(PoisonError::into_inner).is_some()
}

/// Gives the terminal back, if it was taken. Where its line stands still, nothing more is written to it.
pub(crate) fn leave() {
    let up = UP.lock().unwrap_or_else(PoisonError::into_inner).take();
    let Some(line) = up else { return };
    // Nothing is left to be done where this fails.
    let _ = disable_raw_mode();
    if line.drained(PATIENCE) {
        let (mut paper, line) = Paper::new();
        let _ = execute!(paper, LeaveAlternateScreen, Show);
        if line.drained(PATIENCE) {
            return;
        }
    }
    outlet::give_up();
}

impl Screen {
    /// Takes it.
    pub(crate) fn enter() -> io::Result<Self> {
        enable_raw_mode()?;
        let (mut paper, line) = Paper::new();
        *UP.lock().unwrap_or_else(PoisonError::into_inner) = Some(line.clone());
        interruptible();
        let begun = execute!(paper, EnterAlternateScreen).and_then(|()| {
            let backend = CrosstermBackend::new(paper);
            let area = drawn_area(backend.size()?);
            let options = TerminalOptions { viewport: Viewport::Fixed(area) };
            let terminal = ManuallyDrop::new(Terminal::with_options(backend, options)?);
            Ok(Self { terminal, line, area })
        });
        begun.inspect_err(|_| leave())
    }

    /// Draws, unless the line still stands still with earlier output.
    pub(crate) fn draw(&mut self, draw: impl FnOnce(&mut Frame)) -> io::Result<()> {
        if !self.line.is_free()? {
            return Ok(());
        }
        let area = drawn_area(self.terminal.size()?);
        if area != self.area {
            self.terminal.resize(area)?;
            self.terminal.backend_mut().clear()?;
            self.area = area;
        }
        self.terminal.draw(draw).map(|_| ())
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        leave();
    }
}

/// The part of a terminal of this size that is drawn on.
fn drawn_area(size: Size) -> Rect {
    Rect::new(0, 0, size.width.min(MOST.width), size.height.min(MOST.height))
}

/// Makes the terminal send an interrupt for Ctrl-C: read as a key, it could be taken for the rest of an unfinished
/// sequence. The terminal's other processing stays off.
#[cfg(unix)]
fn interruptible() {
    use rustix::termios::{LocalModes, OptionalActions, SpecialCodeIndex, tcgetattr, tcsetattr};
    let input = io::stdin();
    let Ok(mut modes) = tcgetattr(&input) else { return };
    modes.local_modes |= LocalModes::ISIG | LocalModes::NOFLSH;
    for code in [SpecialCodeIndex::VQUIT, SpecialCodeIndex::VSUSP] {
        modes.special_codes[code] = 0;
    }
    // Where it cannot be had, Ctrl-C is a key like any other.
    let _ = tcsetattr(&input, OptionalActions::Now, &modes);
}

#[cfg(not(unix))]
fn interruptible() {}
