//! The matrix of win rates: the row's rate against the column.

use crate::Drawing;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed_in, percent, short, signed};
use crate::palette::{INK, SECOND, diverging, on, tint};

/// Rates of every entrant against every other, or their deviations from the expectation.
#[derive(Clone, Debug, PartialEq)]
pub struct Matrix {
    /// The words.
    pub words: Words,
    /// The figure of the cells.
    pub of: MatrixOf,
    /// Names in the order drawn.
    pub names: Vec<String>,
    /// `cells[row][column]`: the row's figure against the column, if they met.
    pub cells: Vec<Vec<Option<Estimate>>>,
}

/// The figure in the cells of a matrix.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum MatrixOf {
    /// Rates; even is one half.
    Rates,
    /// Differences of rates; even is 0.
    Residuals,
    /// Any figures; none is even.
    #[expect(missing_docs, reason = "the least and the largest")]
    Values { low: f64, high: f64 },
}

/// Cells narrower than this hold a figure without its interval; than `NUMBERED`, columns are numbered.
const ROOMY: (f64, f64) = (76.0, 46.0);
const NUMBERED: f64 = 64.0;
/// The narrowest cell in which a figure reads well; beyond it the picture grows.
const NARROWEST: (f64, f64) = (27.0, 21.0);
/// The colour share of a cell that is not separable from even.
const PALE: f64 = 0.45;
/// A residual this large has the strongest colour.
const STRONG: f64 = 0.2;

impl MatrixOf {
    /// Whether it can be told from even.
    fn is_clear(self, estimate: &Estimate) -> bool {
        match self {
            Self::Rates => estimate.clear_of(0.5),
            Self::Residuals => estimate.clear_of(0.0),
            Self::Values { .. } => true,
        }
    }

    /// Returns a figure's place on the colour scale.
    fn shade(self, x: f64) -> f64 {
        match self {
            Self::Rates => x,
            Self::Residuals => 0.5 + (x / STRONG / 2.0).clamp(-0.5, 0.5),
            Self::Values { low, high } if high > low => (x - low) / (high - low),
            Self::Values { .. } => 0.5,
        }
    }

    fn text(self, x: f64, narrow: bool) -> String {
        match self {
            Self::Rates if narrow => format!("{:.0}", x * 100.0),
            Self::Rates => percent(x),
            Self::Residuals => signed(x * 100.0),
            Self::Values { .. } => short(x),
        }
    }
}

impl Matrix {
    /// Draws it; the picture grows with the field.
    pub fn draw(&self) -> Drawing {
        let n = self.names.len().max(1) as f64;
        let kind = Type::new(if n > 30.0 { 13.0 } else { LABEL }, INK).bold();
        let widest = {
            let canvas = Canvas::new(1.0, 1.0);
            self.names.iter().map(|text| canvas.measure(text, kind)).fold(40.0, f64::max).min(220.0)
        };
        let numbers = if self.numbered(widest) { 34.0 } else { 0.0 };
        let (left, top) = (PADDING + widest + numbers + 18.0, TOP + 28.0);
        let room = (((WIDTH - PADDING - left) / n).min(190.0), 92.0);
        let cell = (room.0.max(NARROWEST.0), ((HEIGHT - BOTTOM - 70.0 - top) / n).clamp(NARROWEST.1, room.1));
        let cell = (cell.0, if n > 30.0 { cell.1 } else { cell.1.max(30.0) });
        let size = ((left + cell.0 * n + PADDING).max(WIDTH), (top + cell.1 * n + 70.0 + BOTTOM).max(HEIGHT));
        let mut canvas = framed_in(&self.words, size);
        self.label(&mut canvas, (left, top), cell, (widest, kind));
        for (row, rates) in self.cells.iter().enumerate() {
            for (column, rate) in rates.iter().enumerate() {
                if let Some(rate) = rate {
                    let at = (left + cell.0 * column as f64, top + cell.1 * row as f64);
                    fill(&mut canvas, at, cell, (rate, self.of));
                    let (a, b) = (&self.names[row], &self.names[column]);
                    let hover = format!("{a} against {b}: {}", rate_text(rate, self.of));
                    canvas.hover(at, (at.0 + cell.0, at.1 + cell.1), a, &hover);
                }
            }
        }
        key(&mut canvas, (left, top + cell.1 * n + 26.0), self.of);
        canvas.finish()
    }

