//! Earlier states of a network as opponents, drawn more often the harder they are.

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

/// The name of the stream that draws past opponents.
const MET: u64 = 4;
/// Matches that an even record is taken for before any was played.
const PRIOR: f64 = 2.0;
/// A past self that always loses is still met this much as often as one that always wins.
const LEAST: f64 = 0.05;

/// The learner's results against each past state, in their order.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(super) struct Record {
    /// Points of the learner, and matches.
    against: Vec<(f64, f64)>,
}

impl Record {
    /// With a record for each of this many past selves.
    pub(super) fn reach(&mut self, count: usize) {
        self.against.resize(count, (PRIOR / 2.0, PRIOR));
    }

    /// Takes in the learner's points of a match.
    pub(super) fn take(&mut self, past: usize, points: f64) {
        let (sum, matches) = &mut self.against[past];
        *sum += points;
        *matches += 1.0;
    }

    /// Draws the past state met in an episode, in proportion to the points that it takes.
    pub(super) fn met(&self, seed: u64, episode: u64) -> usize {
        let weight = |(sum, matches): &(f64, f64)| (1.0 - sum / matches).max(LEAST);
        let mut left = Chance::named(seed, &[MET, episode]).unit() * self.against.iter().map(weight).sum::<f64>();
        let found = self.against.iter().position(|record| {
            left -= weight(record);
            left < 0.0
        });
        found.unwrap_or(self.against.len().saturating_sub(1))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn who_takes_more_points_is_met_more_often() {
        let mut record = Record::default();
        record.reach(3);
        for _ in 0..98 {
            record.take(0, 1.0);
            record.take(1, 0.5);
            record.take(2, 0.0);
        }
        let mut met = [0; 3];
        (0..4000).for_each(|episode| met[record.met(1, episode)] += 1);
        // In proportion to 0.05, 0.5 and 0.99.
        assert!((80..200).contains(&met[0]) && (1150..1450).contains(&met[1]) && met[2] > 2350, "{met:?}");
    }
}
