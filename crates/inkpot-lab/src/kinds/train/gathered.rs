//! Data gathered from matches and updates between two looks.

use inkpot_learn::Learned;
use serde::{Deserialize, Serialize};

use crate::kinds::found::Figures;

/// The record of the time between two looks.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Round {
    /// Matches that had ended by then.
    pub(super) matches: u64,
    /// Decisions by then.
    pub(super) steps: u64,
    /// Ticks or turns by then.
    pub(super) ticks: u64,
    /// Rewards of a match: the best, and the lower quartile, the median and the upper one.
    #[serde(with = "crate::gaps::number")]
    pub(super) best: f64,
    #[serde(with = "crate::gaps::many")]
    pub(super) quartiles: Vec<f64>,
    /// The terms of its matches, and their outcome.
    pub(super) figures: Figures,
    /// Means over its updates, where they are known.
    pub(super) entropy: Option<f64>,
    pub(super) explained: Option<f64>,
    pub(super) moved: Option<f64>,
    pub(super) loss: f64,
    /// The count of each option.
    pub(super) taken: Vec<u64>,
    /// Positions whose values were known by then; none of a network.
    pub(super) positions: Option<u64>,
}

/// The data since the last look.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(super) struct Gathered {
    #[serde(with = "crate::gaps::many")]
    rewards: Vec<f64>,
    pub(super) figures: Vec<Figures>,
    entropy: Mean,
    explained: Mean,
    moved: Mean,
    loss: Mean,
    taken: Vec<u64>,
}

/// A mean of known values.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
struct Mean {
    sum: f64,
    count: f64,
}

impl Mean {
    fn add(&mut self, x: Option<f64>) {
        if let Some(x) = x {
            self.sum += x;
            self.count += 1.0;
        }
    }

    fn value(self) -> Option<f64> {
        (self.count > 0.0).then(|| self.sum / self.count)
    }
}

/// The progress of a repetition.
#[derive(Clone, Copy)]
pub(super) struct Reached {
    pub(super) matches: u64,
    /// Decisions.
    pub(super) steps: u64,
    /// Ticks or turns.
    pub(super) ticks: u64,
    pub(super) positions: Option<u64>,
}

impl Gathered {
    /// Takes the figures of an update.
    pub(super) fn take(&mut self, learned: &Learned) {
        let Self { rewards, entropy, explained, moved, loss, taken, .. } = self;
        rewards.extend(learned.episodes.iter().map(|episode| episode.reward));
        entropy.add(learned.entropy);
        explained.add(learned.explained);
        moved.add(learned.moved);
        loss.add(Some(learned.loss));
        taken.resize(learned.taken.len(), 0);
        taken.iter_mut().zip(&learned.taken).for_each(|(sum, count)| *sum += count);
    }

    /// The first of this many terms that had no value in a match.
    pub(super) fn without_value(&self, terms: usize) -> Option<usize> {
        (0..terms).find(|place| self.figures.iter().any(|figure| !figure.terms[*place].is_finite()))
    }

    /// A round of it, for a repetition that has come this far.
    pub(super) fn summed_up(self, terms: usize, reached: Reached) -> Round {
        let mut rewards = self.rewards;
        rewards.sort_by(f64::total_cmp);
        let at = |share: f64| {
            let last = rewards.len().saturating_sub(1) as f64;
            rewards.get((last * share).round() as usize).copied().unwrap_or(f64::NAN)
        };
        let mean = |of: &dyn Fn(&Figures) -> f64| {
            let known = || self.figures.iter().map(of).filter(|x| x.is_finite());
            known().sum::<f64>() / known().count() as f64
        };
        Round {
            matches: reached.matches,
            steps: reached.steps,
            ticks: reached.ticks,
            positions: reached.positions,
            best: at(1.0),
            quartiles: vec![at(0.25), at(0.5), at(0.75)],
            figures: Figures {
                terms: (0..terms).map(|place| mean(&|figures| figures.terms[place])).collect(),
                outcome: mean(&|figures| figures.outcome),
            },
            entropy: self.entropy.value(),
            explained: self.explained.value(),
            moved: self.moved.value(),
            loss: self.loss.value().unwrap_or(0.0),
            taken: self.taken,
        }
    }
}

#[cfg(test)]
mod tests {
    use inkpot_learn::Episode;

    use super::*;

    const REACHED: Reached = Reached { matches: 5, steps: 50, ticks: 500, positions: None };

    #[test]
    fn a_round_has_the_quartiles_of_its_rewards_and_the_sums_of_its_options() {
        let mut gathered = Gathered::default();
        for (rewards, taken) in [(vec![5.0, 1.0], vec![3, 0]), (vec![4.0, 2.0, 3.0], vec![1, 2])] {
            let episodes = rewards.into_iter().map(|reward| Episode { reward, steps: 10 }).collect();
            gathered.take(&Learned { episodes, taken, loss: 2.0, ..Learned::default() });
        }
        let round = gathered.summed_up(0, REACHED);
        assert_eq!((round.best, round.quartiles.as_slice()), (5.0, [2.0, 3.0, 4.0].as_slice()));
        assert_eq!((round.taken.as_slice(), round.loss), ([4, 2].as_slice(), 2.0));
        assert_eq!((round.matches, round.steps, round.ticks), (5, 50, 500));
        assert_eq!(round.entropy, None, "nobody said it");
    }

    #[test]
    fn means_leave_out_what_has_no_value() {
        let figures = |term: f64, outcome: f64| Figures { terms: vec![term], outcome };
        let all = vec![figures(1.0, f64::NAN), figures(3.0, 0.0), figures(f64::NAN, 1.0)];
        let mut gathered = Gathered { figures: all, ..Gathered::default() };
        for entropy in [Some(0.5), None, Some(1.5)] {
            gathered.take(&Learned { entropy, ..Learned::default() });
        }
        assert_eq!(gathered.without_value(1), Some(0));
        let round = gathered.summed_up(1, REACHED);
        assert_eq!((round.figures.terms.as_slice(), round.figures.outcome), ([2.0].as_slice(), 0.5));
        assert_eq!(round.entropy, Some(1.0));
    }

    #[test]
    fn a_round_without_a_match_has_no_rewards() {
        let round = Gathered::default().summed_up(1, REACHED);
        assert!(round.best.is_nan() && round.quartiles.iter().all(|x| x.is_nan()) && round.figures.terms[0].is_nan());
    }
}
