//! Measures side by side: small panels, one a measure.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, TOP, Words, framed, short};
use crate::grid::{COLUMNS, Room, rooms, titled};
use crate::palette::{AXIS, GRID, INDIGO, INK, SECOND, tint};

/// Several measures of the same entrants, or over the same knob.
#[derive(Clone, Debug, PartialEq)]
pub struct Measures {
    /// The words.
    pub words: Words,
    /// One panel a measure, at most nine.
    pub panels: Vec<Panel>,
}

/// One measure.
#[derive(Clone, Debug, PartialEq)]
pub struct Panel {
    /// Its label with unit.
    pub label: String,
    /// Its marks in order.
    pub marks: Vec<PanelMark>,
    /// Name of the knob if the marks stand along one; else they are rows.
    pub knob: Option<String>,
}

/// One estimate in a panel.
#[derive(Clone, Debug, PartialEq)]
pub struct PanelMark {
    /// Entrant, or knob value in words.
    pub name: String,
    /// Knob value.
    pub x: f64,
    /// The estimate.
    pub estimate: Estimate,
}

const SMALL: f64 = 13.5;

impl Measures {
    /// Draws it.
    pub fn draw(&self) -> Drawing {
        let most =
            self.panels.iter().map(|panel| if panel.knob.is_some() { 0 } else { panel.marks.len() }).max().unwrap_or(0);
        let height =
            HEIGHT.max(TOP + BOTTOM + self.panels.len().div_ceil(COLUMNS).max(1) as f64 * (most as f64 * 19.0 + 84.0));
        let mut canvas = framed(&self.words, height);
        for (panel, room) in self.panels.iter().zip(rooms(self.panels.len(), COLUMNS, height)) {
            titled(&mut canvas, room, &panel.label);
            match &panel.knob {
                Some(knob) => panel.curve(&mut canvas, room, knob),
                None => panel.rows(&mut canvas, room),
            }
        }
        canvas.finish()
    }
}

/// An estimate in words.
fn ends(estimate: &crate::Estimate) -> String {
    format!("{} ({} to {})", short(estimate.value), short(estimate.low), short(estimate.high))
}

impl Panel {
    fn range(&self) -> (f64, f64) {
        let low = self.marks.iter().map(|mark| mark.estimate.low).fold(f64::INFINITY, f64::min);
        let high = self.marks.iter().map(|mark| mark.estimate.high).fold(f64::NEG_INFINITY, f64::max);
        // Zero belongs to the axis where the figures are not far from it: differences are not blown up.
        let low = if low > 0.0 && low < 0.6 * high { 0.0 } else { low };
        (low, high)
    }

    fn rows(&self, canvas: &mut Canvas, room: Room) {
        let kind = Type::new(SMALL, SECOND);
        let widest = self.marks.iter().map(|mark| canvas.measure(&mark.name, kind)).fold(30.0, f64::max).min(110.0);
        let figure = 52.0;
        let x = Axis::round(self.range(), (room.left + widest + 16.0, room.right - figure), 3);
        for (at, label) in x.ticks(3) {
            canvas.line((x.at(at), room.top), (x.at(at), room.bottom), GRID, 1.0);
            canvas.text((x.at(at), room.bottom + 18.0), &label, Type::new(12.5, SECOND), Anchor::Middle);
        }
        let step = ((room.bottom - room.top) / self.marks.len().max(1) as f64).min(40.0);
        for (index, mark) in self.marks.iter().enumerate() {
            let y = room.top + step * (index as f64 + 0.5);
            let name = canvas.fit(&mark.name, kind, widest);
            canvas.text((room.left, y + 4.5), &name, kind, Anchor::Start);
            canvas.line((x.at(mark.estimate.low), y), (x.at(mark.estimate.high), y), tint(INDIGO, 0.5), 4.0);
            canvas.disc((x.at(mark.estimate.value), y), 4.5, INDIGO);
            let hover = format!("{}: {} {}", self.label, mark.name, ends(&mark.estimate));
            canvas.hover((room.left, y - 9.0), (room.right, y + 9.0), &mark.name, &hover);
            canvas.text((room.right, y + 4.5), &short(mark.estimate.value), Type::new(SMALL, INK).bold(), Anchor::End);
        }
        canvas.line((room.left + widest + 16.0, room.bottom), (room.right - figure, room.bottom), AXIS, 1.0);
    }

    fn curve(&self, canvas: &mut Canvas, room: Room, knob: &str) {
        let small = Type::new(12.5, SECOND);
        let y = Axis::round(self.range(), (room.bottom, room.top), 3);
        let ticks = y.ticks(3);
        let widest = ticks.iter().map(|(_, label)| canvas.measure(label, small)).fold(0.0, f64::max);
        let low = self.marks.iter().map(|mark| mark.x).fold(f64::INFINITY, f64::min);
        let high = self.marks.iter().map(|mark| mark.x).fold(f64::NEG_INFINITY, f64::max);
        let left = room.left + widest + 8.0;
        let x = Axis::new((low, high), (left + 6.0, room.right - 6.0));
        for (at, label) in ticks {
            canvas.line((left, y.at(at)), (room.right, y.at(at)), GRID, 1.0);
            canvas.text((left - 7.0, y.at(at) + 4.5), &label, small, Anchor::End);
        }
        let band: Vec<(f64, f64)> = self.marks.iter().map(|mark| (x.at(mark.x), y.at(mark.estimate.low))).collect();
        let back = self.marks.iter().rev().map(|mark| (x.at(mark.x), y.at(mark.estimate.high)));
        canvas.area(band.into_iter().chain(back).collect(), tint(INDIGO, 0.18));
        canvas.path(self.marks.iter().map(|mark| (x.at(mark.x), y.at(mark.estimate.value))).collect(), INDIGO, 2.2);
        for mark in &self.marks {
            let at = (x.at(mark.x), y.at(mark.estimate.value));
            canvas.disc(at, 3.2, INDIGO);
            let hover = format!("{}: {} {}", self.label, mark.name, ends(&mark.estimate));
            canvas.hover((at.0 - 6.0, at.1 - 8.0), (at.0 + 6.0, at.1 + 8.0), &mark.name, &hover);
        }
        canvas.line((left, room.bottom), (room.right, room.bottom), AXIS, 1.0);
        for (at, label) in x.ticks(5) {
            canvas.text((x.at(at), room.bottom + 18.0), &label, small, Anchor::Middle);
        }
        let middle = f64::midpoint(left, room.right);
        let name = canvas.fit(knob, small, room.right - left);
        canvas.text((middle, room.bottom + 36.0), &name, small, Anchor::Middle);
    }
}
