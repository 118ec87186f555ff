//! Distributions of scores or lengths: one histogram a group, with the mean and its interval.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed, percent, short};
use crate::palette::{AXIS, CAPTION, GRID, INDIGO, INK, ORANGE, ORANGE_TEXT, SECOND, tint};

/// Histograms of one figure for several groups, on common axes.
#[derive(Clone, Debug, PartialEq)]
pub struct Distribution {
    /// The words.
    pub words: Words,
    /// The figure that is spread, with its unit.
    pub label: String,
    /// Edges of the bins, one more than bins.
    pub edges: Vec<f64>,
    /// Whether each bin is one whole number, named by its middle.
    pub whole: bool,
    /// The groups, top to bottom.
    pub groups: Vec<Group>,
}

/// One histogram.
#[derive(Clone, Debug, PartialEq)]
pub struct Group {
    /// Its name.
    pub name: String,
    /// Count by bin.
    pub counts: Vec<u64>,
    /// The mean, where it has an interval.
    pub mean: Option<Estimate>,
}

/// Room above the bars of a group, for the mean.
const HEAD: f64 = 50.0;
/// Fewer edges than this, and every bar carries its share.
const FEW: usize = 14;

impl Distribution {
    /// Draws it; the picture grows beyond six groups.
    pub fn draw(&self) -> Drawing {
        let height = HEIGHT.max(TOP + BOTTOM + 60.0 + 80.0 * self.groups.len() as f64);
        let mut canvas = framed(&self.words, height);
        let name = Type::new(LABEL, INK).bold();
        let widest = self.groups.iter().map(|group| canvas.measure(&group.name, name)).fold(60.0, f64::max).min(230.0);
        let (top, bottom) = (TOP, height - BOTTOM - 44.0);
        let (first, last) = (self.edges.first().copied().unwrap_or(0.0), self.edges.last().copied().unwrap_or(1.0));
        let x = Axis::new((first, last), (PADDING + widest + 70.0, WIDTH - PADDING));
        let step = (bottom - top) / self.groups.len().max(1) as f64;
        let highest = self.groups.iter().flat_map(Group::shares).fold(0.0, f64::max);
        for (at, label) in self.ticks(x) {
            canvas.line((x.at(at), top), (x.at(at), bottom), GRID, 1.0);
            canvas.text((x.at(at), bottom + 24.0), &label, Type::new(LABEL, SECOND), Anchor::Middle);
        }
        for (index, group) in self.groups.iter().enumerate() {
            let base = top + step * (index as f64 + 1.0);
            let y = Axis::new((0.0, highest), (base, base - step + HEAD));
            let label = canvas.fit(&group.name, name, widest);
            canvas.text((PADDING, base - step / 2.0 + 5.0), &label, name, Anchor::Start);
            self.histogram(&mut canvas, group, x, y);
            canvas.line((x.at(first), base), (x.at(last), base), AXIS, 1.0);
        }
        let middle = f64::midpoint(x.at(first), x.at(last));
        canvas.text((middle, bottom + 50.0), &self.label, name, Anchor::Middle);
        canvas.finish()
    }

    fn ticks(&self, x: Axis) -> Vec<(f64, String)> {
        if self.whole && self.edges.len() <= 24 {
            return self
                .edges
                .windows(2)
                .map(|bin| f64::midpoint(bin[0], bin[1]))
                .map(|at| (at, format!("{at:.0}")))
                .collect();
        }
        x.ticks(10)
    }

    fn histogram(&self, canvas: &mut Canvas, group: &Group, x: Axis, y: Axis) {
        let few = self.edges.len() <= FEW;
        for (bin, share) in self.edges.windows(2).zip(group.shares()).filter(|(_, share)| *share > 0.0) {
            let (left, right, top) = (x.at(bin[0]) + 0.5, x.at(bin[1]) - 0.5, y.at(share));
            canvas.rectangle((left, top), (right, y.at(0.0)), tint(INDIGO, 0.55));
            if few {
                let at = (f64::midpoint(left, right), top - 5.0);
                canvas.text(at, &percent(share), Type::new(12.5, CAPTION), Anchor::Middle);
            }
        }
        let Some(mean) = group.mean else { return };
        let (at, bar) = (x.at(mean.value), y.at(f64::MAX) - HEAD + 18.0);
        canvas.dashes((at, bar), (at, y.at(0.0)), ORANGE, 1.6, (2.0, 4.0));
        canvas.line((x.at(mean.low), bar), (x.at(mean.high), bar), tint(ORANGE, 0.6), 4.0);
        canvas.disc((at, bar), 4.0, ORANGE);
        let text = format!("mean {} ({}–{})", short(mean.value), short(mean.low), short(mean.high));
        let kind = Type::new(13.5, ORANGE_TEXT);
        let right = x.at(mean.high) + 10.0;
        if right + canvas.measure(&text, kind) < WIDTH - PADDING {
            canvas.text((right, bar + 5.0), &text, kind, Anchor::Start);
        } else {
            canvas.text((x.at(mean.low) - 10.0, bar + 5.0), &text, kind, Anchor::End);
        }
    }
}

impl Group {
    fn shares(&self) -> impl Iterator<Item = f64> {
        let total = self.counts.iter().sum::<u64>().max(1) as f64;
        self.counts.iter().map(move |&count| count as f64 / total)
    }
}