    fn numbered(&self, widest: f64) -> bool {
        (WIDTH - 2.0 * PADDING - widest) / (self.names.len().max(1) as f64) < NUMBERED
    }

    /// Names beside the rows, and over the columns; where these are narrow, numbers stand in both places.
    fn label(&self, canvas: &mut Canvas, (left, top): (f64, f64), cell: (f64, f64), (widest, kind): (f64, Type)) {
        let numbered = self.numbered(widest);
        let second = Type { colour: SECOND, bold: false, ..kind };
        for (index, text) in self.names.iter().enumerate() {
            let (x, y) = (left + cell.0 * (index as f64 + 0.5), top + cell.1 * (index as f64 + 0.5));
            let row = canvas.fit(text, kind, widest);
            let beside = left - 18.0 - if numbered { 34.0 } else { 0.0 };
            canvas.text((beside, y + 5.0), &row, kind, Anchor::End);
            let number = (index + 1).to_string();
            if numbered {
                canvas.text((left - 14.0, y + 5.0), &number, second, Anchor::End);
            }
            let head = if numbered { number } else { canvas.fit(text, second, cell.0 - 4.0) };
            canvas.text((x, top - 12.0), &head, second, Anchor::Middle);
        }
    }
}

/// A cell in words.
pub(crate) fn rate_text(rate: &Estimate, of: MatrixOf) -> String {
    let ends = [rate.low, rate.high].map(|end| of.text(end, false));
    format!("{} ({} to {})", of.text(rate.value, false), ends[0], ends[1])
}

/// One coloured cell with its figure: bold where it is clearly not even, pale where it is not; the interval under it
/// where there is room.
pub(crate) fn fill(canvas: &mut Canvas, at: (f64, f64), size: (f64, f64), (rate, of): (&Estimate, MatrixOf)) {
    let clear = of.is_clear(rate);
    let full = diverging(of.shade(rate.value));
    let colour = if clear { full } else { tint(full, PALE) };
    canvas.rectangle((at.0 + 1.0, at.1 + 1.0), (at.0 + size.0 - 1.0, at.1 + size.1 - 1.0), colour);
    let roomy = size.0 >= ROOMY.0 && size.1 >= ROOMY.1;
    let narrow = size.0 < 44.0;
    let figure = Type::new(if narrow { 12.0 } else { 17.0 }, on(colour));
    let figure = if clear { figure.bold() } else { figure };
    let middle = (at.0 + size.0 / 2.0, at.1 + size.1 / 2.0);
    let up = if roomy { 2.0 } else { -figure.size * 0.35 };
    canvas.text((middle.0, middle.1 - up), &of.text(rate.value, narrow), figure, Anchor::Middle);
    if roomy {
        let ends = match of {
            MatrixOf::Rates => format!("{:.0}–{:.0}", rate.low * 100.0, rate.high * 100.0),
            MatrixOf::Residuals => format!("{} to {}", signed(rate.low * 100.0), signed(rate.high * 100.0)),
            MatrixOf::Values { .. } => format!("{} to {}", short(rate.low), short(rate.high)),
        };
        canvas.text((middle.0, middle.1 + 17.0), &ends, Type::new(12.5, on(colour)), Anchor::Middle);
    }
}

/// The key to the colours.
pub(crate) fn key(canvas: &mut Canvas, at: (f64, f64), of: MatrixOf) {
    const STEPS: usize = 60;
    const LENGTH: f64 = 300.0;
    for step in 0..STEPS {
        let x = at.0 + LENGTH * step as f64 / STEPS as f64;
        let colour = diverging((step as f64 + 0.5) / STEPS as f64);
        canvas.rectangle((x, at.1), (x + LENGTH / STEPS as f64 + 0.3, at.1 + 10.0), colour);
    }
    for part in [0.0, 0.25, 0.5, 0.75, 1.0] {
        let text = match of {
            MatrixOf::Rates => percent(part),
            MatrixOf::Residuals => signed((part - 0.5) * 2.0 * STRONG * 100.0),
            MatrixOf::Values { low, high } => short(low + part * (high - low)),
        };
        canvas.text((at.0 + LENGTH * part, at.1 + 28.0), &text, Type::new(13.5, SECOND), Anchor::Middle);
    }
}
