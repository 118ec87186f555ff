//! The map of a search that keeps elites apart, as it is proved and told.

use inkpot_core::{KnobValue, Knobs};
use inkpot_stats::Interval;
use serde::{Deserialize, Serialize};

/// A map of elites, of the champion's repetition.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct MapFound {
    /// The measures over which the niches lie.
    pub measures: [MapAxis; 2],
    /// Niches that any repetition filled.
    pub reached: usize,
    /// The niches that are filled, in order.
    pub niches: Vec<NicheFound>,
}

/// A measure over which niches lie.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct MapAxis {
    /// Its name.
    pub measure: String,
    /// The end where the first niche begins; less belongs to it too.
    pub low: f64,
    /// The end where the last niche ends; more belongs to it too.
    pub high: f64,
    /// Niches from one to the other.
    pub count: usize,
}

/// A niche with its elite.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct NicheFound {
    /// Its place by measure, from 0 up.
    pub niche: [usize; 2],
    /// The fitness of its elite when it took the niche, by its first number.
    #[serde(rename = "fitness_seen")]
    pub training_fitness: f64,
    /// The yardstick's figure of the elite on fresh blocks.
    pub proved: Option<Interval>,
    /// The measures of the elite on fresh blocks.
    pub measured: [Option<Interval>; 2],
    /// Knobs that are set of its elite.
    pub knobs: Knobs,
}

impl MapAxis {
    /// Whether a measure with this interval may lie in a niche.
    fn holds(&self, niche: usize, interval: Interval) -> bool {
        let width = (self.high - self.low) / self.count as f64;
        let low = self.low + width * niche as f64;
        (niche == 0 || interval.high >= low) && (niche + 1 == self.count || interval.low <= low + width)
    }

    /// The middle of a niche.
    pub fn middle(&self, niche: usize) -> f64 {
        self.low + (self.high - self.low) * (niche as f64 + 0.5) / self.count as f64
    }
}

impl NicheFound {
    /// The name of its elite.
    pub fn name(&self) -> String {
        format!("niche {}-{}", self.niche[0] + 1, self.niche[1] + 1)
    }

    /// The agent file of its elite.
    pub fn file(&self) -> String {
        format!("niche-{}-{}.toml", self.niche[0] + 1, self.niche[1] + 1)
    }
}

impl MapFound {
    /// Counts elites whose fresh blocks agree with their niches, as far as the intervals tell.
    pub fn in_place(&self) -> usize {
        let holds = |niche_found: &&NicheFound| {
            let each = self.measures.iter().zip(niche_found.niche).zip(niche_found.measured);
            each.into_iter()
                .all(|((axis, niche), interval)| interval.is_some_and(|estimate| axis.holds(niche, estimate)))
        };
        self.niches.iter().filter(holds).count()
    }
}

/// The same knobs, files under this name.
pub(crate) fn named(knobs: &Knobs, name: &str) -> Knobs {
    let text = |value: &KnobValue| match value {
        KnobValue::File { bytes, .. } => KnobValue::File { file: name.into(), bytes: bytes.clone() },
        other => other.clone(),
    };
    knobs.iter().map(|(knob, value)| (knob.to_string(), text(value))).collect()
}
