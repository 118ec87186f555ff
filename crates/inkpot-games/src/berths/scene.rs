//! A picture of the basin: berths, moored boats, and the mover.

use inkpot_core::{Paint, Pictured, Scene, Seat, Shape};

use super::basin::Mooring;
use super::game::Berths;
use crate::standin::Counting;

/// Water around a boat in its berths.
const AROUND: f64 = 0.12;

impl Pictured for Berths {
    fn scene(&self, into: &mut Scene) {
        let basin = self.basin();
        let (width, length) = (f64::from(basin.width()), f64::from(basin.length()));
        into.low = [-0.9, -0.9];
        into.high = [width + 0.3, length + 0.9];
        into.shapes.clear();
        let shapes = &mut into.shapes;
        // Rows are counted from the north.
        let low = |berth: Mooring| [f64::from(berth.column()), length - 1.0 - f64::from(berth.row())];
        let berths = || (0..basin.length()).flat_map(|row| (0..basin.width()).map(move |at| Mooring::at(at, row)));
        let line = |from: [f64; 2], to: [f64; 2], width: f64, paint: Paint| Shape::Line { from, to, width, paint };
        for column in 0..=basin.width() {
            let x = f64::from(column);
            shapes.push(line([x, 0.0], [x, length], 0.03, Paint::Faint));
        }
        for row in 0..=basin.length() {
            let y = f64::from(row);
            shapes.push(line([0.0, y], [width, y], 0.03, Paint::Faint));
        }
        let text = |at: [f64; 2], text: String, size: f64, paint: Paint| Shape::Text { at, text, size, paint };
        for column in 0..basin.width() {
            let name = char::from(b'a' + column).to_string();
            shapes.push(text([f64::from(column) + 0.5, length + 0.22], name, 0.22, Paint::Faint));
        }
        for row in 0..basin.length() {
            let name = (row + 1).to_string();
            shapes.push(text([-0.25, length - 0.5 - f64::from(row)], name, 0.22, Paint::Faint));
        }
        // What was taken before the match began belongs to nobody that is known.
        let known = [0, 1].into_iter().flat_map(|side| self.moored(side).flat_map(move |berth| berth.both(side)));
        let strangers: Vec<Mooring> = berths().filter(|berth| basin.is_taken(*berth)).collect();
        let strangers = strangers.into_iter().filter(|berth| !known.clone().any(|other| other == *berth));
        shapes.extend(strangers.map(|berth| {
            let [x, y] = low(berth);
            let (from, to) = ([x + AROUND, y + AROUND], [x + 1.0 - AROUND, y + 1.0 - AROUND]);
            Shape::Rectangle { low: from, high: to, paint: Paint::Ground }
        }));
        for side in [0, 1] {
            let (long, high) = if side == 0 { (1.0, 0.0) } else { (0.0, 1.0) };
            shapes.extend(self.moored(side).map(|berth| {
                let [x, y] = low(berth);
                Shape::Rectangle {
                    low: [x + AROUND, y - high + AROUND],
                    high: [x + long + 1.0 - AROUND, y + 1.0 - AROUND],
                    paint: Paint::Seat(side),
                }
            }));
        }
        let (words, paint) = match self.mover() {
            Some(side) => (["south to moor", "north to moor"][side], Paint::Seat(side)),
            None => (["north wins", "south wins"][basin.side()], Paint::Ink),
        };
        shapes.push(text([width / 2.0, -0.45], words.into(), 0.3, paint));
    }

    /// Draws the seat's options on its turn, and its safe ones.
    fn sight(&self, seat: Seat, into: &mut Vec<Shape>) {
        let basin = self.basin();
        if basin.side() != seat {
            return;
        }
        let length = f64::from(basin.length());
        let (east, south) = if seat == 0 { (0.5, 0.0) } else { (0.0, 0.5) };
        let safe = basin.safe(seat);
        into.extend(basin.options(seat).map(|berth| {
            let middle = [f64::from(berth.column()) + 0.5 + east, length - 0.5 - f64::from(berth.row()) - south];
            let (centre, paint) = (middle, Paint::Seat(seat));
            if safe.holds(berth) {
                Shape::Circle { centre, radius: 0.12, paint }
            } else {
                Shape::Ring { centre, radius: 0.12, paint }
            }
        }));
    }
}
