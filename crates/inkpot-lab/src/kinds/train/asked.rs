//! A training, resolved and checked.

use inkpot_core::{Casting, GameEntry, KnobValue, Knobs, LEARNER, Setting};
use inkpot_learn::Genome;
use serde::{Deserialize, Serialize};

use super::Training;
use crate::Entrant;
use crate::kinds::found::{Aim, Shape};

/// A training, resolved and checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Train {
    /// What is sought and how it is judged.
    #[serde(flatten)]
    pub aim: Aim,
    /// How.
    pub method: Training,
    /// Whether it learns against itself: a table by playing both sides, a network by playing what it was before.
    pub self_play: bool,
    /// Decisions that each repetition may learn from.
    pub steps: u64,
}

impl Train {
    /// Seats of a match.
    pub fn seats(&self) -> u64 {
        if self.aim.opponents.is_empty() && !self.self_play { 1 } else { 2 }
    }

    /// Decisions of an agent from one look to the next.
    pub(super) fn decide_every(&self) -> u32 {
        let given = self.aim.candidate.given.get("decide_every").and_then(KnobValue::number);
        given.map_or(1, |every| every as u32)
    }

    /// Whether one table decides for both sides.
    pub(super) fn plays_both(&self) -> bool {
        self.self_play && self.method.name.learns_positions()
    }

    /// Whether what it was before is among its opponents.
    pub(super) fn meets_past(&self) -> bool {
        self.self_play && !self.method.name.learns_positions()
    }

    fn learner(&self) -> Casting {
        Casting { entrant: LEARNER, kind: self.aim.candidate.kind.clone(), knobs: Knobs::default() }
    }

    fn lesson(&self, number: usize, cast: Vec<Casting>, pairing: usize) -> Setting {
        Setting {
            rules: self.aim.ground.rules.clone(),
            level: self.aim.ground.level.clone(),
            cast,
            series: 1,
            study_seed: self.aim.seed_of(number),
            pairing: pairing as u64,
        }
    }

    /// Where it learns against what it was before: that decides by chance, as it did while it learned.
    pub(super) fn against_past(&self, number: usize, past: &Genome, game: &dyn GameEntry) -> Setting {
        let discrete = match &self.aim.candidate.shape {
            Shape::Network { features, .. } => features.actions.is_discrete(),
            _ => false,
        };
        let knobs = self.aim.knobs_of(past, game);
        let knobs = if discrete { Knobs::default().with("temper", 1.0).over(&knobs) } else { knobs };
        let other = Casting { entrant: 1, kind: self.aim.candidate.kind.clone(), knobs };
        self.lesson(number, vec![self.learner(), other], self.aim.opponents.len())
    }

    /// Where it learns: one setting a fixed opponent, with the learner first; both are the learner where it plays both
    /// sides.
    pub(super) fn lessons(&self, number: usize) -> Vec<Setting> {
        if self.plays_both() {
            return vec![self.lesson(number, vec![self.learner(), self.learner()], 0)];
        }
        if self.aim.opponents.is_empty() && !self.self_play {
            return vec![self.lesson(number, vec![self.learner()], 0)];
        }
        let other = |own: &Entrant| Casting { entrant: 1, kind: own.kind.clone(), knobs: own.knobs.clone() };
        let each = self.aim.opponents.iter().enumerate();
        each.map(|(place, own)| self.lesson(number, vec![self.learner(), other(own)], place)).collect()
    }
}
