//! Small panels side by side.

use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, PADDING, TOP, WIDTH};
use crate::palette::INK;

/// Panels in a row of many.
pub(crate) const COLUMNS: usize = 3;
const GAP: f64 = 44.0;

/// The area of a panel's drawing, below its title.
#[derive(Clone, Copy)]
pub(crate) struct Room {
    pub(crate) left: f64,
    pub(crate) right: f64,
    pub(crate) top: f64,
    pub(crate) bottom: f64,
}

/// Rooms of panels in a picture of this height, with this many in a row; room for the numbers of an axis is left under each.
pub(crate) fn rooms(panels: usize, columns: usize, height: f64) -> Vec<Room> {
    let width = (WIDTH - 2.0 * PADDING - GAP * (columns - 1) as f64) / columns as f64;
    let tall = (height - BOTTOM - TOP + 10.0) / panels.div_ceil(columns).max(1) as f64;
    let room = |index: usize| {
        let left = PADDING + (index % columns) as f64 * (width + GAP);
        let top = TOP - 10.0 + (index / columns) as f64 * tall;
        Room { left, right: left + width, top: top + 26.0, bottom: top + tall - 58.0 }
    };
    (0..panels).map(room).collect()
}

/// The title of a panel.
pub(crate) fn titled(canvas: &mut Canvas, room: Room, label: &str) {
    let kind = Type::new(15.0, INK).bold();
    let title = canvas.fit(label, kind, room.right - room.left);
    canvas.text((room.left, room.top - 18.0), &title, kind, Anchor::Start);
}
