//! The running interval of a comparison, and where it became clear.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed, percent, signed};
use crate::palette::{AXIS, GRID, INDIGO, INK, ORANGE, ORANGE_TEXT, SECOND, tint};

/// A comparison over its blocks.
#[derive(Clone, Debug, PartialEq)]
pub struct Running {
    /// The words.
    pub words: Words,
    /// The figure that is compared, for the axis.
    pub figure: String,
    /// Looks: blocks so far and the interval then; shares or differences of shares.
    pub looks: Vec<(u64, Estimate)>,
    /// The figure of two that are alike.
    pub even: f64,
    /// The largest distance from even that counts as equal.
    pub equal_within: Option<f64>,
    /// The block after which it was clear, with the verdict.
    pub clear: Option<(u64, String)>,
}

impl Running {
    /// Draws it, with the blocks on a logarithmic axis.
    pub fn draw(&self) -> Drawing {
        let mut canvas = framed(&self.words, HEIGHT);
        let (top, bottom) = (TOP + 20.0, HEIGHT - BOTTOM - 52.0);
        let (left, right) = (PADDING + 58.0, WIDTH - PADDING - 20.0);
        let last = self.looks.last().map_or(10, |(block, _)| *block).max(2) as f64;
        let x = Axis::new((0.0, last.log10() + 0.06), (left, right));
        let at = |block: u64| x.at((block.max(1) as f64).log10());
        let reach = if self.even > 0.0 { (0.0, 1.0) } else { self.reach() };
        let y = Axis::round(reach, (bottom, top), 5);
        let label = Type::new(LABEL, SECOND);
        for (value, _) in y.ticks(5) {
            canvas.line((left, y.at(value)), (right, y.at(value)), GRID, 1.0);
            canvas.text((left - 12.0, y.at(value) + 5.0), &self.number_text(value), label, Anchor::End);
        }
        let ends = |low: bool| {
            self.looks.iter().map(move |(block, estimate)| (*block, if low { estimate.low } else { estimate.high }))
        };
        let mut area: Vec<(f64, f64)> = ends(true).map(|(block, end)| (at(block), y.at(end))).collect();
        let back: Vec<(f64, f64)> = ends(false).map(|(block, end)| (at(block), y.at(end))).collect();
        area.extend(back.iter().rev());
        canvas.area(area, tint(INDIGO, 0.18));
        canvas.dashes((left, y.at(self.even)), (right, y.at(self.even)), ORANGE, 1.6, (6.0, 5.0));
        if let Some(within) = self.equal_within {
            for edge in [self.even - within, self.even + within] {
                canvas.dashes((left, y.at(edge)), (right, y.at(edge)), ORANGE, 1.0, (2.0, 5.0));
            }
            let text = format!("equal within {} points", (within * 1e4).round() / 100.0);
            let place = (left + 8.0, y.at(self.even + within) - 6.0);
            canvas.text(place, &text, Type::new(13.5, ORANGE_TEXT), Anchor::Start);
        }
        // The first values may lie anywhere: those beyond the axis are left out.
        let within_axis = |estimate: &Estimate| y.at(estimate.value) > top + 0.5 && y.at(estimate.value) < bottom - 0.5;
        for looks in self.looks.chunk_by(|a, b| within_axis(&a.1) == within_axis(&b.1)) {
            if looks.len() > 1 && within_axis(&looks[0].1) {
                let middle = looks.iter().map(|(block, estimate)| (at(*block), y.at(estimate.value))).collect();
                canvas.path(middle, INDIGO, 2.4);
            }
        }
        canvas.line((left, bottom), (right, bottom), AXIS, 1.0);
        for block in (0..10).flat_map(|decade| [1, 2, 5].map(|lead| lead * 10u64.pow(decade))) {
            if (block as f64) <= last * 1.1 {
                canvas.line((at(block), bottom), (at(block), bottom + 5.0), AXIS, 1.0);
                canvas.text((at(block), bottom + 24.0), &block.to_string(), label, Anchor::Middle);
            }
        }
        let bold = Type::new(LABEL, INK).bold();
        canvas.text((f64::midpoint(left, right), bottom + 50.0), "Blocks", bold, Anchor::Middle);
        canvas.text((PADDING, top - 24.0), &self.figure, bold, Anchor::Start);
        self.end(&mut canvas, &y, at, (top, bottom));
        canvas.finish()
    }

    /// The last look, and where it became clear.
    fn end(&self, canvas: &mut Canvas, y: &Axis, at: impl Fn(u64) -> f64, (top, bottom): (f64, f64)) {
        if let Some((block, estimate)) = self.looks.last() {
            let x = at(*block);
            canvas.line((x, y.at(estimate.low)), (x, y.at(estimate.high)), INDIGO, 2.4);
            canvas.disc((x, y.at(estimate.value)), 6.0, INDIGO);
        }
        if let Some((block, text)) = &self.clear {
            let kind = Type::new(LABEL, ORANGE_TEXT).bold();
            canvas.dashes((at(*block), top), (at(*block), bottom), ORANGE, 1.6, (2.0, 4.0));
            canvas.text((at(*block) - 10.0, top + 14.0), text, kind, Anchor::End);
        }
    }

    /// Returns the range of differences (-1 to 1) in the last half of the looks, even included.
    fn reach(&self) -> (f64, f64) {
        let late = self.looks.iter().skip(self.looks.len() / 3);
        let within = self.equal_within.unwrap_or(0.0);
        let ends = || late.clone().flat_map(|(_, estimate)| [estimate.low, estimate.high]).chain([-within, within]);
        (ends().fold(0.0, f64::min), ends().fold(0.0, f64::max))
    }

    fn number_text(&self, value: f64) -> String {
        if self.even > 0.0 { percent(value) } else { signed(value * 100.0) }
    }
}
