//! The rules knobs and constants of regatta.

use inkpot_core::{Knob, Knobs};

use super::geometry::{Point, course};

/// Ticks a second.
pub(crate) const TICKS_PER_SECOND: f64 = 10.0;
/// One tick in seconds.
pub(crate) const TICK_S: f64 = 1.0 / TICKS_PER_SECOND;
/// Range of a ray (m).
pub(crate) const RAY_M: f64 = 40.0;
/// The fan of the rays (degrees).
pub(crate) const FAN_DEG: f64 = 200.0;
/// The most rays there can be.
pub(crate) const MOST_RAYS: usize = 32;
/// Turning rate of a boat at rest (degrees a second).
pub(crate) const STEERAGE_DEG: f64 = 18.0;
/// Turning rate that each m/s adds (degrees a second).
pub(crate) const TURN_DEG: f64 = 9.0;
/// The fastest a boat turns (degrees a second).
pub(crate) const MOST_TURN_DEG: f64 = 60.0;
/// Time in which a boat approaches the speed that the wind gives it (s).
pub(crate) const INERTIA_S: f64 = 3.0;
/// Share of its speed that full rudder costs a boat each second.
pub(crate) const RUDDER_DRAG: f64 = 0.25;
/// Time lost on a shore (s).
pub(crate) const AGROUND_S: f64 = 5.0;
/// Share of the wind's speed that a boat makes at its best angle.
pub(crate) const BEST: f64 = 0.8;
/// Cosine of the best angle to the wind: 105 degrees.
pub(crate) const BEST_AT: f64 = -0.258_819_045_102_520_74;
/// Cosine of the angle inside which a boat makes no way: 38 degrees.
pub(crate) const IRONS: f64 = 0.788_010_753_606_722;

/// The cost of touching a shore.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Grounding {
    /// It loses time.
    Penalty,
    /// It is out of the race.
    Retire,
}

/// The rules of one match, from the rules knobs.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct RegattaRules {
    pub(crate) grounding: Grounding,
    /// Whether the rudder takes three positions only.
    pub(crate) discrete: bool,
    /// Mean strength of the wind (m/s).
    pub(crate) wind: f64,
    /// Variation of the strength from match to match, weakest to strongest, as a share.
    pub(crate) spread: f64,
    /// Largest deviation of the direction from the level's (degrees to each side).
    pub(crate) veer: f64,
    /// Standard deviation of its shifts (degrees).
    pub(crate) shifts: f64,
    /// Standard deviation of gusts, as a share of its strength.
    pub(crate) gusts: f64,
    /// The rays as unit vectors, ahead and to starboard.
    pub(crate) rays: Vec<Point>,
}

impl RegattaRules {
    pub(crate) fn new(knobs: &Knobs) -> Self {
        Self {
            grounding: if knobs.word("grounding") == "penalty" { Grounding::Penalty } else { Grounding::Retire },
            discrete: knobs.word("rudder") == "discrete",
            wind: knobs.number("wind"),
            spread: knobs.number("wind_spread"),
            veer: knobs.number("veer"),
            shifts: knobs.number("shifts"),
            gusts: knobs.number("gusts"),
            rays: ray_degrees(knobs).into_iter().map(course).map(|[x, y]| [y, x]).collect(),
        }
    }

    pub(crate) fn knobs() -> Vec<Knob> {
        vec![
            Knob::choice("grounding", &["penalty", "retire"])
                .help("what touching a shore costs: 5 seconds, or the rest of the race"),
            Knob::whole("rays", 0..=MOST_RAYS as i64, 9)
                .unit("rays")
                .help("rays to the shores that a boat observes, over 200 degrees, each up to 40 m long"),
            Knob::choice("rudder", &["continuous", "discrete"])
                .help("positions of the rudder: any, or port, straight and starboard"),
            Knob::real("wind", 2.0..=20.0, 8.0).unit("m/s").help("mean strength of the wind"),
            Knob::real("wind_spread", 0.0..=1.0, 0.3)
                .help("how far the strength differs from match to match, weakest to strongest, as a share of the mean"),
            Knob::real("veer", 0.0..=180.0, 12.0)
                .unit("deg")
                .help("how far the wind's direction may lie from that of the level, to each side"),
            Knob::real("shifts", 0.0..=30.0, 4.0)
                .unit("deg")
                .help("standard deviation of the slow shifts in direction"),
            Knob::real("gusts", 0.0..=0.3, 0.12).help("standard deviation of gusts, as a share of the strength"),
        ]
    }
}

/// The rays in degrees from the bow, starboard positive.
pub(crate) fn ray_degrees(rules: &Knobs) -> Vec<f64> {
    match rules.number("rays") as usize {
        1 => vec![0.0],
        count => (0..count).map(|ray| FAN_DEG * (ray as f64 / (count as f64 - 1.0) - 0.5)).collect(),
    }
}

/// Share of the wind's speed that a boat makes at an angle to the wind, given the angle's cosine: zero within 38 degrees
/// of straight upwind, most at 105 degrees, half of that straight downwind.
#[inline]
pub(crate) fn polar(cos: f64) -> f64 {
    const CURVE: f64 = BEST / ((IRONS - BEST_AT) * (IRONS - BEST_AT));
    let off = cos - BEST_AT;
    if cos > IRONS { 0.0 } else { BEST - CURVE * off * off }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_boat_makes_no_way_upwind_and_most_on_a_broad_reach() {
        let at = |degrees: f64| polar(degrees.to_radians().cos());
        for (degrees, share) in [(0.0, 0.0), (37.9, 0.0), (38.0, 0.0), (105.0, 0.8), (180.0, 0.4)] {
            assert!((at(degrees) - share).abs() < 0.01, "{degrees}: {}", at(degrees));
        }
        let best = (0..=180).map(f64::from).max_by(|a, b| at(*a).total_cmp(&at(*b)));
        assert_eq!(best, Some(105.0));
    }

    #[test]
    fn rays_fan_out_evenly_around_the_bow() {
        let rays = |count: f64| ray_degrees(&Knobs::default().with("rays", count));
        assert_eq!(rays(0.0), [0.0; 0]);
        assert_eq!(rays(1.0), [0.0]);
        assert_eq!(rays(3.0), [-100.0, 0.0, 100.0]);
    }
}
