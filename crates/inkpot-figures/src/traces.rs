//! Traces of a search: small panels, one a figure.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, HEIGHT, TOP, Words, framed, grouped, percent};
use crate::grid::{COLUMNS, Room, rooms, titled};
use crate::palette::{AXIS, GRID, INDIGO, SECOND};
use crate::repetitions::Repetitions;

/// Figures over a search's cost.
#[derive(Clone, Debug, PartialEq)]
pub struct Traces {
    /// The words.
    pub words: Words,
    /// The unit of cost, for the axes.
    pub spent: String,
    /// One panel a figure.
    pub panels: Vec<TracesPanel>,
}

/// One figure over a search's cost.
#[derive(Clone, Debug, PartialEq)]
pub struct TracesPanel {
    /// Its label with unit.
    pub label: String,
    /// Each repetition: cost and figure, in order.
    pub repetitions: Vec<Vec<(f64, f64)>>,
    /// The range that it may have, if that is known and shown.
    pub range: Option<(f64, f64)>,
    /// Whether it is a share, told in per cent.
    pub is_share: bool,
    /// Words in place of the numbers 0, 1, 2, ...
    pub names: Vec<String>,
}

/// The least height of a panel with its words.
const TALL: f64 = 190.0;

impl Traces {
    /// Draws it; the picture grows with the panels.
    pub fn draw(&self) -> Drawing {
        let columns = match self.panels.len() {
            0 | 1 => 1,
            2 | 4 => 2,
            _ => COLUMNS,
        };
        let height = HEIGHT.max(TOP + BOTTOM + TALL * self.panels.len().div_ceil(columns) as f64);
        let mut canvas = framed(&self.words, height);
        let points = || self.panels.iter().flat_map(|panel| panel.repetitions.iter().flatten());
        let most = points().map(|point| point.0).fold(1.0, f64::max);
        for (panel, room) in self.panels.iter().zip(rooms(self.panels.len(), columns, height)) {
            titled(&mut canvas, room, &panel.label);
            panel.draw(&mut canvas, room, most, &self.spent);
        }
        canvas.finish()
    }
}

impl TracesPanel {
    fn draw(&self, canvas: &mut Canvas, room: Room, most: f64, spent: &str) {
        let label = Type::new(12.5, SECOND);
        let pixels = (room.bottom, room.top);
        let y = match self.range {
            Some(range) => Axis::new(range, pixels),
            None => Axis::round(self.reach(), pixels, 3),
        };
        let named = |(number, name): (usize, &String)| (number as f64, name.clone());
        let labelled = |(at, text): (f64, String)| if self.is_share { (at, percent(at)) } else { (at, text) };
        let ticks: Vec<(f64, String)> = match self.names.as_slice() {
            [] => y.ticks(3).into_iter().map(labelled).collect(),
            names => names.iter().enumerate().map(named).collect(),
        };
        let widest = ticks.iter().map(|(_, text)| canvas.measure(text, label)).fold(20.0, f64::max).min(110.0);
        let left = room.left + widest + 10.0;
        for (at, text) in ticks {
            canvas.line((left, y.at(at)), (room.right, y.at(at)), GRID, 1.0);
            let text = canvas.fit(&text, label, widest);
            canvas.text((left - 8.0, y.at(at) + 4.5), &text, label, Anchor::End);
        }
        let x = Axis::new((0.0, most), (left, room.right - 6.0));
        canvas.line((left, room.bottom), (room.right, room.bottom), AXIS, 1.0);
        for (at, _) in x.ticks(3) {
            canvas.text((x.at(at), room.bottom + 18.0), &grouped(at), label, Anchor::Middle);
        }
        canvas.text((f64::midpoint(left, room.right), room.bottom + 36.0), spent, label, Anchor::Middle);
        let spread = Repetitions(&self.repetitions);
        if self.names.is_empty() {
            spread.draw(canvas, &x, &y, INDIGO, 2.2);
        } else {
            // Between words there is no median.
            for points in &self.repetitions {
                canvas.path(points.iter().map(|point| (x.at(point.0), y.at(point.1))).collect(), INDIGO, 1.2);
            }
        }
    }

    fn reach(&self) -> (f64, f64) {
        let values = self.repetitions.iter().flatten().map(|point| point.1);
        let (low, high) = values.fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), y| (low.min(y), high.max(y)));
        if low <= high { (low, high) } else { (0.0, 1.0) }
    }
}
