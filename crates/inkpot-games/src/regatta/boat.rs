//! One boat: how rudder, wind and shores move it.

use super::geometry::{Point, cross, distance, dot, plus, times};
use super::rules::{
    AGROUND_S, Grounding, INERTIA_S, IRONS, MOST_TURN_DEG, RUDDER_DRAG, RegattaRules, STEERAGE_DEG, TICK_S,
    TICKS_PER_SECOND, TURN_DEG, polar,
};
use super::tally::Tally;
use super::water::Water;
use super::wind::Wind;

/// One boat.
#[derive(Clone, Debug)]
pub(crate) struct Boat {
    pub(crate) at: Point,
    /// The bow's direction, a unit vector.
    pub(crate) bow: Point,
    /// Speed through the water (m/s).
    pub(crate) speed: f64,
    /// The next mark; as many as there are once it has finished.
    pub(crate) mark: usize,
    /// Ticks that it still lies aground.
    pub(crate) aground: u32,
    /// Whether it has retired.
    pub(crate) retired: bool,
    /// The least distance left so far, straight and along the water (m).
    pub(crate) least_m: [f64; 2],
    pub(crate) tally: Tally,
}

impl Boat {
    pub(crate) fn at_start(at: Point, bow: Point) -> Self {
        Self {
            at,
            bow,
            speed: 0.0,
            mark: 0,
            aground: 0,
            retired: false,
            least_m: [f64::INFINITY; 2],
            tally: Tally::default(),
        }
    }

    /// The distances left now, straight and along the water (m).
    pub(crate) fn left_m(&self, water: &Water) -> [f64; 2] {
        [water.straight_left_m(self.at, self.mark), water.water_left_m(self.at, self.mark)]
    }

    /// The least of these and of all there were at the moments that were looked at.
    pub(crate) fn least_left_m(&self, water: &Water) -> [f64; 2] {
        let now = self.left_m(water);
        [0, 1].map(|way| self.least_m[way].min(now[way]))
    }

    /// A way as this boat sees it: how far ahead, and how far to starboard.
    #[inline]
    pub(crate) fn relative(&self, way: Point) -> Point {
        [dot(self.bow, way), -cross(self.bow, way)]
    }

    /// Turns the bow by the rudder, to starboard if positive. The half-angle form of a rotation keeps the length
    /// despite rounding.
    #[inline]
    fn turn(&mut self, rudder: f64) {
        let rate = (STEERAGE_DEG + TURN_DEG * self.speed).min(MOST_TURN_DEG);
        let half = 0.5 * rudder * (rate.to_radians() * TICK_S);
        let scale = 1.0 / (1.0 + half * half);
        let (cos, sin) = ((1.0 - half * half) * scale, 2.0 * half * scale);
        let [x, y] = self.bow;
        self.bow = [x * cos + y * sin, y * cos - x * sin];
    }

    /// One tick under this rudder. Whether it rounded a mark.
    #[inline]
    pub(crate) fn sail(&mut self, rudder: f64, wind: &Wind, water: &Water, rules: &RegattaRules) -> bool {
        self.turn(rudder);
        let cos = dot(self.bow, wind.from);
        self.tally.tick(cos > IRONS && self.aground == 0, cos > 0.0, cross(self.bow, wind.from) > 0.0);
        if self.aground > 0 {
            self.aground -= 1;
            return false;
        }
        let drive = wind.speed * polar(cos);
        self.speed += ((drive - self.speed) / INERTIA_S - RUDDER_DRAG * rudder.abs() * self.speed) * TICK_S;
        let step = self.speed * TICK_S;
        let to = plus(self.at, times(self.bow, step));
        if water.stops(self.at, to, step) {
            self.speed = 0.0;
            self.tally.groundings += 1;
            match rules.grounding {
                Grounding::Penalty => self.aground = (AGROUND_S * TICKS_PER_SECOND) as u32,
                Grounding::Retire => self.retired = true,
            }
            return false;
        }
        self.at = to;
        self.tally.sailed_m += step;
        let rounded = distance(to, water.marks[self.mark]) <= water.radius_m;
        self.mark += usize::from(rounded);
        rounded
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::regatta::geometry::{course, length};

    #[test]
    fn starboard_rudder_turns_the_bow_to_the_right_and_keeps_its_length() {
        let mut boat = Boat::at_start([0.0, 0.0], course(0.0));
        for _ in 0..5_000 {
            boat.turn(1.0);
        }
        assert!((length(boat.bow) - 1.0).abs() < 1e-9, "{:?}", boat.bow);
        let mut boat = Boat::at_start([0.0, 0.0], course(0.0));
        for _ in 0..50 {
            boat.turn(1.0);
        }
        // Five seconds at rest turn it by about ninety degrees.
        assert!((boat.relative(course(0.0))[1] + 1.0).abs() < 1e-3, "{:?}", boat.bow);
    }
}
