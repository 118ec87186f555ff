//! A picture of the water: shores, marks, wind and boats, and each boat's perception.

use inkpot_core::{Game, Paint, Pictured, Scene, Seat, Shape};

use super::boat::Boat;
use super::game::Regatta;
use super::geometry::{Point, course, length, plus, times};
use super::view::View;

/// Margin around the contents (m).
const MARGIN_M: f64 = 20.0;
/// Half a boat's length as it is drawn (m), at least, and as a share of the water that is shown.
const HULL_M: f64 = 3.6;
const HULL_SHARE: f64 = 0.02;
/// Length of a boat's visible wake (m for each m/s).
const WAKE_S: f64 = 2.2;
/// Length of the drawn course of a boat (m).
const STEERED_M: f64 = 30.0;
/// Distance from one arrow of the wind to the next (m).
const ARROWS_M: f64 = 40.0;

/// To the right of a way.
fn right([east, north]: Point) -> Point {
    [north, -east]
}

/// A boat: hull, boom and wake; always as many shapes.
fn boat(boat: &Boat, hull_m: f64, wind_from: Point, paint: Paint, into: &mut Vec<Shape>) {
    let Boat { at, bow, speed, .. } = *boat;
    let beside = right(bow);
    let point = |ahead: f64, aside: f64| plus(at, plus(times(bow, ahead * hull_m), times(beside, aside * hull_m)));
    for side in [-1.0, 1.0] {
        let (from, to) = (point(-0.9, 0.25 * side), point(-0.9 - WAKE_S * speed / hull_m, 0.7 * side));
        into.push(Shape::Line { from, to, width: 0.5, paint: Paint::Faint });
    }
    let hull = [(1.25, 0.0), (0.35, 0.42), (-1.0, 0.34), (-1.0, -0.34), (0.35, -0.42)];
    into.push(Shape::Area { corners: hull.map(|(ahead, aside)| point(ahead, aside)).to_vec(), paint });
    // The sail lies to leeward.
    let lee = plus(point(0.4, 0.0), times(wind_from, -1.3 * hull_m));
    into.push(Shape::Line { from: point(0.4, 0.0), to: lee, width: 0.7, paint: Paint::Ink });
}

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
        let (low, high, wind) = (into.low, into.high, self.wind());
        let arrows = [0, 1].map(|axis| (((high[axis] - low[axis]) / ARROWS_M) as usize).max(1));
        for place in 0..arrows[0] * arrows[1] {
            let cell = [place % arrows[0], place / arrows[0]];
            let middle = [0, 1]
                .map(|axis| low[axis] + (cell[axis] as f64 + 0.5) * (high[axis] - low[axis]) / arrows[axis] as f64);
            let (tail, head) = (plus(middle, times(wind.from, 4.0)), plus(middle, times(wind.from, -4.0)));
            let barb = |side: f64| plus(head, plus(times(wind.from, 2.4), times(right(wind.from), 1.5 * side)));
            let arrow = [(tail, head), (head, barb(-1.0)), (head, barb(1.0))];
            into.shapes.extend(arrow.map(|(from, to)| line(from, to, 0.5, Paint::Faint)));
        }
        into.shapes.extend(water.shores.iter().map(|shore| line(shore.from, shore.to, 1.5, Paint::Ground)));
        let size = (0..2).map(|axis| high[axis] - low[axis]).fold(0.0, f64::max);
        let hull_m = HULL_M.max(HULL_SHARE * size);
        let next = self.boats().iter().map(|boat| boat.mark).min().unwrap_or(0);
        for (number, &mark) in water.marks.iter().enumerate() {
            let paint = if number == next { Paint::Signal } else { Paint::Ink };
            into.shapes.push(Shape::Ring { centre: mark, radius: water.radius_m, paint });
            // A mark that is rounded again is named once, by all its numbers.
            let again = water.marks.iter().enumerate().filter(|(_, other)| **other == mark);
            let numbers: Vec<String> = again.map(|(number, _)| (number + 1).to_string()).collect();
            let first = water.marks.iter().position(|other| *other == mark) == Some(number);
            let text = if first { numbers.join(" ") } else { String::new() };
            into.shapes.push(Shape::Text { at: mark, text, size: 5.5, paint: Paint::Ink });
        }
        for (seat, sailor) in self.boats().iter().enumerate() {
            boat(sailor, hull_m, wind.from, Paint::Seat(seat), &mut into.shapes);
        }
        let text = format!("{:.1} s   wind {:.1} m/s", self.time_s(), wind.speed);
        let at = [f64::midpoint(low[0], high[0]), high[1] - 8.0];
        into.shapes.push(Shape::Text { at, text, size: 4.5, paint: Paint::Ink });
    }

    /// The rays to the shores, the way to the next mark and where the wind comes from: all that a boat perceives.
    fn sight(&self, seat: Seat, into: &mut Vec<Shape>) {
        let Some(boat) = self.boats().get(seat) else { return };
        let paint = Paint::Seat(seat);
        let rays = &self.course().rules.rays;
        self.water().look(boat.at, boat.bow, rays, |ray, far| {
            let [ahead, starboard] = rays[ray];
            let way = plus(times(boat.bow, ahead), times(right(boat.bow), starboard));
            let to = plus(boat.at, times(way, far));
            into.push(Shape::Line { from: boat.at, to, width: 0.5, paint });
            into.push(Shape::Circle { centre: to, radius: 1.1, paint });
        });
        let way = self.to_mark(seat);
        if length(way) > 0.0 {
            into.push(Shape::Line { from: boat.at, to: plus(boat.at, way), width: 0.4, paint: Paint::Signal });
        }
        let wind = plus(boat.at, times(self.wind().from, 12.0));
        into.push(Shape::Line { from: wind, to: boat.at, width: 0.8, paint: Paint::Ink });
    }

    fn place(&self, seat: Seat) -> Option<[f64; 2]> {
        Some(self.boats().get(seat).filter(|_| seat < self.seats())?.at)
    }
}

/// A course that a boat with this view steers, in degrees from its bow.
pub(super) fn steered(seat: Seat, view: &View, course_deg: f64, into: &mut Vec<Shape>) {
    let (at, bow) = (view.lookout.at, view.lookout.bow);
    let [aside, ahead] = course(course_deg);
    let to = plus(at, times(plus(times(bow, ahead), times(right(bow), aside)), STEERED_M));
    into.push(Shape::Line { from: at, to, width: 1.2, paint: Paint::Seat(seat) });
    into.push(Shape::Ring { centre: to, radius: 2.0, paint: Paint::Seat(seat) });
}
