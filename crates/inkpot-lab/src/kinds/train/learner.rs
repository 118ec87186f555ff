//! Learners, for every method.

use std::collections::BTreeMap;

use inkpot_core::{Halt, Response};
use inkpot_learn::{Actions, Body, Diverged, Dqn, Genome, Gives, Learned, Network, Ppo, ValueTable};
use serde::{Deserialize, Serialize};

use super::asked::Train;
use super::files;
use super::lesson::Lesson;
use crate::kinds::found::{Purpose, Shape, TrainingName};

/// A learner.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub(super) enum Learner {
    /// A policy with a value estimate.
    Ppo(Box<Ppo>),
    /// The values of options.
    Dqn(Box<Dqn>),
    /// The values of positions.
    Table(Box<ValueTable<String>>),
    /// Exact best responses.
    Exact(Exact),
}

/// A best response to one opponent, once computed.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(super) struct Exact {
    /// The values of options, by position.
    rows: Option<BTreeMap<String, Vec<f64>>>,
    /// Positions at which the opponent was asked, those where it takes several options, and those where its chances are
    /// known from draws only.
    pub(super) asked: u64,
    pub(super) varied: u64,
    #[serde(default)]
    pub(super) sampled: u64,
}

impl Learner {
    /// Positions at which the opponent's chances are known from draws only; none of a learner that does not look through
    /// all positions.
    pub(super) fn sampled(&self) -> Option<u64> {
        if let Self::Exact(exact) = self { Some(exact.sampled) } else { None }
    }
}

impl Learner {
    /// At its beginning.
    pub(super) fn new(train: &Train, number: usize) -> Self {
        let (method, seed) = (&train.method, train.aim.stream(Purpose::Learning, number));
        if method.name == TrainingName::Exact {
            return Self::Exact(Exact::default());
        }
        let Shape::Network { layers, activation, features } = &train.aim.candidate.shape else {
            return Self::Table(Box::new(ValueTable::new(method.table(), seed)));
        };
        let (inputs, environments) = (features.observation.len(), method.environments());
        if method.name == TrainingName::Dqn {
            let options = features.actions.outputs();
            return Self::Dqn(Box::new(Dqn::new(
                method.dqn(),
                inputs,
                options,
                layers,
                *activation,
                environments,
                seed,
            )));
        }
        let actions = Actions::of(&features.actions);
        Self::Ppo(Box::new(Ppo::new(method.ppo(), inputs, actions, layers, *activation, environments, seed)))
    }

    /// Brings matches that were made anew to where they were.
    pub(super) fn restore(&self, lessons: &mut [Lesson]) {
        match self {
            Self::Ppo(ppo) => ppo.restore(lessons),
            Self::Dqn(dqn) => dqn.restore(lessons),
            // They learn from whole matches.
            Self::Table(_) | Self::Exact(_) => {}
        }
        // What had happened by then was told by then.
        for lesson in lessons {
            lesson.take_news();
        }
    }

    /// Decisions so far.
    pub(super) fn steps(&self) -> u64 {
        match self {
            Self::Ppo(ppo) => ppo.steps(),
            Self::Dqn(dqn) => dqn.steps(),
            Self::Table(table) => table.steps(),
            Self::Exact(exact) => exact.rows.as_ref().map_or(0, BTreeMap::len) as u64,
        }
    }

    /// Whether there is nothing left to learn.
    pub(super) fn is_done(&self) -> bool {
        matches!(self, Self::Exact(Exact { rows: Some(_), .. }))
    }

    /// Learns once, from at most about this many decisions. A long step heeds a halt, and has then learned nothing.
    pub(super) fn learn(
        &mut self,
        lessons: &mut [Lesson],
        most: u64,
        train: &Train,
        halt: &Halt,
    ) -> Result<Learned, Diverged> {
        let whole = train.steps;
        match self {
            Self::Ppo(ppo) => {
                let progress = ppo.steps() as f64 / whole as f64;
                ppo.learn(lessons, progress)
            }
            Self::Dqn(dqn) => {
                let turns = most.clamp(1, SOME).div_ceil(lessons.len() as u64);
                dqn.learn(lessons, turns as usize, whole)
            }
            Self::Exact(exact) => {
                if let Some(Response { rows, asked, varied, sampled, .. }) = lessons[0].best_response(halt) {
                    *exact = Exact { rows: Some(rows), asked, varied, sampled };
                }
                Ok(Learned::default())
            }
            Self::Table(table) => {
                let learned = table.learn(&mut lessons[0], most.clamp(1, SOME), whole);
                Ok(Learned { steps: learned.steps, episodes: learned.episodes, ..Learned::default() })
            }
        }
    }

    /// Positions whose values it knows; none of a network.
    pub(super) fn positions(&self) -> Option<u64> {
        match self {
            Self::Table(table) => Some(table.len() as u64),
            Self::Exact(_) => Some(self.steps()),
            _ => None,
        }
    }

    /// Returns the agent of its present knowledge.
    pub(super) fn genome(&self, train: &Train) -> Genome {
        let (network, gives) = match self {
            Self::Ppo(ppo) => (ppo.policy(), Gives::Chances),
            Self::Dqn(dqn) => (dqn.policy(), Gives::Values),
            Self::Table(learned) => return Genome::File(files::table(learned)),
            Self::Exact(exact) => return Genome::File(files::answers(exact.rows.iter().flatten())),
        };
        let body = Body::Network(Network::Dense(network));
        Genome::File(train.aim.candidate.filed(body, gives).to_bytes())
    }
}

/// Decisions that are learned from before a method without updates of its own is asked again.
const SOME: u64 = 4_096;
