//! Ratings round by round.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed, whole};
use crate::palette::{AXIS, CATEGORIES, GRID, INK, ORANGE, SECOND, tint};

/// Room for names at the ends of the lines, at most.
const NAMES: f64 = 320.0;
/// Labels stand this far apart.
const APART: f64 = 18.0;

/// Ratings of a field after each round.
#[derive(Clone, Debug, PartialEq)]
pub struct Rounds {
    /// The words.
    pub words: Words,
    /// One line an entrant, best at the end first; the first six are coloured.
    pub lines: Vec<RoundsLine>,
}

/// One entrant's rating after each round: the round, from 1 up, and the rating.
#[derive(Clone, Debug, PartialEq)]
#[expect(missing_docs, reason = "its name and its points")]
pub struct RoundsLine {
    pub name: String,
    pub points: Vec<(usize, Estimate)>,
}

impl Rounds {
    /// Draws it.
    pub fn draw(&self) -> Drawing {
        let mut canvas = framed(&self.words, HEIGHT);
        let (top, bottom) = (TOP + 16.0, HEIGHT - BOTTOM - 52.0);
        let room = self.room(&canvas);
        let (left, right) = (PADDING + 58.0, WIDTH - PADDING - room);
        let all = || self.lines.iter().flat_map(|line| &line.points);
        let last = all().map(|(round, _)| *round).max().unwrap_or(1);
        let first = all().map(|(round, _)| *round).min().unwrap_or(1);
        // Early intervals may be very wide: the axis holds the values, and the intervals of the last round.
        let values = || {
            all()
                .map(|(_, estimate)| estimate.value)
                .chain(self.ends().flat_map(|estimate| [estimate.low, estimate.high]))
        };
        let range = (values().fold(f64::INFINITY, f64::min), values().fold(f64::NEG_INFINITY, f64::max));
        let y = Axis::round(if range.0.is_finite() { range } else { (-1.0, 1.0) }, (bottom, top), 6);
        let x = Axis::new((first as f64, last as f64), (left + 14.0, right - 14.0));
        for (rating, text) in y.ticks(6) {
            canvas.line((left, y.at(rating)), (right, y.at(rating)), GRID, 1.0);
            canvas.text((left - 12.0, y.at(rating) + 5.0), &text, Type::new(LABEL, SECOND), Anchor::End);
        }
        canvas.dashes((left, y.at(0.0)), (right, y.at(0.0)), ORANGE, 1.5, (6.0, 5.0));
        canvas.line((left, bottom), (right, bottom), AXIS, 1.0);
        for (round, text) in x.ticks(12).into_iter().filter(|(round, _)| round.fract() == 0.0) {
            canvas.text(
                (x.at(round), bottom + 24.0),
                text.trim_end_matches(".0"),
                Type::new(LABEL, SECOND),
                Anchor::Middle,
            );
        }
        let label = Type::new(LABEL, INK).bold();
        canvas.text((f64::midpoint(left, right), bottom + 50.0), "Rounds played", label, Anchor::Middle);
        canvas.text((PADDING, top - 20.0), "Rating", label, Anchor::Start);
        for (index, line) in self.lines.iter().enumerate().rev() {
            line.draw(&mut canvas, &x, &y, CATEGORIES.get(index).map(|(mark, _)| *mark));
        }
        self.names(&mut canvas, &y, right, room);
        canvas.finish()
    }

    fn ends(&self) -> impl Iterator<Item = &Estimate> {
        self.lines.iter().filter_map(|line| line.points.last().map(|(_, estimate)| estimate))
    }

    /// Width of the widest name.
    fn room(&self, canvas: &Canvas) -> f64 {
        let kind = Type::new(LABEL, INK).bold();
        let named = self.lines.iter().take(CATEGORIES.len());
        named.map(|line| canvas.measure(&line.label(), kind) + 16.0).fold(90.0, f64::max).min(NAMES)
    }

    /// Names of the coloured lines at their ends, moved apart.
    fn names(&self, canvas: &mut Canvas, y: &Axis, right: f64, room: f64) {
        let mut places: Vec<(f64, usize)> = self
            .lines
            .iter()
            .enumerate()
            .take(CATEGORIES.len())
            .filter_map(|(index, line)| Some((y.at(line.points.last()?.1.value), index)))
            .collect();
        places.sort_by(|a, b| a.0.total_cmp(&b.0));
        for index in 1..places.len() {
            places[index].0 = places[index].0.max(places[index - 1].0 + APART);
        }
        for (at, index) in places {
            let line = &self.lines[index];
            let kind = Type::new(LABEL, CATEGORIES[index].1).bold();
            let text = canvas.fit(&line.label(), kind, room - 8.0);
            canvas.text((right + 4.0, at + 5.0), &text, kind, Anchor::Start);
        }
    }
}

impl RoundsLine {
    /// Its last rating and its name.
    fn label(&self) -> String {
        let value = self.points.last().map_or(0.0, |(_, estimate)| estimate.value);
        format!("{}  {}", whole(value), self.name)
    }

    fn draw(&self, canvas: &mut Canvas, x: &Axis, y: &Axis, colour: Option<(u8, u8, u8)>) {
        let points: Vec<(f64, f64)> =
            self.points.iter().map(|(round, estimate)| (x.at(*round as f64), y.at(estimate.value))).collect();
        let Some(colour) = colour else {
            canvas.path(points, tint(AXIS, 0.5), 1.2);
            return;
        };
        if let (Some((_, estimate)), Some(end)) = (self.points.last(), points.last()) {
            canvas.line((end.0, y.at(estimate.low)), (end.0, y.at(estimate.high)), tint(colour, 0.5), 4.0);
        }
        let end = points.last().copied();
        canvas.path(points, colour, 2.4);
        if let Some(end) = end {
            canvas.disc(end, 5.0, colour);
        }
    }
}
