//! Two figures against each other over all probes: the front of two targets.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed};
use crate::palette::{AXIS, GRID, INDIGO, INK, ORANGE, ORANGE_TEXT, SECOND, tint};

/// All probes of a search, by two of its targets.
#[derive(Clone, Debug, PartialEq)]
pub struct Front {
    /// The words.
    pub words: Words,
    /// The figure across, with its target.
    pub across: FrontAxis,
    /// The figure up.
    pub up: FrontAxis,
    /// Points that were tried.
    pub tried: Vec<FrontMark>,
    /// The point that was chosen and proved.
    pub chosen: Option<(Estimate, Estimate)>,
}

/// One of the two figures.
#[derive(Clone, Debug, PartialEq)]
pub struct FrontAxis {
    /// The title.
    pub title: String,
    /// Lowest and highest wanted value, infinite where there is none.
    pub wanted: (f64, f64),
    /// Whether its values are shares.
    pub rate: bool,
}

/// A probe.
#[derive(Clone, Debug, PartialEq)]
pub struct FrontMark {
    /// The two figures.
    pub at: (f64, f64),
    /// Its share of the largest probe, 0 to 1.
    pub size: f64,
    /// The knobs, in words.
    pub text: String,
}

impl FrontAxis {
    /// Returns a value's distance from the target.
    fn off(&self, x: f64) -> f64 {
        (self.wanted.0 - x).max(x - self.wanted.1).max(0.0)
    }

    fn axis(&self, values: impl Iterator<Item = f64> + Clone, pixels: (f64, f64)) -> Axis {
        let all = values.chain([self.wanted.0, self.wanted.1]).filter(|x| x.is_finite());
        let (low, high) = all.fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), x| (low.min(x), high.max(x)));
        Axis::round((low, high), pixels, 6)
    }

    fn tick(&self, x: f64, text: String) -> String {
        if self.rate { format!("{:.0} %", 100.0 * x) } else { text }
    }
}

impl Front {
    /// The probes that no other is nearer than in both figures, from the nearest across to the nearest up.
    pub fn edge(&self) -> Vec<(f64, f64)> {
        let off = |mark: &FrontMark| (self.across.off(mark.at.0), self.up.off(mark.at.1));
        let beaten = |mark: &FrontMark| {
            let (x, y) = off(mark);
            self.tried.iter().any(|other| {
                let (u, v) = off(other);
                u <= x && v <= y && (u < x || v < y)
            })
        };
        let mut edge: Vec<&FrontMark> = self.tried.iter().filter(|mark| !beaten(mark)).collect();
        edge.sort_by(|a, b| off(a).partial_cmp(&off(b)).unwrap_or(std::cmp::Ordering::Equal));
        edge.iter().map(|mark| mark.at).collect()
    }

    /// Draws it.
    pub fn draw(&self) -> Drawing {
        let mut canvas = framed(&self.words, HEIGHT);
        let (top, bottom) = (TOP + 26.0, HEIGHT - BOTTOM - 44.0);
        let (left, right) = (PADDING + 60.0, WIDTH - PADDING);
        let chosen = self.chosen.iter();
        let x = self
            .across
            .axis(self.tried.iter().map(|mark| mark.at.0).chain(chosen.clone().map(|(x, _)| x.value)), (left, right));
        let y =
            self.up.axis(self.tried.iter().map(|mark| mark.at.1).chain(chosen.map(|(_, y)| y.value)), (bottom, top));
        let end = |axis: &Axis, x: f64, ends: (f64, f64)| {
            if x == f64::INFINITY {
                ends.1
            } else if x == f64::NEG_INFINITY {
                ends.0
            } else {
                axis.at(x)
            }
        };
        let wide = self.across.wanted;
        let high = self.up.wanted;
        let (x0, x1) = (end(&x, wide.0, (left, right)), end(&x, wide.1, (left, right)));
        let (y0, y1) = (end(&y, high.0, (bottom, top)), end(&y, high.1, (bottom, top)));
        canvas.rectangle((x0, top), (x1, bottom), tint(ORANGE, 0.10));
        canvas.rectangle((left, y1), (right, y0), tint(ORANGE, 0.10));
        canvas.rectangle((x0, y1), (x1, y0), tint(ORANGE, 0.28));
        self.axes(&mut canvas, (&x, &y), (left, right), (top, bottom));
        canvas.text((f64::midpoint(x0, x1), top - 6.0), "wanted", Type::new(13.5, ORANGE_TEXT), Anchor::Middle);
        let edge: Vec<(f64, f64)> = self.edge().iter().map(|(u, v)| (x.at(*u), y.at(*v))).collect();
        if edge.len() > 1 {
            canvas.path(edge, tint(INDIGO, 0.6), 2.0);
        }
        for mark in &self.tried {
            let at = (x.at(mark.at.0), y.at(mark.at.1));
            canvas.disc(at, 3.0 + 4.0 * mark.size.sqrt(), tint(INDIGO, 0.4));
            canvas.hover((at.0 - 8.0, at.1 - 8.0), (at.0 + 8.0, at.1 + 8.0), "", &mark.text);
        }
        if let Some((u, v)) = &self.chosen {
            let at = (x.at(u.value), y.at(v.value));
            canvas.line((x.at(u.low), at.1), (x.at(u.high), at.1), INK, 2.0);
            canvas.line((at.0, y.at(v.low)), (at.0, y.at(v.high)), INK, 2.0);
            canvas.disc(at, 8.0, INDIGO);
            let side = if at.0 > f64::midpoint(left, right) { (Anchor::End, -14.0) } else { (Anchor::Start, 14.0) };
            canvas.text((at.0 + side.1, at.1 + 30.0), "chosen, proved", Type::new(LABEL, INK).bold(), side.0);
        }
        canvas.finish()
    }

    fn axes(&self, canvas: &mut Canvas, (x, y): (&Axis, &Axis), (left, right): (f64, f64), (top, bottom): (f64, f64)) {
        canvas.text((PADDING, top - 22.0), &self.up.title, Type::new(LABEL, INK).bold(), Anchor::Start);
        for (value, text) in y.ticks(6) {
            canvas.line((left, y.at(value)), (right, y.at(value)), GRID, 1.0);
            let text = self.up.tick(value, text);
            canvas.text((left - 12.0, y.at(value) + 5.0), &text, Type::new(LABEL, SECOND), Anchor::End);
        }
        for (value, text) in x.ticks(6) {
            let text = self.across.tick(value, text);
            canvas.text((x.at(value), bottom + 24.0), &text, Type::new(LABEL, SECOND), Anchor::Middle);
        }
        canvas.line((left, bottom), (right, bottom), AXIS, 1.0);
        canvas.line((left, top), (left, bottom), AXIS, 1.0);
        let middle = f64::midpoint(left, right);
        canvas.text((middle, bottom + 50.0), &self.across.title, Type::new(LABEL, INK).bold(), Anchor::Middle);
    }
}
