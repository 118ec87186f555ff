//! A surface: a figure over two knobs, or over the niches of two measures.

use crate::Drawing;
use crate::canvas::{Anchor, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed};
use crate::matrix::{MatrixOf, fill, key, rate_text};
use crate::palette::{INK, ORANGE, SECOND};

/// A figure over two knobs or measures.
#[derive(Clone, Debug, PartialEq)]
pub struct Surface {
    /// The words.
    pub words: Words,
    /// The figure of the cells.
    pub of: MatrixOf,
    /// The knob across and its values from left to right.
    pub across: (String, Vec<String>),
    /// The knob upwards and its values from the bottom to the top.
    pub up: (String, Vec<String>),
    /// `cells[up][across]`.
    pub cells: Vec<Vec<Option<Estimate>>>,
    /// A wanted rate: cells whose interval holds it are framed.
    pub target: Option<f64>,
}

impl Surface {
    /// Draws it.
    pub fn draw(&self) -> Drawing {
        let (columns, rows) = (self.across.1.len().max(1) as f64, self.up.1.len().max(1) as f64);
        let height = HEIGHT.max(TOP + BOTTOM + 150.0 + 26.0 * rows);
        let mut canvas = framed(&self.words, height);
        let head = Type::new(LABEL, INK).bold();
        let text = Type::new(LABEL, SECOND);
        let widest = self.up.1.iter().map(|value| canvas.measure(value, text)).fold(40.0, f64::max).min(140.0);
        let (left, top) = (PADDING + widest + 18.0, TOP + 26.0);
        let size =
            (((WIDTH - PADDING - left) / columns).min(300.0), ((height - BOTTOM - 128.0 - top) / rows).min(90.0));
        canvas.text((PADDING, top - 18.0), &self.up.0, head, Anchor::Start);
        let bottom = top + size.1 * rows;
        for (index, value) in self.across.1.iter().enumerate() {
            let x = left + size.0 * (index as f64 + 0.5);
            let value = canvas.fit(value, text, size.0 - 4.0);
            canvas.text((x, bottom + 24.0), &value, text, Anchor::Middle);
        }
        let middle = left + size.0 * columns / 2.0;
        canvas.text((middle, bottom + 50.0), &self.across.0, head, Anchor::Middle);
        for (index, value) in self.up.1.iter().enumerate() {
            let y = bottom - size.1 * (index as f64 + 0.5);
            let value = canvas.fit(value, text, widest);
            canvas.text((left - 14.0, y + 5.0), &value, text, Anchor::End);
        }
        for (up, rates) in self.cells.iter().enumerate() {
            for (across, rate) in rates.iter().enumerate() {
                let Some(rate) = rate else { continue };
                let at = (left + size.0 * across as f64, bottom - size.1 * (up as f64 + 1.0));
                fill(&mut canvas, at, size, (rate, self.of));
                let hover = format!(
                    "{} {}, {} {}: {}",
                    self.across.0,
                    self.across.1[across],
                    self.up.0,
                    self.up.1[up],
                    rate_text(rate, self.of)
                );
                canvas.hover(at, (at.0 + size.0, at.1 + size.1), "", &hover);
                if self.target.is_some_and(|target| !rate.clear_of(target)) {
                    let (low, high) = ((at.0 + 2.5, at.1 + 2.5), (at.0 + size.0 - 2.5, at.1 + size.1 - 2.5));
                    let corners = vec![low, (high.0, low.1), high, (low.0, high.1), low];
                    canvas.path(corners, ORANGE, 3.0);
                }
            }
        }
        key(&mut canvas, (left, bottom + 74.0), self.of);
        canvas.finish()
    }
}
