//! A picture of the water.

use inkpot_core::{Paint, Pictured, Scene, Shape};

use super::game::Regatta;
use super::geometry::{Point, plus, times};

/// Room around what there is (m).
const MARGIN_M: f64 = 20.0;
/// Half a boat's length as it is drawn (m).
const HULL_M: f64 = 3.0;

impl Pictured for Regatta {
    fn scene(&self, into: &mut Scene) {
        let water = self.water();
        let points = || {
            let shores = water.shores.iter().flat_map(|line| [line.from, line.to]);
            shores.chain(water.marks.iter().copied()).chain([water.start])
        };
        let edge =
            |axis: usize, pick: fn(f64, f64) -> f64| points().map(|point| point[axis]).fold(water.start[axis], pick);
        into.low = [edge(0, f64::min) - MARGIN_M, edge(1, f64::min) - MARGIN_M];
        into.high = [edge(0, f64::max) + MARGIN_M, edge(1, f64::max) + MARGIN_M];
        into.shapes.clear();
        let line = |from: Point, to: Point, width: f64, paint: Paint| Shape::Line { from, to, width, paint };
        into.shapes.extend(water.shores.iter().map(|shore| line(shore.from, shore.to, 1.5, Paint::Ground)));
        let next = self.boats().iter().map(|boat| boat.mark).min().unwrap_or(0);
        for (number, &mark) in water.marks.iter().enumerate() {
            let paint = if number == next { Paint::Signal } else { Paint::Ink };
            into.shapes.push(Shape::Circle { centre: mark, radius: water.radius_m, paint });
            into.shapes.push(Shape::Text { at: mark, text: (number + 1).to_string(), paint: Paint::Ink });
        }
        for (seat, boat) in self.boats().iter().enumerate() {
            let paint = Paint::Seat(seat);
            let (stern, stem) = (plus(boat.at, times(boat.bow, -HULL_M)), plus(boat.at, times(boat.bow, HULL_M)));
            into.shapes.push(line(stern, stem, 2.0, paint));
            // The sail lies to leeward.
            let lee = plus(boat.at, times(self.wind().from, -HULL_M));
            into.shapes.push(line(boat.at, lee, 0.6, Paint::Ink));
        }
        let vane = [into.low[0] + 14.0, into.high[1] - 14.0];
        into.shapes.push(line(plus(vane, times(self.wind().from, 8.0)), vane, 1.0, Paint::Signal));
        into.shapes.push(Shape::Circle { centre: vane, radius: 1.8, paint: Paint::Signal });
        let text = format!("{:.1} s   wind {:.1} m/s", self.time_s(), self.wind().speed);
        let at = [f64::midpoint(into.low[0], into.high[0]), into.high[1] - 8.0];
        into.shapes.push(Shape::Text { at, text, paint: Paint::Ink });
    }
}
