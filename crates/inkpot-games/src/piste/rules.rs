//! The rules knobs and constants of piste.

use inkpot_core::{Knob, Knobs, Level};

/// Ticks a second.
pub(crate) const TICKS_PER_SECOND: f64 = 60.0;
/// One tick in seconds.
pub(crate) const TICK_S: f64 = 1.0 / TICKS_PER_SECOND;
/// Change of speed that a fencer's legs allow in a tick (m/s): 18 m/s².
pub(crate) const SPEED_STEP: f64 = 18.0 * TICK_S;
/// Share of the speed that is left while the blade is busy.
pub(crate) const BUSY_SHARE: f64 = 0.3;
/// The closest two fencers can stand (m).
pub(crate) const CONTACT_M: f64 = 0.4;
/// Gap between the starting lines (m).
pub(crate) const START_GAP_M: f64 = 4.0;
/// The shortest strip: room for both behind their starting lines (m).
pub(crate) const LEAST_STRIP_M: f64 = 6.0;
/// Largest random shift of a starting line (m).
pub(crate) const START_JITTER_M: f64 = 0.2;
/// Ticks of a thrust with the point out.
pub(crate) const THRUST: u16 = 4;
/// Ticks of recovery after a thrust.
pub(crate) const RECOVERY: u16 = 24;
/// Ticks of recovery after a thrust that met a guard.
pub(crate) const PARRIED_RECOVERY: u16 = 34;
/// Ticks that a guard stands.
pub(crate) const GUARD: u16 = 10;
/// Ticks of recovery after a guard.
pub(crate) const GUARD_RECOVERY: u16 = 6;
/// Two thrusts that land within this many ticks of each other are one double touch.
pub(crate) const DOUBLE_WINDOW: u16 = 2;

/// The score of a double touch.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Double {
    /// Each scores one.
    Both,
    /// Neither scores.
    Neither,
}

/// The rules of one match, from the rules knobs and the level.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct PisteRules {
    /// Touches that win.
    pub touches: u32,
    /// Time limit in ticks.
    pub time: u32,
    /// The score of a double touch.
    pub double: Double,
    /// Top speed (m/s).
    pub top_speed: f64,
    /// Reach of a thrust (m).
    pub reach_m: f64,
    /// Ticks of wind-up before a thrust: the tell.
    pub wind_up: u16,
    /// Length of the strip (m).
    pub strip_m: f64,
}

impl PisteRules {
    pub(crate) fn new(knobs: &Knobs, level: &Level) -> Result<Self, String> {
        let Level::Named { knobs: generator, .. } = level else {
            return Err("the strip of a piste is not read from a file".into());
        };
        Ok(Self {
            touches: knobs.number("touches") as u32,
            time: (knobs.number("time") * TICKS_PER_SECOND) as u32,
            double: if knobs.word("double") == "both" { Double::Both } else { Double::Neither },
            top_speed: knobs.number("top_speed"),
            reach_m: knobs.number("reach"),
            wind_up: knobs.number("wind_up") as u16,
            strip_m: generator.number("strip"),
        })
    }

    pub(crate) fn knobs() -> Vec<Knob> {
        vec![
            Knob::whole("touches", 1..=50, 5).unit("touches").help("touches that win the match"),
            Knob::real("time", 5.0..=1800.0, 180.0).unit("s").help("time limit; then more touches win"),
            Knob::choice("double", &["both", "neither"]).help("who scores when both thrusts land within 2 ticks"),
            Knob::real("top_speed", 0.5..=10.0, 3.0).unit("m/s").help("top speed of the feet"),
            Knob::real("reach", 0.8..=3.5, 1.6).unit("m").help("reach of a thrust"),
            Knob::whole("wind_up", 0..=60, 14).unit("ticks").help("the tell: ticks from the lunge order to the thrust"),
        ]
    }
}
