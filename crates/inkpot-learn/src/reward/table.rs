//! Values of single positions, learned one decision after the other (Sutton & Barto 2018, chapters 6 and 7).

use std::collections::{BTreeMap, HashMap, VecDeque};
use std::hash::Hash;

use inkpot_core::Chance;
use rustc_hash::FxBuildHasher;
use serde::{Deserialize, Serialize, Serializer};

use super::environment::{End, Episode, Step};

const DECISIONS: u64 = 1;

/// A game of turns or a textbook problem, whose positions have keys.
pub trait Turns<K> {
    /// Begins the episode of this number; one number is always the same episode. False where there is nothing to decide
    /// in it: the next is begun then.
    fn begin(&mut self, episode: u64) -> bool;
    /// Returns the present position; called only while the episode is not over.
    fn at(&mut self) -> At<K>;
    /// Carries out one of the options. The reward is the mover's; the other side loses it.
    fn step(&mut self, option: usize) -> Step;
}

/// The position of an episode.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct At<K> {
    /// The position.
    pub key: K,
    /// Options of the mover, at least 1.
    pub options: usize,
    /// The side that decides, 0 or 1. A learner that plays for one side only is always 0.
    pub side: usize,
}

/// The estimate of the value after a decision.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum TableMethod {
    /// The value of the decision made there (SARSA; Rummery & Niranjan 1994).
    Sarsa,
    /// The mean over the decisions possible there (van Seijen et al. 2009).
    ExpectedSarsa,
    /// The value of the best (Q-learning; Watkins 1989). Where sides take turns and the other moves next, the value
    /// that its best leaves (Littman 1994).
    QLearning,
}

/// Settings of a learner with a table.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct TableSettings {
    /// The estimate of the later value.
    pub method: TableMethod,
    /// Rewards added up before the later value is estimated, at least 1.
    pub look: usize,
    /// The discount: the worth of a reward one decision later, 0 to 1.
    pub discount: f64,
    /// The learning rate at first: how far a value moves towards a sample.
    pub rate: f64,
    /// The share of that which is left at the end.
    pub rate_left: f64,
    /// Share of random decisions at first.
    pub explore_first: f64,
    /// The same at the end.
    pub explore: f64,
    /// Share of the whole way after which it is reached.
    pub explore_until: f64,
    /// The initial value of options.
    pub first_value: f64,
}

impl Default for TableSettings {
    fn default() -> Self {
        Self {
            method: TableMethod::QLearning,
            look: 1,
            discount: 1.0,
            rate: 0.3,
            rate_left: 0.1,
            explore_first: 1.0,
            explore: 0.1,
            explore_until: 0.5,
            first_value: 0.0,
        }
    }
}

/// A learner under way, with its table.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(bound(serialize = "K: Serialize + Ord", deserialize = "K: Deserialize<'de> + Eq + Hash"))]
pub struct ValueTable<K> {
    settings: TableSettings,
    seed: u64,
    #[serde(serialize_with = "in_order")]
    rows: HashMap<K, Row, FxBuildHasher>,
    episodes: u64,
    steps: u64,
}

/// Writes rows by position, in the order of their keys: equal tables are written alike, whatever their history.
fn in_order<K: Serialize + Ord, S: Serializer>(
    rows: &HashMap<K, Row, FxBuildHasher>,
    serializer: S,
) -> Result<S::Ok, S::Error> {
    rows.iter().collect::<BTreeMap<_, _>>().serialize(serializer)
}

/// The values of a position.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
struct Row {
    /// The value of each option to the mover.
    values: Vec<f64>,
    /// The updates of each option.
    visits: Vec<u32>,
}

/// Figures of a piece of learning with a table.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct TableLearned {
    /// Decisions.
    pub steps: u64,
    /// Episodes, with the rewards of side 0.
    pub episodes: Vec<Episode>,
}

/// A decision that is not learned of yet.
struct Open<K> {
    key: K,
    option: usize,
    side: usize,
    reward: f64,
}

