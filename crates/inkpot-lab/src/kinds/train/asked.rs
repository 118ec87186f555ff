//! A training, resolved and checked.

use inkpot_core::{Casting, GameEntry, Knobs, LEARNER, Level, Seating, Setting};
use inkpot_learn::Genome;
use serde::{Deserialize, Serialize};

use super::{LearnedGame, Training};
use crate::Entrant;
use crate::kinds::found::{Aim, Field, Purpose, Shape, Yardstick};

/// A discount that looks less than this part of a match ahead is short.
pub(super) const SHORT: f64 = 10.0;
/// Fewer matches than these seldom teach a network anything.
pub(super) const FEW: f64 = 500.0;

/// A training, resolved and checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Train {
    /// The aim.
    #[serde(flatten)]
    pub aim: Aim,
    /// The method.
    pub method: Training,
    /// Whether it learns against itself: a table by playing both sides, a network by playing earlier states.
    pub self_play: bool,
    /// The legs before the level, rules and opponents of the aim, in order.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub legs: Vec<Leg>,
    /// Whether matches take turns on all legs and on the level of the aim, from the first to the last.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub mixed: bool,
    /// Decisions that each repetition may learn from.
    pub steps: u64,
}

/// A leg of a course: something easier, which is learned first; or, where legs are mixed, another place to learn.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Leg {
    /// The level, resolved.
    pub level: Level,
    /// Every rules knob.
    pub rules: Knobs,
    /// The opponents, as many as there are kinds of them; nobody where it plays alone or against itself.
    pub opponents: Vec<Entrant>,
    /// The value of the yardstick's figure, looked at here, from which on the leg is passed; up to which, where less is
    /// wanted. None where legs are mixed.
    pub pass: Option<f64>,
}

impl Leg {
    /// Whether it is passed by this value of the yardstick's figure.
    pub(super) fn is_passed(&self, value: f64, yardstick: &Yardstick) -> bool {
        self.pass.is_some_and(|pass| if yardstick.less { value <= pass } else { value >= pass })
    }
}

/// The foresight of a network in training: how far it looks ahead, and the number of its matches.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Foresight {
    /// Ticks from one decision to the next.
    pub decide_every: u32,
    /// The same as the game has it.
    pub usual_decide_every: u32,
    /// The discount that is usual with these decisions.
    pub usual_discount: f64,
    /// Ticks after which a reward counts for a share of 1/e.
    pub ahead_ticks: f64,
    /// Ticks of a usual match.
    pub match_ticks: f64,
    /// Usual matches that a repetition learns from.
    pub matches: f64,
}

impl Foresight {
    /// Whether the discount looks less than a tenth of a match ahead.
    pub fn is_short(&self) -> bool {
        self.ahead_ticks < self.match_ticks / SHORT
    }

    /// Whether so few matches seldom teach anything.
    pub fn is_little(&self) -> bool {
        self.matches < FEW
    }
}

impl Train {
    /// The seating: the learner alone, or against one other.
    pub fn seating(&self) -> Seating {
        self.aim.ground.seating(if self.aim.opponents.is_empty() && !self.self_play { 1 } else { 2 })
    }

    /// Matches of a block.
    pub fn matches_a_block(&self) -> u64 {
        self.seating().matches_a_block() as u64
    }

    /// Matches of a look: on the yardstick, on the levels that are held back, and on a leg.
    pub fn look_matches(&self) -> u64 {
        let opponents = |count: usize| count.max(1) as u64;
        let yardstick = &self.aim.yardstick;
        let leg = self.legs.iter().map(|leg| opponents(leg.opponents.len())).max().unwrap_or(0);
        yardstick.matches * (opponents(yardstick.opponents.len()) * (1 + yardstick.held_back.len() as u64) + leg)
    }

    /// Decisions of an agent from one look to the next.
    pub(super) fn decide_every(&self) -> u32 {
        self.aim.candidate.decide_every()
    }

