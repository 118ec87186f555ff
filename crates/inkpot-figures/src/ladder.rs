//! A ladder: for each target the wanted range and the proof on each rung.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed};
use crate::palette::{AXIS, GRID, INDIGO, INK, ORANGE, ORANGE_TEXT, SECOND, tint};

/// Height of a row, of a panel's heading and of its axis.
const ROW: f64 = 44.0;
const HEADING: f64 = 30.0;
const FEET: f64 = 40.0;

/// Rungs with their targets and the figures that were proved.
#[derive(Clone, Debug, PartialEq)]
pub struct Ladder {
    /// The words.
    pub words: Words,
    /// One panel a target.
    pub panels: Vec<LadderPanel>,
}

/// A target over the rungs.
#[derive(Clone, Debug, PartialEq)]
pub struct LadderPanel {
    /// The title.
    pub title: String,
    /// Whether its values are shares, shown in hundredths.
    pub rate: bool,
    /// The rungs that have it.
    pub rows: Vec<LadderRow>,
}

/// A target on a rung.
#[derive(Clone, Debug, PartialEq)]
pub struct LadderRow {
    /// The rung.
    pub name: String,
    /// Lowest and highest wanted value, infinite where there is none.
    pub wanted: (f64, f64),
    /// The proved figure, if there is one.
    pub proved: Option<Estimate>,
    /// It as text.
    pub text: String,
    /// The verdict: met, not met, not separable yet.
    pub verdict: String,
    /// Whether it is met.
    pub met: bool,
}

impl Ladder {
    /// Draws it; the picture grows with the rows.
    pub fn draw(&self) -> Drawing {
        let rows: usize = self.panels.iter().map(|panel| panel.rows.len()).sum();
        let panels = self.panels.len() as f64;
        let room = HEIGHT - TOP - BOTTOM - 10.0 - panels * (HEADING + FEET);
        let row = (room / rows.max(1) as f64).clamp(ROW, 150.0);
        let height = HEIGHT.max(TOP + BOTTOM + 10.0 + panels * (HEADING + FEET) + row * rows as f64);
        let mut canvas = framed(&self.words, height);
        let names = self.panels.iter().flat_map(|panel| &panel.rows).map(|row| &row.name);
        let label = Type::new(LABEL, INK).bold();
        let widest = names.map(|name| canvas.measure(name, label)).fold(60.0, f64::max).min(220.0);
        let mut y = TOP;
        for panel in &self.panels {
            panel.draw(&mut canvas, (y, row), widest);
            y += HEADING + FEET + row * panel.rows.len() as f64;
        }
        canvas.finish()
    }
}

impl LadderPanel {
    fn axis(&self, pixels: (f64, f64)) -> Axis {
        if self.rate {
            return Axis::new((0.0, 1.0), pixels);
        }
        let ends = || {
            let rows = self.rows.iter();
            rows.flat_map(|row| {
                [Some(row.wanted.0), Some(row.wanted.1), row.proved.map(|e| e.low), row.proved.map(|e| e.high)]
            })
            .flatten()
            .filter(|x| x.is_finite())
        };
        let (low, high) = (ends().fold(f64::INFINITY, f64::min), ends().fold(f64::NEG_INFINITY, f64::max));
        let margin = 0.15 * (high - low).max(1e-9);
        Axis::round((if low >= 0.0 { (low - margin).max(0.0) } else { low - margin }, high + margin), pixels, 7)
    }

    fn draw(&self, canvas: &mut Canvas, (top, row): (f64, f64), widest: f64) {
        canvas.text((PADDING, top + 8.0), &self.title, Type::new(LABEL, INK).bold(), Anchor::Start);
        let (left, right) = (PADDING + widest + 28.0, WIDTH - PADDING - 330.0);
        let first = top + HEADING;
        let bottom = first + row * self.rows.len() as f64;
        let axis = self.axis((left, right));
        for (x, text) in axis.ticks(6) {
            let text = if self.rate { format!("{:.0} %", 100.0 * x) } else { text };
            canvas.line((axis.at(x), first), (axis.at(x), bottom), GRID, 1.0);
            canvas.text((axis.at(x), bottom + 20.0), &text, Type::new(13.5, SECOND), Anchor::Middle);
        }
        canvas.line((left, bottom), (right, bottom), AXIS, 1.0);
        for (index, entry) in self.rows.iter().enumerate() {
            entry.draw(canvas, &axis, (first + row * (index as f64 + 0.5), row), (left, right), widest);
        }
    }
}

impl LadderRow {
    fn draw(&self, canvas: &mut Canvas, axis: &Axis, (y, row): (f64, f64), (left, right): (f64, f64), widest: f64) {
        let half = (row * 0.32).min(18.0);
        let at = |x: f64| {
            if x == f64::INFINITY {
                right
            } else if x == f64::NEG_INFINITY {
                left
            } else {
                axis.at(x)
            }
        };
        canvas.rectangle((at(self.wanted.0), y - half), (at(self.wanted.1), y + half), tint(ORANGE, 0.22));
        let label = Type::new(LABEL, INK).bold();
        let name = canvas.fit(&self.name, label, widest);
        canvas.text((PADDING, y + 5.0), &name, label, Anchor::Start);
        if let Some(proved) = &self.proved {
            // What is not met is drawn pale, as what is not separable elsewhere.
            let colour = if self.met { INDIGO } else { tint(INDIGO, 0.55) };
            canvas.line((axis.at(proved.low), y), (axis.at(proved.high), y), tint(INDIGO, 0.5), 4.0);
            canvas.disc((axis.at(proved.value), y), 6.5, colour);
        }
        let kind = Type::new(LABEL, INK);
        canvas.text((right + 24.0, y + 5.0), &self.text, kind, Anchor::Start);
        let said = Type::new(LABEL, if self.met { SECOND } else { ORANGE_TEXT });
        canvas.text((WIDTH - PADDING, y + 5.0), &self.verdict, said, Anchor::End);
        let hover = format!("{}: {}, {}", self.name, self.text, self.verdict);
        canvas.hover((left, y - row / 2.0), (right, y + row / 2.0), &self.name, &hover);
    }
}