impl<K: Clone + Eq + Hash> ValueTable<K> {
    /// An empty table.
    #[must_use]
    pub fn new(settings: TableSettings, seed: u64) -> Self {
        Self { settings, seed, rows: HashMap::default(), episodes: 0, steps: 0 }
    }

    /// Decisions so far.
    #[must_use]
    pub fn steps(&self) -> u64 {
        self.steps
    }

    /// Positions in the table.
    #[must_use]
    pub fn len(&self) -> usize {
        self.rows.len()
    }

    /// Whether there is none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// Returns every position with the value of each option to the mover and its number of updates, in no order.
    pub fn rows(&self) -> impl Iterator<Item = (&K, &[f64], &[u32])> {
        self.rows.iter().map(|(key, row)| (key, row.values.as_slice(), row.visits.as_slice()))
    }

    /// The values of the options of a position; none if it was never met.
    #[must_use]
    pub fn values(&self, key: &K) -> Option<&[f64]> {
        self.rows.get(key).map(|row| row.values.as_slice())
    }

    /// Plays whole episodes until there were at least this many decisions, and learns from each; `whole` is how many
    /// decisions the whole way is.
    pub fn learn(&mut self, turns: &mut dyn Turns<K>, steps: u64, whole: u64) -> TableLearned {
        let mut learned = TableLearned::default();
        while learned.steps < steps {
            let episode = self.episode(turns, whole);
            learned.steps += episode.steps;
            learned.episodes.push(episode);
        }
        learned
    }

    /// Share of random decisions now.
    fn explores(&self, whole: u64) -> f64 {
        let TableSettings { explore_first, explore, explore_until, .. } = self.settings;
        let gone = (self.steps as f64 / (explore_until * whole as f64).max(1.0)).min(1.0);
        explore_first + (explore - explore_first) * gone
    }

    fn episode(&mut self, turns: &mut dyn Turns<K>, whole: u64) -> Episode {
        while !turns.begin(self.episodes) {
            self.episodes += 1;
        }
        let mut chance = Chance::named(self.seed, &[DECISIONS, self.episodes]);
        self.episodes += 1;
        let mut episode = Episode { reward: 0.0, steps: 0 };
        let mut open: VecDeque<Open<K>> = VecDeque::new();
        let mut at = turns.at();
        let mut option = self.choose(&at, whole, &mut chance);
        loop {
            let step = turns.step(option);
            self.steps += 1;
            episode.steps += 1;
            episode.reward += if at.side == 0 { step.reward } else { -step.reward };
            open.push_back(Open { key: at.key, option, side: at.side, reward: step.reward });
            if step.end == Some(End::Over) {
                while !open.is_empty() {
                    self.settle(&mut open, None, whole);
                }
                return episode;
            }
            at = turns.at();
            if step.end == Some(End::CutShort) {
                let later = self.best(&at);
                while !open.is_empty() {
                    self.settle(&mut open, Some((at.side, later)), whole);
                }
                return episode;
            }
            option = self.choose(&at, whole, &mut chance);
            if open.len() >= self.settings.look {
                let later = self.later(&at, option, whole);
                self.settle(&mut open, Some((at.side, later)), whole);
            }
        }
    }

    fn row(&mut self, at: &At<K>) -> &Row {
        let first = self.settings.first_value;
        self.rows
            .entry(at.key.clone())
            .or_insert_with(|| Row { values: vec![first; at.options], visits: vec![0; at.options] })
    }

    /// A random option now and then, else one of the best.
    fn choose(&mut self, at: &At<K>, whole: u64, chance: &mut Chance) -> usize {
        let random = chance.happens(self.explores(whole));
        let values = &self.row(at).values;
        if random {
            return chance.below(values.len());
        }
        let best = values.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        let ties = || values.iter().enumerate().filter(|(_, value)| **value == best).map(|(place, _)| place);
        let count = ties().count();
        ties().nth(if count > 1 { chance.below(count) } else { 0 }).unwrap_or(0)
    }