    /// Returns the foresight of a network in training; none if the game does not state the length of matches.
    pub fn foresight(&self) -> Option<Foresight> {
        let Shape::Network { features, .. } = &self.aim.candidate.shape else { return None };
        let match_ticks = features.tempo?.match_ticks as f64;
        Some(Foresight {
            decide_every: self.decide_every(),
            usual_decide_every: self.usual_decide_every(),
            usual_discount: LearnedGame::of(&self.aim).discount(),
            ahead_ticks: self.ahead_ticks(),
            match_ticks,
            matches: self.steps as f64 * f64::from(self.decide_every()) / match_ticks,
        })
    }

    /// Ticks after which a reward counts for a share of 1/e.
    pub(super) fn ahead_ticks(&self) -> f64 {
        f64::from(self.decide_every()) / (1.0 - self.method.discount()).max(f64::MIN_POSITIVE)
    }

    /// Ticks from one decision to the next where the game says how many serve; its own else.
    pub(super) fn usual_decide_every(&self) -> u32 {
        match &self.aim.candidate.shape {
            Shape::Network { features, .. } => features.tempo.map_or(self.decide_every(), |tempo| tempo.decide_every),
            _ => self.decide_every(),
        }
    }

    /// Whether one table decides for both sides.
    pub(super) fn plays_both(&self) -> bool {
        self.self_play && self.method.name.learns_positions()
    }

    /// Whether earlier states are among its opponents.
    pub(super) fn meets_past(&self) -> bool {
        self.self_play && !self.method.name.learns_positions()
    }

    fn learner(&self) -> Casting {
        Casting::new(LEARNER, &self.aim.candidate.kind, Knobs::default())
    }

    /// Level, rules and opponents of a leg by its number; those of the aim behind the last.
    fn stretch(&self, leg: usize) -> (&Level, &Knobs, &[Entrant]) {
        match self.legs.get(leg) {
            Some(leg) => (&leg.level, &leg.rules, &leg.opponents),
            None => (&self.aim.ground.level, &self.aim.ground.rules, &self.aim.opponents),
        }
    }

    /// Returns the field of the looks at a leg. A learner without opponents there meets those of the yardstick.
    pub(super) fn looking_at(&self, leg: usize) -> Field<'_> {
        let (level, rules, opponents) = self.stretch(leg);
        let opponents = if opponents.is_empty() { &self.aim.yardstick.opponents } else { opponents };
        Aim::field(level, rules, opponents)
    }

    fn lesson(&self, number: usize, leg: usize, cast: Vec<Casting>, pairing: usize) -> Setting {
        let (level, rules, _) = self.stretch(leg);
        Setting {
            rules: rules.clone(),
            level: level.clone(),
            seating: Seating::rotated(cast.len()),
            cast,
            study_seed: self.aim.stream(Purpose::Learning, number),
            pairing: pairing as u64,
        }
    }

    /// Returns the setting against an earlier state of the learner, which decides by chance as in training.
    pub(super) fn against_past(&self, number: usize, leg: usize, past: &Genome, game: &dyn GameEntry) -> Setting {
        let discrete = match &self.aim.candidate.shape {
            Shape::Network { features, .. } => features.actions.is_discrete(),
            _ => false,
        };
        let knobs = self.aim.knobs_of(past, game);
        let knobs = if discrete { Knobs::default().with("temper", 1.0).over(&knobs) } else { knobs };
        let other = Casting::new(1, &self.aim.candidate.kind, knobs);
        self.lesson(number, leg, vec![self.learner(), other], self.stretch(leg).2.len())
    }

    /// Returns the training settings of a leg: one a fixed opponent, the learner first, or the learner on both sides.
    pub(super) fn lessons(&self, number: usize, leg: usize) -> Vec<Setting> {
        let opponents = self.stretch(leg).2;
        if self.plays_both() {
            return vec![self.lesson(number, leg, vec![self.learner(), self.learner()], 0)];
        }
        if opponents.is_empty() && !self.self_play {
            return vec![self.lesson(number, leg, vec![self.learner()], 0)];
        }
        let other = |entrant: &Entrant| Casting::new(1, &entrant.kind, entrant.knobs.clone());
        let each = opponents.iter().enumerate();
        each.map(|(place, opponent)| self.lesson(number, leg, vec![self.learner(), other(opponent)], place)).collect()
    }
}
