//! Who beats whom: the row's rate against the column.

use crate::Drawing;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed, percent};
use crate::palette::{INK, SECOND, diverging, on};

/// Rates of every entrant against every other.
#[derive(Clone, Debug, PartialEq)]
pub struct Matrix {
    /// The words.
    pub words: Words,
    /// Names in the order drawn.
    pub names: Vec<String>,
    /// `cells[row][column]`: the row's rate against the column, if they met.
    pub cells: Vec<Vec<Option<Estimate>>>,
}

impl Matrix {
    /// Draws it; the picture grows with the field.
    pub fn draw(&self) -> Drawing {
        let n = self.names.len().max(1) as f64;
        let height = HEIGHT.max(TOP + BOTTOM + 100.0 + 30.0 * n);
        let mut canvas = framed(&self.words, height);
        let name = Type::new(LABEL, INK).bold();
        let widest = self.names.iter().map(|text| canvas.measure(text, name)).fold(40.0, f64::max).min(220.0);
        let (left, top) = (PADDING + widest + 18.0, TOP + 28.0);
        let cell = (((WIDTH - PADDING - left) / n).min(190.0), ((height - BOTTOM - 70.0 - top) / n).min(92.0));
        for (index, text) in self.names.iter().enumerate() {
            let (x, y) = (left + cell.0 * (index as f64 + 0.5), top + cell.1 * (index as f64 + 0.5));
            let row = canvas.fit(text, name, widest);
            canvas.text((left - 18.0, y + 5.0), &row, name, Anchor::End);
            let head = canvas.fit(text, Type::new(LABEL, SECOND), cell.0 - 4.0);
            canvas.text((x, top - 12.0), &head, Type::new(LABEL, SECOND), Anchor::Middle);
        }
        for (row, rates) in self.cells.iter().enumerate() {
            for (column, rate) in rates.iter().enumerate() {
                if let Some(rate) = rate {
                    let at = (left + cell.0 * column as f64, top + cell.1 * row as f64);
                    self::cell(&mut canvas, at, cell, rate);
                }
            }
        }
        scale(&mut canvas, (left, top + cell.1 * n + 26.0));
        canvas.finish()
    }
}

/// One coloured cell with its rate; bold where it is clearly not one half, the interval under it where there is room.
pub(crate) fn cell(canvas: &mut Canvas, at: (f64, f64), size: (f64, f64), rate: &Estimate) {
    let colour = diverging(rate.value);
    canvas.rectangle((at.0 + 1.0, at.1 + 1.0), (at.0 + size.0 - 1.0, at.1 + size.1 - 1.0), colour);
    let roomy = size.1 >= 46.0 && size.0 >= 76.0;
    let figure = Type::new(if size.0 < 44.0 { 12.0 } else { 17.0 }, on(colour));
    let figure = if rate.clear_of(0.5) { figure.bold() } else { figure };
    let middle = (at.0 + size.0 / 2.0, at.1 + size.1 / 2.0);
    let up = if roomy { 2.0 } else { -6.0 };
    canvas.text((middle.0, middle.1 - up), &percent(rate.value), figure, Anchor::Middle);
    if roomy {
        let ends = format!("{:.0}–{:.0}", rate.low * 100.0, rate.high * 100.0);
        canvas.text((middle.0, middle.1 + 17.0), &ends, Type::new(12.5, on(colour)), Anchor::Middle);
    }
}

/// The key to the colours.
pub(crate) fn scale(canvas: &mut Canvas, at: (f64, f64)) {
    const STEPS: usize = 60;
    const LENGTH: f64 = 300.0;
    for step in 0..STEPS {
        let x = at.0 + LENGTH * step as f64 / STEPS as f64;
        let colour = diverging((step as f64 + 0.5) / STEPS as f64);
        canvas.rectangle((x, at.1), (x + LENGTH / STEPS as f64 + 0.3, at.1 + 10.0), colour);
    }
    for rate in [0.0, 0.25, 0.5, 0.75, 1.0] {
        let text = Type::new(13.5, SECOND);
        canvas.text((at.0 + LENGTH * rate, at.1 + 28.0), &percent(rate), text, Anchor::Middle);
    }
}