    fn best(&mut self, at: &At<K>) -> f64 {
        self.row(at).values.iter().copied().fold(f64::NEG_INFINITY, f64::max)
    }

    /// Returns the value of the next position for its mover, after this option.
    fn later(&mut self, at: &At<K>, option: usize, whole: u64) -> f64 {
        match self.settings.method {
            TableMethod::Sarsa => self.row(at).values[option],
            TableMethod::QLearning => self.best(at),
            TableMethod::ExpectedSarsa => {
                let explores = self.explores(whole);
                let best = self.best(at);
                let values = &self.row(at).values;
                let mean = values.iter().sum::<f64>() / values.len() as f64;
                (1.0 - explores) * best + explores * mean
            }
        }
    }

    /// Updates the first open decision by the pay since, and by the later value, with its side.
    fn settle(&mut self, open: &mut VecDeque<Open<K>>, later: Option<(usize, f64)>, whole: u64) {
        let discount = self.settings.discount;
        let Some(side) = open.front().map(|step| step.side) else { return };
        let signed = |by: usize, value: f64| if by == side { value } else { -value };
        let after = later.map_or(0.0, |(by, value)| signed(by, value));
        let target = open.iter().rev().fold(after, |sum, step| signed(step.side, step.reward) + discount * sum);
        let gone = (self.steps as f64 / whole.max(1) as f64).min(1.0);
        let rate = self.settings.rate * (1.0 - (1.0 - self.settings.rate_left) * gone);
        if let Some(first) = open.pop_front()
            && let Some(row) = self.rows.get_mut(&first.key)
        {
            row.values[first.option] += rate * (target - row.values[first.option]);
            row.visits[first.option] = row.visits[first.option].saturating_add(1);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Two sides take turns along a row of positions; each step pays the mover its position's value.
    struct Walk {
        at: usize,
        rewards: Vec<f64>,
    }

    impl Turns<usize> for Walk {
        fn begin(&mut self, _episode: u64) -> bool {
            self.at = 0;
            true
        }

        fn at(&mut self) -> At<usize> {
            At { key: self.at, options: 1, side: self.at % 2 }
        }

        fn step(&mut self, _option: usize) -> Step {
            let reward = self.rewards[self.at];
            self.at += 1;
            Step { reward, end: (self.at == self.rewards.len()).then_some(End::Over) }
        }
    }

    #[test]
    fn returns_of_any_number_of_steps_are_the_direct_sums() {
        let rewards = vec![1.0, 0.5, -2.0, 3.0, 0.25];
        for look in [1, 2, 3, 10] {
            let settings = TableSettings { look, discount: 0.5, rate: 1.0, rate_left: 1.0, ..TableSettings::default() };
            let mut table = ValueTable::new(settings, 1);
            // After as many episodes as there are positions every value has come all the way back.
            table.learn(&mut Walk { at: 0, rewards: rewards.clone() }, 25, 25);
            for from in 0..rewards.len() {
                let sign = |place: usize| if (place - from).is_multiple_of(2) { 1.0 } else { -1.0 };
                let sum: f64 = (from..rewards.len())
                    .map(|place| sign(place) * 0.5_f64.powi((place - from) as i32) * rewards[place])
                    .sum();
                assert_eq!(table.values(&from), Some([sum].as_slice()), "{look} steps from {from}");
            }
        }
    }

    /// After one episode a value holds the rewards of just its look, as nothing was known of what came after.
    #[test]
    fn a_return_of_n_steps_has_n_rewards() {
        let settings = TableSettings { look: 2, discount: 1.0, rate: 1.0, rate_left: 1.0, ..TableSettings::default() };
        let mut table = ValueTable::new(settings, 1);
        table.learn(&mut Walk { at: 0, rewards: vec![1.0, 4.0, 16.0, 64.0] }, 1, 4);
        assert_eq!(table.values(&0), Some([1.0 - 4.0].as_slice()));
        assert_eq!(table.values(&1), Some([4.0 - 16.0].as_slice()));
        assert_eq!(table.values(&3), Some([64.0].as_slice()));
    }
}
