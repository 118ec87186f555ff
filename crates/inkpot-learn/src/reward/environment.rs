//! Environments for learning.

use inkpot_core::Intent;
use serde::{Deserialize, Serialize};
use thiserror::Error;

/// Something in which decisions are paid for: a match with a learner at one seat, or a problem of a textbook.
pub trait Environment: Send {
    /// Begins the episode of this number; one number is always the same episode. False where there is nothing to decide
    /// in it: the next is begun then.
    fn begin(&mut self, episode: u64) -> bool;
    /// Writes the present observation into `into`; after the end of an episode, the final one.
    fn observe(&mut self, into: &mut Vec<f32>);
    /// Carries out a decision.
    fn step(&mut self, intent: Intent<'_>) -> Step;
}

impl<E: Environment + ?Sized> Environment for Box<E> {
    fn begin(&mut self, episode: u64) -> bool {
        (**self).begin(episode)
    }

    fn observe(&mut self, into: &mut Vec<f32>) {
        (**self).observe(into);
    }

    fn step(&mut self, intent: Intent<'_>) -> Step {
        (**self).step(intent)
    }
}

/// The result of a decision.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Step {
    /// The reward.
    pub reward: f64,
    /// Whether the episode has ended with it.
    pub end: Option<End>,
}

/// The way an episode ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum End {
    /// It is over: nothing more can be had.
    Over,
    /// It was cut short: the later reward must be estimated.
    CutShort,
}

/// An episode that has ended.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Episode {
    /// The sum of its rewards, undiscounted.
    pub reward: f64,
    /// Its decisions.
    pub steps: u64,
}

/// Figures of a piece of learning.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Learned {
    /// Decisions.
    pub steps: u64,
    /// Episodes that ended, in the order of the environments.
    pub episodes: Vec<Episode>,
    /// Counts of each option's use; empty where actions are continuous.
    pub taken: Vec<u64>,
    /// Mean entropy of the decisions in nats; none where there is none.
    pub entropy: Option<f64>,
    /// Share of the variance of the returns that the value estimate explains, up to 1; none where nothing varied.
    pub explained: Option<f64>,
    /// The move of the decisions, as an estimate of the Kullback-Leibler divergence in nats; none where that is
    /// not known.
    pub moved: Option<f64>,
    /// Mean loss of the value estimate.
    pub loss: f64,
}

/// Learning went wrong: a number has become infinite or none.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
#[error("learning diverged after {steps} steps")]
pub struct Diverged {
    /// Decisions until then.
    pub steps: u64,
}

/// An environment with all that brings it back to where it is.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Bench {
    /// The episode under way; none before the first.
    episode: Option<u64>,
    /// Episodes that it has begun.
    begun: u64,
    reward: f64,
    steps: u64,
    /// The decisions: options, or values, one after the other.
    #[serde(with = "crate::bits")]
    decided: Vec<f32>,
}

impl Bench {
    /// This many of them, before their first episodes.
    #[must_use]
    pub fn row(count: usize) -> Vec<Self> {
        vec![Self::default(); count]
    }

    /// Brings an environment that was made anew to where this one was; `width` is the number of values of a decision, 0
    /// for an option.
    pub fn restore(&self, environment: &mut impl Environment, width: usize) {
        let Some(episode) = self.episode else { return };
        environment.begin(episode);
        for decision in self.decided.chunks_exact(width.max(1)) {
            environment.step(if width == 0 { Intent::Option(decision[0] as usize) } else { Intent::Values(decision) });
        }
    }

    /// The next episode where none is under way; `number` is the place of this environment in a row of `count`.
    pub(super) fn begin(&mut self, environment: &mut impl Environment, number: usize, count: usize) {
        while self.episode.is_none() {
            let episode = self.begun * count as u64 + number as u64;
            self.begun += 1;
            if environment.begin(episode) {
                (self.episode, self.reward, self.steps) = (Some(episode), 0.0, 0);
                self.decided.clear();
            }
        }
    }

    /// Carries out a decision, and gives the episode if it ended with it.
    pub(super) fn step(&mut self, environment: &mut impl Environment, intent: Intent) -> (Step, Option<Episode>) {
        let step = environment.step(intent);
        match intent {
            Intent::Option(option) => self.decided.push(option as f32),
            Intent::Values(values) => self.decided.extend_from_slice(values),
        }
        self.reward += step.reward;
        self.steps += 1;
        let ended = step.end.map(|_| Episode { reward: self.reward, steps: self.steps });
        if ended.is_some() {
            self.episode = None;
        }
        (step, ended)
    }
}
