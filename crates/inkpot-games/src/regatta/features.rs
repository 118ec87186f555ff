//! A boat's view and its rudder as numbers, for policies.

use inkpot_core::{ActionSpace, Feature, FeatureSheet, Features, Intent, Knobs, Seat, normalised};

use super::game::{Helm, Regatta};
use super::geometry::length;
use super::rules::{RAY_M, ray_degrees};

/// A mark this far away looks no nearer than one farther (m).
const FAR_M: f64 = 200.0;
/// A boat this fast seems no faster than a faster one (m/s).
const FAST: f64 = 10.0;
/// The options of a discrete rudder, in order.
const RUDDERS: [(&str, f64); 3] = [("port", -1.0), ("straight", 0.0), ("starboard", 1.0)];

impl Regatta {
    /// Lists the observations and actions under these rules.
    ///
    /// Directions are given by two numbers each, so that none of them jumps from one end to the other astern.
    pub(crate) fn features(rules: &Knobs) -> FeatureSheet {
        let unit = |name: &str, help: &str| Feature::new(name, "", -1.0, 1.0, help);
        let mut observation = vec![
            unit("mark_ahead", "the next mark's direction: cosine of its angle from the bow"),
            unit("mark_starboard", "the same: sine of its angle, starboard positive"),
            Feature::new("mark_m", "m", 0.0, FAR_M, "distance of the next mark"),
            unit("wind_ahead", "where the wind comes from: cosine of its angle from the bow"),
            unit("wind_starboard", "the same: sine of its angle, starboard positive"),
            Feature::new("speed", "m/s", 0.0, FAST, "own speed through the water"),
        ];
        observation.extend(ray_degrees(rules).into_iter().enumerate().map(|(ray, degrees)| {
            let help = format!("distance of the nearest shore, {degrees:.0} degrees from the bow");
            Feature::new(format!("ray_{ray}"), "m", 0.0, RAY_M, &help)
        }));
        let actions = if rules.word("rudder") == "discrete" {
            ActionSpace::Discrete(RUDDERS.map(|(name, _)| name.to_string()).to_vec())
        } else {
            let help = "the rudder: -1 hard to port, 1 hard to starboard";
            ActionSpace::Continuous(vec![Feature::new("rudder", "", -1.0, 1.0, help)])
        };
        // Half a second; `tacker` sails the triangle in 118 s.
        FeatureSheet { observation, actions, tempo: None }.tempo(5, 1_200)
    }
}

impl Features for Regatta {
    #[inline]
    fn observe(&self, seat: Seat, into: &mut Vec<f32>) {
        let boat = &self.boats()[seat];
        let mark = boat.relative(self.to_mark(seat));
        let wind = boat.relative(self.wind().from);
        let far = length(mark).max(f64::MIN_POSITIVE);
        into.clear();
        into.extend([
            (mark[0] / far) as f32,
            (mark[1] / far) as f32,
            normalised(far, 0.0, FAR_M),
            wind[0] as f32,
            wind[1] as f32,
            normalised(boat.speed, 0.0, FAST),
        ]);
        let rays = &self.course().rules.rays;
        self.water().look(boat.at, boat.bow, rays, |_, far| into.push(normalised(far, 0.0, RAY_M)));
    }

    #[inline]
    fn act(&self, _seat: Seat, intent: Intent<'_>) -> Helm {
        let rudder = match intent {
            Intent::Option(option) => RUDDERS[option.min(RUDDERS.len() - 1)].1,
            Intent::Values(values) => f64::from(values.first().copied().unwrap_or(0.0)).clamp(-1.0, 1.0),
        };
        Helm { rudder: if self.course().rules.discrete { rudder.round() } else { rudder } }
    }
}
