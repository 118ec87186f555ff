//! Ratings with intervals, best first.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed, whole};
use crate::palette::{AXIS, CAPTION, GRID, INDIGO, INK, ORANGE, SECOND, tint};

/// Rows as high as most figures; beyond it the picture grows, and rows grow closer.
const ROOMY: usize = 14;

/// Ratings of a field.
#[derive(Clone, Debug, PartialEq)]
pub struct Forest {
    /// The words.
    pub words: Words,
    /// One row an entrant, in the order drawn.
    pub rows: Vec<ForestRow>,
}

/// One entrant's rating.
#[derive(Clone, Debug, PartialEq)]
pub struct ForestRow {
    /// Its name.
    pub name: String,
    /// Its rating.
    pub rating: Estimate,
    /// Its points share, as text.
    pub points: String,
    /// Whether it is clearly above the next, or is the last.
    pub clear: bool,
}

impl Forest {
    /// Draws it; the picture grows beyond fourteen rows.
    pub fn draw(&self) -> Drawing {
        let a_row = if self.rows.len() > 4 * ROOMY { 20.0 } else { 36.0 };
        let height = HEIGHT.max(TOP + BOTTOM + 76.0 + a_row * self.rows.len() as f64);
        let mut canvas = framed(&self.words, height);
        let label = Type::new(if a_row < 30.0 { 13.0 } else { LABEL }, INK);
        let widest =
            self.rows.iter().map(|row| canvas.measure(&row.name, label.bold())).fold(60.0, f64::max).min(260.0);
        let (top, bottom) = (TOP + 16.0, height - BOTTOM - 44.0);
        let axis = self.axis((PADDING + widest + 32.0, WIDTH - PADDING - 320.0));
        ticks(&mut canvas, &axis, top, bottom);
        let columns = [WIDTH - PADDING - 230.0, WIDTH - PADDING - 90.0, WIDTH - PADDING];
        for (x, heading) in columns.into_iter().zip(["Rating", "Interval", "Points"]) {
            canvas.text((x, top - 8.0), heading, Type::new(13.5, CAPTION), Anchor::End);
        }
        let step = ((bottom - top) / self.rows.len().max(1) as f64).min(108.0);
        for (index, row) in self.rows.iter().enumerate() {
            row.draw(&mut canvas, &axis, (top + step * (index as f64 + 0.5), widest), label, columns);
        }
        canvas.finish()
    }

    fn axis(&self, pixels: (f64, f64)) -> Axis {
        let ends = || self.rows.iter().flat_map(|row| [row.rating.low, row.rating.high]).chain([0.0]);
        Axis::round((ends().fold(f64::INFINITY, f64::min), ends().fold(f64::NEG_INFINITY, f64::max)), pixels, 7)
    }
}

fn ticks(canvas: &mut Canvas, axis: &Axis, top: f64, bottom: f64) {
    let mut ends = (f64::INFINITY, f64::NEG_INFINITY);
    for (x, text) in axis.ticks(7) {
        canvas.line((axis.at(x), top), (axis.at(x), bottom), GRID, 1.0);
        canvas.text((axis.at(x), bottom + 24.0), &text, Type::new(LABEL, SECOND), Anchor::Middle);
        ends = (ends.0.min(axis.at(x)), ends.1.max(axis.at(x)));
    }
    canvas.line((ends.0, bottom), (ends.1, bottom), AXIS, 1.0);
    canvas.dashes((axis.at(0.0), top), (axis.at(0.0), bottom), ORANGE, 1.5, (6.0, 5.0));
    canvas.text((f64::midpoint(ends.0, ends.1), bottom + 48.0), "Rating", Type::new(LABEL, INK).bold(), Anchor::Middle);
}

impl ForestRow {
    fn draw(&self, canvas: &mut Canvas, axis: &Axis, (y, widest): (f64, f64), label: Type, columns: [f64; 3]) {
        // One that cannot be told from the next is drawn pale.
        let colour = if self.clear { INDIGO } else { tint(INDIGO, 0.45) };
        let name = canvas.fit(&self.name, label.bold(), widest);
        canvas.text((PADDING, y + 5.0), &name, label.bold(), Anchor::Start);
        let rating = &self.rating;
        canvas.line((axis.at(rating.low), y), (axis.at(rating.high), y), tint(colour, 0.55), 4.0);
        canvas.disc((axis.at(rating.value), y), if label.size < LABEL { 4.5 } else { 6.5 }, colour);
        let second = Type { colour: SECOND, ..label };
        let figures = [
            (whole(rating.value), label.bold()),
            (format!("{} to {}", whole(rating.low), whole(rating.high)), second),
            (self.points.clone(), second),
        ];
        let hover = format!(
            "{}: rating {} ({} to {}), points {}",
            self.name,
            whole(rating.value),
            whole(rating.low),
            whole(rating.high),
            self.points
        );
        canvas.hover((PADDING, y - 10.0), (WIDTH - PADDING, y + 10.0), &self.name, &hover);
        for (x, (text, kind)) in columns.into_iter().zip(figures) {
            canvas.text((x, y + 5.0), &text, kind, Anchor::End);
        }
    }
}
