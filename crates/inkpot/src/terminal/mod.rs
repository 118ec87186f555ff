//! The terminal as a whole: taking it, giving it back, and scenes in its cells.

mod events;
mod paper;
pub(crate) mod scene;
mod screen;

use ratatui::symbols::Marker;

pub(crate) use self::events::{Heard, heard};
pub(crate) use self::screen::{Screen, is_up, leave};
use crate::show::format::utf8;

/// Returns the marker for drawing dots.
pub(crate) fn marker() -> Marker {
    if utf8() { Marker::Braille } else { Marker::Dot }
}
