//! Values of the options that an agent weighed.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed, short};
use crate::palette::{AXIS, CAPTION, GRID, INDIGO, INK, SECOND, tint};

/// Widest column of lines of play.
const LINES: f64 = 340.0;
/// Width of the column of shares, and of a whole one.
const SHARES: f64 = 140.0;
const WHOLE: f64 = 90.0;

/// A row for every option, best first.
#[derive(Clone, Debug, PartialEq)]
pub struct OptionValues {
    /// Title, subtitle, caption.
    pub words: Words,
    /// The options.
    pub rows: Vec<OptionRow>,
}

/// One option.
#[derive(Clone, Debug, PartialEq)]
pub struct OptionRow {
    /// The name of the option.
    pub name: String,
    /// Its value; none if it was never looked at.
    pub value: Option<f64>,
    /// Whether the value is only an upper bound.
    pub bound: bool,
    /// Its share of what was spent, 0 to 1, where that is known.
    pub share: Option<f64>,
    /// Whether it was taken.
    pub chosen: bool,
    /// The line of play that was expected.
    pub line: String,
}

impl OptionValues {
    /// Draws it; the picture grows beyond fourteen options.
    pub fn draw(&self) -> Drawing {
        let height = HEIGHT.max(TOP + BOTTOM + 60.0 + 36.0 * self.rows.len() as f64);
        let mut canvas = framed(&self.words, height);
        let label = Type::new(LABEL, INK).bold();
        let widest = self.rows.iter().map(|row| canvas.measure(&row.name, label)).fold(60.0, f64::max).min(260.0);
        let shared = self.rows.iter().any(|row| row.share.is_some());
        let lines = self.rows.iter().map(|row| canvas.measure(&row.line, label)).fold(110.0, f64::max).min(LINES);
        let shares = WIDTH - PADDING - lines - if shared { SHARES } else { 0.0 };
        // Room for the figure at the end of the longest bar.
        let right = shares - 110.0;
        let values = || self.rows.iter().filter_map(|row| row.value);
        let (low, high) = (values().fold(0.0, f64::min), values().fold(0.0, f64::max));
        let axis = Axis::round((low, high), (PADDING + widest + 32.0, right), 6);
        let (top, bottom) = (TOP + 16.0, height - BOTTOM - 44.0);
        for (x, text) in axis.ticks(6) {
            canvas.line((axis.at(x), top), (axis.at(x), bottom), GRID, 1.0);
            canvas.text((axis.at(x), bottom + 24.0), &text, Type::new(LABEL, SECOND), Anchor::Middle);
        }
        let middle = (PADDING + widest + 32.0).midpoint(right);
        canvas.text((middle, bottom + 48.0), "Value", label, Anchor::Middle);
        let heading = Type::new(13.5, CAPTION);
        canvas.text((WIDTH - PADDING - lines, top - 8.0), "Expected play", heading, Anchor::Start);
        if shared {
            canvas.text((shares, top - 8.0), "Share of effort", heading, Anchor::Start);
        }
        let step = ((bottom - top) / self.rows.len().max(1) as f64).min(84.0);
        for (index, row) in self.rows.iter().enumerate() {
            row.draw(&mut canvas, &axis, top + step * (index as f64 + 0.5), [widest, shares, lines]);
        }
        canvas.line((axis.at(0.0), top), (axis.at(0.0), bottom), AXIS, 1.0);
        canvas.finish()
    }
}

impl OptionRow {
    /// Draws it at this height; the widths of names and lines, and where shares begin.
    fn draw(&self, canvas: &mut Canvas, axis: &Axis, y: f64, [widest, shares, lines]: [f64; 3]) {
        let bold = Type::new(LABEL, INK).bold();
        let kind = if self.chosen { bold } else { Type::new(LABEL, SECOND) };
        let name = canvas.fit(&self.name, bold, widest);
        canvas.text((PADDING, y + 5.0), &name, kind, Anchor::Start);
        if let Some(value) = self.value {
            let colour = if self.chosen { INDIGO } else { tint(INDIGO, 0.4) };
            let (from, to) = (axis.at(0.0).min(axis.at(value)), axis.at(0.0).max(axis.at(value)));
            canvas.rectangle((from, y - 9.0), (to, y + 9.0), colour);
        }
        let value = match self.value {
            None => "not looked at".to_string(),
            Some(value) if self.bound => format!("at most {}", short(value)),
            Some(value) => short(value),
        };
        // Beside the bar, where nothing else is: to the right of its right end.
        let end = self.value.map_or(axis.at(0.0), |value| axis.at(value).max(axis.at(0.0)));
        canvas.text((end + 10.0, y + 5.0), &value, kind, Anchor::Start);
        if let Some(share) = self.share {
            canvas.rectangle((shares, y - 5.0), (shares + WHOLE * share, y + 5.0), AXIS);
        }
        let line = canvas.fit(&self.line, kind, lines);
        canvas.text((WIDTH - PADDING - lines, y + 5.0), &line, kind, Anchor::Start);
    }
}
