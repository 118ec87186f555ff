//! What learns, whatever the method.

use inkpot_core::ActionSpace;
use inkpot_learn::{Actions, Body, Diverged, Dqn, Genome, Gives, Learned, Network, Ppo, Table, Weights};
use serde::{Deserialize, Serialize};

use super::asked::Train;
use super::lesson::Lesson;
use super::{TrainingName, files};
use crate::kinds::found::Shape;

/// What learns.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub(super) enum Learner {
    /// A policy with a value estimate.
    Ppo(Box<Ppo>),
    /// The values of options.
    Dqn(Box<Dqn>),
    /// The values of positions.
    Table(Box<Table<String>>),
}

impl Learner {
    /// At its beginning.
    pub(super) fn new(train: &Train, number: usize) -> Self {
        let (method, seed) = (&train.method, train.aim.seed_of(number));
        let Shape::Network { layers, activation, features } = &train.aim.candidate.shape else {
            return Self::Table(Box::new(Table::new(method.table(), seed)));
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
            Self::Ppo(own) => own.restore(lessons),
            Self::Dqn(own) => own.restore(lessons),
            // It learns from whole matches.
            Self::Table(_) => {}
        }
        // What had happened by then was told by then.
        for own in lessons {
            own.take_news();
        }
    }

    /// Decisions so far.
    pub(super) fn steps(&self) -> u64 {
        match self {
            Self::Ppo(own) => own.steps(),
            Self::Dqn(own) => own.steps(),
            Self::Table(own) => own.steps(),
        }
    }

    /// Learns once, from at most about this many decisions.
    pub(super) fn learn(&mut self, lessons: &mut [Lesson], most: u64, train: &Train) -> Result<Learned, Diverged> {
        let whole = train.steps;
        match self {
            Self::Ppo(own) => {
                let progress = own.steps() as f64 / whole as f64;
                own.learn(lessons, progress)
            }
            Self::Dqn(own) => {
                let turns = most.clamp(1, SOME).div_ceil(lessons.len() as u64);
                own.learn(lessons, turns as usize, whole)
            }
            Self::Table(own) => {
                let learned = own.learn(&mut lessons[0], most.clamp(1, SOME), whole);
                Ok(Learned { steps: learned.steps, episodes: learned.episodes, ..Learned::default() })
            }
        }
    }

    /// Positions whose values it knows; none of a network.
    pub(super) fn positions(&self) -> Option<u64> {
        match self {
            Self::Table(own) => Some(own.len() as u64),
            _ => None,
        }
    }

    /// The agent that plays by what it knows now.
    pub(super) fn genome(&self, train: &Train) -> Genome {
        let (network, gives) = match self {
            Self::Ppo(own) => (own.policy(), Gives::Chances),
            Self::Dqn(own) => (own.policy(), Gives::Values),
            Self::Table(own) => return Genome::File(files::table(own)),
        };
        let (observation, actions) = match &train.aim.candidate.shape {
            Shape::Network { features, .. } => {
                let observed = features.observation.iter().map(|figure| figure.name.clone()).collect();
                (observed, names(&features.actions))
            }
            _ => (Vec::new(), Vec::new()),
        };
        let body = Body::Network(Network::Dense(network));
        Genome::File(Weights { observation, actions, gives, body, earlier: Vec::new() }.to_bytes())
    }
}

/// Decisions that are learned from before a method without updates of its own is asked again.
const SOME: u64 = 4_096;

fn names(actions: &ActionSpace) -> Vec<String> {
    actions.names().into_iter().map(String::from).collect()
}
