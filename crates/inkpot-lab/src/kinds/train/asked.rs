//! A training, resolved and checked.

use inkpot_core::{Casting, KnobValue, Knobs, LEARNER, Setting};
use serde::{Deserialize, Serialize};

use super::Training;
use crate::kinds::found::Aim;

/// A training, resolved and checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Train {
    /// What is sought and how it is judged.
    #[serde(flatten)]
    pub aim: Aim,
    /// How.
    pub method: Training,
    /// Whether it learns by playing both sides.
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

    /// Where it learns: one setting an opponent, with the learner first; both are the learner where it plays itself.
    pub(super) fn lessons(&self, number: usize) -> Vec<Setting> {
        let learner = || Casting { entrant: LEARNER, kind: self.aim.candidate.kind.clone(), knobs: Knobs::default() };
        let setting = |cast: Vec<Casting>, pairing: usize| Setting {
            rules: self.aim.ground.rules.clone(),
            level: self.aim.ground.level.clone(),
            cast,
            series: 1,
            study_seed: self.aim.seed_of(number),
            pairing: pairing as u64,
        };
        if self.self_play {
            return vec![setting(vec![learner(), learner()], 0)];
        }
        if self.aim.opponents.is_empty() {
            return vec![setting(vec![learner()], 0)];
        }
        let other = |own: &crate::Entrant| Casting { entrant: 1, kind: own.kind.clone(), knobs: own.knobs.clone() };
        let each = self.aim.opponents.iter().enumerate();
        each.map(|(place, own)| setting(vec![learner(), other(own)], place)).collect()
    }
}
