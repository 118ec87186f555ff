//! A response curve: points with intervals, the curve with its band, the target and the value that gives it.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed, percent, short};
use crate::palette::{AXIS, GRID, INDIGO, INK, ORANGE, ORANGE_TEXT, PAPER, SECOND, tint};

/// A response curve.
#[derive(Clone, Debug, PartialEq)]
pub struct Response {
    /// The words.
    pub words: Words,
    /// The knob, for the axis.
    pub knob: String,
    /// The points by rising knob value; words in place of numbers stand at 0, 1, 2, ...
    pub points: Vec<ResponsePoint>,
    /// The curve with its band: knob value and estimate.
    pub band: Vec<(f64, Estimate)>,
    /// The wanted rate.
    pub target: Option<f64>,
    /// The knob values that give it.
    pub answers: Vec<Answer>,
}

/// A measured point.
#[derive(Clone, Debug, PartialEq)]
pub struct ResponsePoint {
    /// Knob value.
    pub x: f64,
    /// Label in place of the number, for words.
    pub label: Option<String>,
    /// The rate there.
    pub rate: Estimate,
}

/// The knob value that gives the target.
#[derive(Clone, Debug, PartialEq)]
pub struct Answer {
    /// The value.
    pub value: f64,
    /// It with its name, as in `Skill 0.57`.
    pub name: String,
    /// Its interval in words.
    pub interval: String,
}

impl Response {
    /// Draws it.
    pub fn draw(&self) -> Drawing {
        let mut canvas = framed(&self.words, HEIGHT);
        let (top, bottom) = (TOP + 26.0, HEIGHT - BOTTOM - 44.0);
        let (left, right) = (PADDING + 55.0, WIDTH - PADDING);
        let low = self.points.iter().map(|point| point.x).fold(f64::INFINITY, f64::min);
        let high = self.points.iter().map(|point| point.x).fold(f64::NEG_INFINITY, f64::max);
        let x = Axis::new((low, high), (left + 21.0, right - 21.0));
        let y = Axis::new((0.0, 1.0), (bottom, top));
        canvas.text((PADDING, top - 22.0), "Win rate", Type::new(LABEL, INK).bold(), Anchor::Start);
        for (rate, _) in y.ticks(5) {
            canvas.line((left, y.at(rate)), (right, y.at(rate)), GRID, 1.0);
            canvas.text((left - 12.0, y.at(rate) + 5.0), &percent(rate), Type::new(LABEL, SECOND), Anchor::End);
        }
        canvas.line((left, top), (left, bottom), AXIS, 1.0);
        canvas.line((left, bottom), (right, bottom), AXIS, 1.0);
        self.knob_axis(&mut canvas, x, bottom);
        let both: Vec<(f64, f64)> = self.band.iter().map(|(at, band)| (x.at(*at), y.at(band.low))).collect();
        let back = self.band.iter().rev().map(|(at, band)| (x.at(*at), y.at(band.high)));
        if !both.is_empty() {
            canvas.area(both.into_iter().chain(back).collect(), tint(INDIGO, 0.14));
        }
        if let Some(target) = self.target {
            let at = y.at(target);
            canvas.dashes((left, at), (right, at), ORANGE, 1.6, (8.0, 6.0));
        }
        if self.band.len() > 1 {
            let curve = self.band.iter().map(|(at, band)| (x.at(*at), y.at(band.value))).collect();
            canvas.path(curve, INDIGO, 2.6);
        }
        for point in &self.points {
            let at = x.at(point.x);
            canvas.line((at, y.at(point.rate.low)), (at, y.at(point.rate.high)), INDIGO, 1.6);
            for end in [point.rate.low, point.rate.high] {
                canvas.line((at - 4.5, y.at(end)), (at + 4.5, y.at(end)), INDIGO, 1.6);
            }
            canvas.disc((at, y.at(point.rate.value)), 4.8, INDIGO);
            let name = point.label.clone().unwrap_or_else(|| short(point.x));
            let ends = [point.rate.value, point.rate.low, point.rate.high].map(|rate| format!("{:.1} %", 100.0 * rate));
            let hover = format!("{} {name}: {} ({} to {})", self.knob, ends[0], ends[1], ends[2]);
            let (low, high) = (y.at(point.rate.low), y.at(point.rate.high));
            canvas.hover((at - 10.0, low.max(high) + 6.0), (at + 10.0, low.min(high) - 6.0), &name, &hover);
        }
        self.answer(&mut canvas, x, y, (left, right, bottom));
        canvas.finish()
    }

