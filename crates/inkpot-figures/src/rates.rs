//! Win rates with intervals, best first.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed, percent};
use crate::palette::{AXIS, CAPTION, GRID, INDIGO, INK, ORANGE, SECOND, tint};

/// Win rates of several entrants.
#[derive(Clone, Debug, PartialEq)]
pub struct Rates {
    /// The words.
    pub words: Words,
    /// One row an entrant, in the order drawn.
    pub rows: Vec<RatesRow>,
}

/// One entrant's rate.
#[derive(Clone, Debug, PartialEq)]
pub struct RatesRow {
    /// Its name.
    pub name: String,
    /// Its rate.
    pub rate: Estimate,
    /// Won, drawn, lost.
    pub record: [u64; 3],
}

impl Rates {
    /// Draws it; the picture grows beyond fourteen rows.
    pub fn draw(&self) -> Drawing {
        let height = HEIGHT.max(TOP + BOTTOM + 60.0 + 36.0 * self.rows.len() as f64);
        let mut canvas = framed(&self.words, height);
        let label = Type::new(LABEL, INK).bold();
        let widest = self.rows.iter().map(|row| canvas.measure(&row.name, label)).fold(60.0, f64::max).min(260.0);
        let record = |row: &RatesRow| row.record.map(|n| n.to_string()).join("-");
        let records = self.rows.iter().map(|row| canvas.measure(&record(row), label)).fold(100.0, f64::max);
        let columns = [WIDTH - PADDING - records - 136.0, WIDTH - PADDING - records - 24.0, WIDTH - PADDING];
        let axis = Axis::new((0.0, 1.0), (PADDING + widest + 32.0, columns[0] - 90.0));
        let (top, bottom) = (TOP + 16.0, height - BOTTOM - 44.0);
        for (x, _) in axis.ticks(5) {
            canvas.line((axis.at(x), top), (axis.at(x), bottom), GRID, 1.0);
            canvas.text((axis.at(x), bottom + 24.0), &percent(x), Type::new(LABEL, SECOND), Anchor::Middle);
        }
        canvas.line((axis.at(0.0), bottom), (axis.at(1.0), bottom), AXIS, 1.0);
        canvas.dashes((axis.at(0.5), top), (axis.at(0.5), bottom), ORANGE, 1.5, (6.0, 5.0));
        canvas.text((axis.at(0.5), bottom + 48.0), "Win rate", label, Anchor::Middle);
        for (x, heading) in columns.into_iter().zip(["Win rate", "Interval", "Won-drawn-lost"]) {
            canvas.text((x, top - 8.0), heading, Type::new(13.5, CAPTION), Anchor::End);
        }
        let step = ((bottom - top) / self.rows.len().max(1) as f64).min(108.0);
        for (index, row) in self.rows.iter().enumerate() {
            let y = top + step * (index as f64 + 0.5);
            // What cannot be told from one half is drawn pale.
            let colour = if row.rate.clear_of(0.5) { INDIGO } else { tint(INDIGO, 0.45) };
            let name = canvas.fit(&row.name, label, widest);
            canvas.text((PADDING, y + 5.0), &name, label, Anchor::Start);
            canvas.line((axis.at(row.rate.low), y), (axis.at(row.rate.high), y), tint(colour, 0.55), 4.0);
            canvas.disc((axis.at(row.rate.value), y), 6.5, colour);
            let figures = [
                (format!("{:.1} %", row.rate.value * 100.0), label),
                (format!("{:.1}–{:.1}", row.rate.low * 100.0, row.rate.high * 100.0), Type::new(LABEL, SECOND)),
                (record(row), Type::new(LABEL, SECOND)),
            ];
            let hover = format!("{}: {}, interval {}; {}", row.name, figures[0].0, figures[1].0, figures[2].0);
            canvas.hover((PADDING, y - 14.0), (WIDTH - PADDING, y + 14.0), &row.name, &hover);
            for (x, (text, kind)) in columns.into_iter().zip(figures) {
                canvas.text((x, y + 5.0), &text, kind, Anchor::End);
            }
        }
        canvas.finish()
    }
}
