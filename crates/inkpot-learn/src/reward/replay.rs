//! The replay memory: past decisions for further updates.

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

/// The latest decisions with their results. Once it is full, each new one replaces the oldest.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Replay {
    most: usize,
    inputs: usize,
    /// The place of the next.
    next: usize,
    /// By row: the observations before and after, the option, the reward, and 1 if the episode goes on.
    #[serde(with = "crate::bits")]
    rows: Vec<f32>,
}

/// A decision with its result.
#[derive(Clone, Copy, Debug)]
pub(super) struct Memory<'a> {
    pub(super) before: &'a [f32],
    pub(super) after: &'a [f32],
    pub(super) option: usize,
    pub(super) reward: f32,
    pub(super) follows: bool,
}

impl Replay {
    /// An empty one with room for `most` decisions, with observations of this many figures.
    #[must_use]
    pub fn new(most: usize, inputs: usize) -> Self {
        Self { most, inputs, next: 0, rows: Vec::new() }
    }

    fn width(&self) -> usize {
        2 * self.inputs + 3
    }

    /// Decisions that it holds.
    #[must_use]
    pub fn len(&self) -> usize {
        self.rows.len() / self.width()
    }

    /// Whether it holds none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// Adds one.
    pub(super) fn add(&mut self, memory: &Memory) {
        let width = self.width();
        let parts = memory.before.iter().chain(memory.after).copied();
        let parts = parts.chain([memory.option as f32, memory.reward, if memory.follows { 1.0 } else { 0.0 }]);
        if self.len() < self.most {
            self.rows.extend(parts);
        } else {
            let place = self.next * width;
            self.rows[place..place + width].iter_mut().zip(parts).for_each(|(old, new)| *old = new);
        }
        self.next = (self.next + 1) % self.most;
    }

    /// One of them at random.
    pub(super) fn draw(&self, chance: &mut Chance) -> Memory<'_> {
        let width = self.width();
        let row = &self.rows[chance.below(self.len()) * width..][..width];
        let (before, rest) = row.split_at(self.inputs);
        let (after, rest) = rest.split_at(self.inputs);
        Memory { before, after, option: rest[0] as usize, reward: rest[1], follows: rest[2] > 0.5 }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_oldest_gives_way() {
        let mut replay = Replay::new(3, 1);
        for number in 0..5_u8 {
            let x = [f32::from(number)];
            replay.add(&Memory {
                before: &x,
                after: &x,
                option: usize::from(number),
                reward: x[0],
                follows: number % 2 == 0,
            });
        }
        let mut chance = Chance::from_seed(1);
        let drawn: std::collections::BTreeSet<usize> = (0..100).map(|_| replay.draw(&mut chance).option).collect();
        assert_eq!(drawn.into_iter().collect::<Vec<_>>(), [2, 3, 4]);
        assert!((0..20).all(|_| {
            let memory = replay.draw(&mut chance);
            memory.follows == memory.option.is_multiple_of(2) && memory.reward == memory.before[0]
        }));
    }
}
