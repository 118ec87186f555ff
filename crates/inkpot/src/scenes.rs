//! Scenes of games as the shapes of figures and pages.

use inkpot_core::{Paint, Shape};
use inkpot_figures::{Paint as DrawnPaint, Shape as DrawnShape};

/// The shapes as they are drawn.
pub(crate) fn drawn(shapes: &[Shape]) -> Vec<DrawnShape> {
    shapes.iter().cloned().map(shape).collect()
}

fn shape(shape: Shape) -> DrawnShape {
    match shape {
        Shape::Line { from, to, width, paint: own } => DrawnShape::Line { from, to, width, paint: paint(own) },
        Shape::Rectangle { low, high, paint: own } => DrawnShape::Rectangle { low, high, paint: paint(own) },
        Shape::Circle { centre, radius, paint: own } => DrawnShape::Circle { centre, radius, paint: paint(own) },
        Shape::Ring { centre, radius, paint: own } => DrawnShape::Ring { centre, radius, paint: paint(own) },
        Shape::Area { corners, paint: own } => DrawnShape::Area { corners, paint: paint(own) },
        Shape::Text { at, text, size, paint: own } => DrawnShape::Text { at, text, size, paint: paint(own) },
    }
}

fn paint(paint: Paint) -> DrawnPaint {
    match paint {
        Paint::Ground => DrawnPaint::Ground,
        Paint::Faint => DrawnPaint::Faint,
        Paint::Seat(seat) => DrawnPaint::Seat(seat),
        Paint::Signal => DrawnPaint::Signal,
        Paint::Ink => DrawnPaint::Ink,
    }
}