    fn knob_axis(&self, canvas: &mut Canvas, x: Axis, bottom: f64) {
        let words = self.points.iter().filter_map(|point| Some((point.x, point.label.clone()?)));
        let mut ticks: Vec<(f64, String)> = words.collect();
        if ticks.is_empty() {
            ticks = x.ticks(10);
        }
        for (at, label) in ticks {
            canvas.line((x.at(at), bottom), (x.at(at), bottom + 5.0), AXIS, 1.0);
            canvas.text((x.at(at), bottom + 24.0), &label, Type::new(LABEL, SECOND), Anchor::Middle);
        }
        let middle = f64::midpoint(PADDING + 55.0, WIDTH - PADDING);
        canvas.text((middle, bottom + 50.0), &self.knob, Type::new(LABEL, INK).bold(), Anchor::Middle);
    }

    /// The label of the target stands at the end of its line where the curve is farther away; the answer where the
    /// curve leaves room.
    fn answer(&self, canvas: &mut Canvas, x: Axis, y: Axis, (left, right, bottom): (f64, f64, f64)) {
        let Some(target) = self.target else { return };
        let away = |point: Option<&ResponsePoint>| point.map_or(0.0, |point| (point.rate.value - target).abs());
        let at_left = away(self.points.first()) >= away(self.points.last());
        let (at, anchor) = if at_left { (left + 8.0, Anchor::Start) } else { (right - 4.0, Anchor::End) };
        let label = format!("Target {}", short_percent(target));
        canvas.text((at, y.at(target) - 7.0), &label, Type::new(LABEL, ORANGE_TEXT).bold(), anchor);
        for (number, answer) in self.answers.iter().enumerate() {
            let (px, py) = (x.at(answer.value), y.at(target));
            canvas.dashes((px, py), (px, bottom), ORANGE, 1.6, (2.0, 4.0));
            canvas.disc((px, py), 9.0, ORANGE);
            canvas.disc((px, py), 5.6, PAPER);
            let name = Type::new(19.0, ORANGE_TEXT).bold();
            let below = Type::new(LABEL, SECOND);
            let room = canvas.measure(&answer.name, name).max(canvas.measure(&answer.interval, below)) + 30.0;
            // Below a rising curve is to the right of the answer, below a falling one to its left; of several the outer
            // sides are free.
            let wants_right = if self.answers.len() > 1 { number > 0 } else { self.rises_at(answer.value) };
            let to_right = if wants_right { px + room < right } else { px - room < left };
            let (tx, anchor) = if to_right { (px + 26.0, Anchor::Start) } else { (px - 26.0, Anchor::End) };
            let down = LINES * number.saturating_sub(1) as f64;
            let ty = (py + 96.0 + down).min(bottom - 40.0);
            canvas.text((tx, ty), &answer.name, name, anchor);
            canvas.text((tx, ty + 25.0), &answer.interval, below, anchor);
        }
    }

    /// Whether the curve rises at a knob value.
    fn rises_at(&self, value: f64) -> bool {
        let after = self.band.partition_point(|(at, _)| *at < value).clamp(1, self.band.len().saturating_sub(1).max(1));
        match (self.band.get(after - 1), self.band.get(after)) {
            (Some((_, before)), Some((_, after))) => before.value < after.value,
            _ => false,
        }
    }
}

/// Height of the two lines of an answer's label.
const LINES: f64 = 56.0;

fn short_percent(rate: f64) -> String {
    let text = short(rate * 100.0);
    let text = if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.') } else { &text };
    format!("{text} %")
}
