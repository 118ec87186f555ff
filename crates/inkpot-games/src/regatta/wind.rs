//! The wind: a direction and a strength that shift slowly, and gusts, all drawn from the world's chance.

use inkpot_core::Chance;

use super::geometry::{Point, course, length, plus, times};
use super::rules::RegattaRules;

/// Ticks (of a tenth of a second) from one draw of the wind to the next; in between it changes evenly.
pub(crate) const KNOT: u32 = 50;
/// The share of a shift that stays at the next draw.
const SHIFT_KEPT: f64 = 0.9;
/// The share of a gust that stays at the next draw.
const GUST_KEPT: f64 = 0.5;
/// Most that a shift or a gust may be, in standard deviations.
const MOST: f64 = 2.5;

/// The wind of a match, as it is now.
#[derive(Clone, Debug)]
pub(crate) struct Wind {
    base: f64,
    strength: f64,
    shift: f64,
    gust: f64,
    before: Point,
    after: Point,
    /// The direction from which it comes, a unit vector.
    pub(crate) from: Point,
    /// Its speed (m/s).
    pub(crate) speed: f64,
}

/// A step of a series of standard normal numbers of which this much is kept.
fn next(now: f64, decay: f64, chance: &mut Chance) -> f64 {
    (decay * now + (1.0 - decay * decay).sqrt() * chance.normal()).clamp(-MOST, MOST)
}

impl Wind {
    /// The wind at the start: `from` is the level's direction in degrees of the compass.
    pub(crate) fn new(from: f64, rules: &RegattaRules, world: &mut Chance) -> Self {
        let base = from + world.between(-rules.veer, rules.veer);
        let strength = rules.wind * (1.0 + world.between(-0.5, 0.5) * rules.spread);
        let (shift, gust) = (world.normal().clamp(-MOST, MOST), world.normal().clamp(-MOST, MOST));
        let mut wind =
            Self { base, strength, shift, gust, before: [0.0; 2], after: [0.0; 2], from: [0.0, 1.0], speed: 0.0 };
        wind.after = wind.drawn(rules);
        wind.turn(0, rules, world);
        wind
    }

    /// The wind as a vector to where it comes from, as long as it is fast.
    fn drawn(&self, rules: &RegattaRules) -> Point {
        let speed = self.strength * (1.0 + rules.gusts * self.gust).max(0.2);
        times(course(self.base + rules.shifts * self.shift), speed)
    }

    /// The wind of this tick.
    #[inline]
    pub(crate) fn turn(&mut self, tick: u32, rules: &RegattaRules, world: &mut Chance) {
        let within = tick % KNOT;
        if within == 0 {
            self.before = self.after;
            self.shift = next(self.shift, SHIFT_KEPT, world);
            self.gust = next(self.gust, GUST_KEPT, world);
            self.after = self.drawn(rules);
        }
        let share = f64::from(within) / f64::from(KNOT);
        let now = plus(times(self.before, 1.0 - share), times(self.after, share));
        self.speed = length(now);
        self.from = times(now, 1.0 / self.speed);
    }
}
