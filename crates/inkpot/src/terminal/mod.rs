//! What is drawn on all of the terminal shares: taking it, giving it back, and scenes in its cells.

mod events;
mod paper;
pub(crate) mod scene;
mod screen;

use ratatui::symbols::Marker;

pub(crate) use self::events::{Heard, heard};
pub(crate) use self::screen::{Screen, is_up, leave};
use crate::show::format::utf8;

/// What dots are drawn with.
pub(crate) fn marker() -> Marker {
    if utf8() { Marker::Braille } else { Marker::Dot }
}
