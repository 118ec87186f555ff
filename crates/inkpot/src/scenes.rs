//! Scenes of games as the shapes of figures and pages.

use inkpot_core::{Paint, Shape};
use inkpot_figures::{Paint as DrawnPaint, Shape as DrawnShape};

/// The shapes as they are drawn.
pub(crate) fn drawn(shapes: &[Shape]) -> Vec<DrawnShape> {
    shapes.iter().cloned().map(shape).collect()
}

fn shape(shape: Shape) -> DrawnShape {
    match shape {
        Shape::Line { from, to, width, paint: colour } => DrawnShape::Line { from, to, width, paint: paint(colour) },
        Shape::Rectangle { low, high, paint: colour } => DrawnShape::Rectangle { low, high, paint: paint(colour) },
        Shape::Circle { centre, radius, paint: colour } => DrawnShape::Circle { centre, radius, paint: paint(colour) },
        Shape::Ring { centre, radius, paint: colour } => DrawnShape::Ring { centre, radius, paint: paint(colour) },
        Shape::Area { corners, paint: colour } => DrawnShape::Area { corners, paint: paint(colour) },
        Shape::Text { at, text, size, paint: colour } => DrawnShape::Text { at, text, size, paint: paint(colour) },
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
