//! A fencer's view and its orders as numbers, for policies.

use inkpot_core::{ActionSpace, Feature, FeatureSheet, Features, Game, Intent, Knobs, Options, Seat, normalised};

use super::fighter::Phase;
use super::game::{Blade, Order, Piste, View};
use super::rules::{PARRIED_RECOVERY, TICKS_PER_SECOND};

/// A gap wider than this looks no wider (m).
const WIDE_M: f64 = 8.0;
/// Strip behind a back beyond this looks the same (m).
const BEHIND_M: f64 = 8.0;
/// A fencer faster than this seems no faster (m/s).
const FAST: f64 = 4.0;
/// A lead beyond this looks the same (touches).
const LEAD: f64 = 5.0;
/// The longest that a blade is busy (ticks).
const FROZEN: f64 = PARRIED_RECOVERY as f64;
/// A guard that met a thrust longer ago than this is forgotten (ticks).
const REMEMBERED: f64 = 60.0;
/// Time left beyond this looks the same (s).
const LONG_S: f64 = 180.0;
const THROTTLES: [f64; 5] = [-1.0, -0.5, 0.0, 0.5, 1.0];
const BLADES: [(&str, Blade); 3] = [("", Blade::None), (" and lunge", Blade::Lunge), (" and parry", Blade::Parry)];
const PHASES: [(&str, Phase); 6] = [
    ("free", Phase::Free),
    ("wind_up", Phase::WindUp),
    ("thrust", Phase::Thrust),
    ("recovery", Phase::Recovery),
    ("guard", Phase::Guard),
    ("guard_recovery", Phase::GuardRecovery),
];

/// A figure of a view: how it is described, and its value.
struct Figure {
    name: &'static str,
    unit: &'static str,
    low: f64,
    high: f64,
    help: &'static str,
    of: fn(&View) -> f64,
}

const FIGURES: [Figure; 9] = [
    figure("gap", "m", [0.0, WIDE_M], "distance between the two", |view| view.gap_m),
    figure("speed", "m/s", [-FAST, FAST], "own speed, forward positive", |view| view.speed),
    figure("other_speed", "m/s", [-FAST, FAST], "the other's speed, towards us positive", |view| view.other_speed),
    figure("behind", "m", [0.0, BEHIND_M], "strip left behind our back", |view| view.behind_m),
    figure("other_behind", "m", [0.0, BEHIND_M], "strip left behind the other's back", |view| view.other_behind_m),
    figure("busy", "ticks", [0.0, FROZEN], "ticks left of what our blade is doing", |view| f64::from(view.left)),
    figure("since_parry", "ticks", [0.0, REMEMBERED], "ticks since our guard last met a thrust", |view| {
        f64::from(view.since_parry)
    }),
    figure("lead", "touches", [-LEAD, LEAD], "our touches less the other's", |view| {
        f64::from(view.touches) - f64::from(view.other_touches)
    }),
    figure("time_left", "s", [0.0, LONG_S], "time left", |view| f64::from(view.time_left) / TICKS_PER_SECOND),
];

const fn figure(
    name: &'static str,
    unit: &'static str,
    [low, high]: [f64; 2],
    help: &'static str,
    of: fn(&View) -> f64,
) -> Figure {
    Figure { name, unit, low, high, help, of }
}

impl Piste {
    /// Lists the observations and actions, which are the same under all rules.
    pub(crate) fn features(_rules: &Knobs) -> FeatureSheet {
        let described = |figure: &Figure| Feature::new(figure.name, figure.unit, figure.low, figure.high, figure.help);
        let mut observation: Vec<Feature> = FIGURES.iter().map(described).collect();
        for (whose, help) in [("own", "1 while our blade is at this, else 0"), ("other", "the same of the other's")] {
            let phase = |(name, _): &(&str, Phase)| Feature::new(format!("{whose}_{name}"), "", 0.0, 1.0, help);
            observation.extend(PHASES.iter().map(phase));
        }
        let options = BLADES.iter().flat_map(|(blade, _)| THROTTLES.map(|throttle| format!("{throttle:+}{blade}")));
        // A tenth of a second; the presets meet for 19 to 33 s.
        FeatureSheet { observation, actions: ActionSpace::Discrete(options.collect()), tempo: None }.tempo(6, 1_800)
    }
}

impl Features for Piste {
    fn observe(&self, seat: Seat, into: &mut Vec<f32>) {
        let view = self.view(seat);
        into.clear();
        into.extend(FIGURES.iter().map(|figure| normalised((figure.of)(&view), figure.low, figure.high)));
        for phase in [view.phase, view.other_phase] {
            into.extend(PHASES.iter().map(|(_, stance)| if *stance == phase { 1.0 } else { -1.0 }));
        }
    }

    /// An order to a busy blade has no effect.
    fn act(&self, seat: Seat, intent: Intent<'_>) -> Order {
        let option = match intent {
            Intent::Option(option) => option.min(BLADES.len() * THROTTLES.len() - 1),
            Intent::Values(_) => 2,
        };
        let (blade, throttle) = (BLADES[option / THROTTLES.len()].1, THROTTLES[option % THROTTLES.len()]);
        self.repair(seat, &Order { throttle, blade })
    }
}
