//! The search for one knob: samples by value, the curves, and the solved values.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed, percent};
use crate::palette::{AXIS, CATEGORIES, GRID, INK, SECOND, tint};

/// The search for one knob on every rung.
#[derive(Clone, Debug, PartialEq)]
pub struct Aim {
    /// The words.
    pub words: Words,
    /// The knob, for the axis.
    pub knob: String,
    /// Ends of its range.
    pub range: (f64, f64),
    /// The rungs; colours repeat after six.
    pub lines: Vec<AimLine>,
}

/// A rung's search.
#[derive(Clone, Debug, PartialEq)]
pub struct AimLine {
    /// The rung.
    pub name: String,
    /// Knob value, win rate, and share of the largest probe.
    pub tried: Vec<(f64, f64, f64)>,
    /// The fitted curve.
    pub curve: Vec<(f64, f64)>,
    /// The wanted rate.
    pub wanted: f64,
    /// The value that gives it, with its interval.
    pub value: f64,
    /// Lower and upper end of that.
    pub interval: Option<(f64, f64)>,
    /// The value in words.
    pub text: String,
}

impl Aim {
    /// Draws it.
    pub fn draw(&self) -> Drawing {
        let mut canvas = framed(&self.words, HEIGHT);
        let (top, bottom) = (TOP + 26.0, HEIGHT - BOTTOM - 44.0);
        let (left, right) = (PADDING + 55.0, WIDTH - PADDING - 190.0);
        let x = Axis::new(self.range, (left + 10.0, right - 10.0));
        let y = Axis::new((0.0, 1.0), (bottom, top));
        canvas.text((PADDING, top - 22.0), "Win rate", Type::new(LABEL, INK).bold(), Anchor::Start);
        for (rate, _) in y.ticks(5) {
            canvas.line((left, y.at(rate)), (right, y.at(rate)), GRID, 1.0);
            canvas.text((left - 12.0, y.at(rate) + 5.0), &percent(rate), Type::new(LABEL, SECOND), Anchor::End);
        }
        for (value, text) in x.ticks(6) {
            canvas.text((x.at(value), bottom + 24.0), &text, Type::new(LABEL, SECOND), Anchor::Middle);
        }
        canvas.line((left, bottom), (right, bottom), AXIS, 1.0);
        let middle = f64::midpoint(left, right);
        canvas.text((middle, bottom + 50.0), &self.knob, Type::new(LABEL, INK).bold(), Anchor::Middle);
        // Names stand where the curves end, moved apart.
        let mut ends: Vec<(f64, usize)> = self
            .lines
            .iter()
            .enumerate()
            .map(|(i, line)| (line.curve.last().map_or(bottom, |(_, rate)| y.at(*rate)), i))
            .collect();
        ends.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut below = f64::NEG_INFINITY;
        for (end, _) in &mut ends {
            *end = end.max(below + 44.0);
            below = *end;
        }
        let over = (below - bottom + 14.0).max(0.0);
        for (end, index) in ends {
            let line = &self.lines[index];
            let text = CATEGORIES[index % CATEGORIES.len()].1;
            let at = end - over;
            canvas.text((right + 14.0, at), &line.name, Type::new(LABEL, text).bold(), Anchor::Start);
            canvas.text((right + 14.0, at + 18.0), &line.text, Type::new(13.5, SECOND), Anchor::Start);
        }
        // Shades lie under all curves.
        for (index, line) in self.lines.iter().enumerate() {
            if let Some((low, high)) = line.interval {
                let colour = tint(CATEGORIES[index % CATEGORIES.len()].0, 0.16);
                canvas.rectangle((x.at(low), y.at(line.wanted)), (x.at(high), bottom), colour);
            }
        }
        for (index, line) in self.lines.iter().enumerate() {
            line.draw(&mut canvas, (&x, &y), CATEGORIES[index % CATEGORIES.len()].0, bottom);
        }
        canvas.finish()
    }
}

impl AimLine {
    fn draw(&self, canvas: &mut Canvas, (x, y): (&Axis, &Axis), colour: (u8, u8, u8), bottom: f64) {
        canvas.dashes((x.at(self.value), y.at(self.wanted)), (x.at(self.value), bottom), colour, 1.5, (5.0, 4.0));
        canvas.path(self.curve.iter().map(|(u, v)| (x.at(*u), y.at(*v))).collect(), colour, 2.0);
        for (u, v, size) in &self.tried {
            let at = (x.at(*u), y.at(*v));
            canvas.disc(at, 2.5 + 5.0 * size.sqrt(), tint(colour, 0.55));
            let hover = format!("{}: {} at {u:.3}", self.name, percent(*v));
            canvas.hover((at.0 - 7.0, at.1 - 7.0), (at.0 + 7.0, at.1 + 7.0), &self.name, &hover);
        }
        canvas.disc((x.at(self.value), y.at(self.wanted)), 7.0, colour);
    }
}
