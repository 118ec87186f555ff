//! An evolution, resolved and checked.

use inkpot_core::{Casting, GameEntry, Knobs, Level, Setting};
use inkpot_learn::Genome;
use serde::{Deserialize, Serialize};

use super::{Candidate, Method, Term};
use crate::figure::Figure;
use crate::{Entrant, Ground};

/// An evolution, resolved and checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Evolve {
    /// Where and how candidates play.
    pub ground: Ground,
    /// What is sought.
    pub candidate: Candidate,
    /// How.
    pub method: Method,
    /// What a candidate is worth.
    pub terms: Vec<Term>,
    /// Whether the terms are compared one after the other.
    pub in_turn: bool,
    /// Whom candidates play; nobody in a game that is played alone.
    pub opponents: Vec<Entrant>,
    /// Blocks that each candidate plays against each opponent, a generation.
    pub blocks: u64,
    /// Whether each generation plays blocks of its own.
    pub fresh_blocks: bool,
    /// Independent repetitions of the search.
    pub seeds: u64,
    /// Matches that each repetition may play.
    pub matches: u64,
    /// Generations without progress after which a repetition ends.
    pub stagnation: u64,
    /// What it is looked at on and never learns from.
    pub yardstick: Yardstick,
    /// Matches of the proof, of each repetition's champion against each opponent of the yardstick.
    pub proof: u64,
}

/// What a search is looked at on and never learns from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Yardstick {
    /// The level, resolved.
    pub level: Level,
    /// Every rules knob.
    pub rules: Knobs,
    /// The opponents.
    pub opponents: Vec<Entrant>,
    /// The figure's name.
    pub figure: String,
    /// The value of it at which a repetition ends.
    pub target: Option<f64>,
    /// Generations from one look to the next.
    pub every: u64,
    /// Matches of a look against each opponent.
    pub matches: u64,
    pub(super) of: Figure,
    /// Whether less of it is wanted, so that the target is reached from above.
    pub(super) less: bool,
    /// Whether it is a share.
    pub(super) is_share: bool,
}

/// Where no target is given, a candidate has succeeded from this share on.
const SUCCESS: f64 = 0.5;

impl Yardstick {
    /// Whether this value reaches the target.
    pub(super) fn reached(&self, value: f64) -> bool {
        self.target.is_some_and(|target| if self.less { value <= target } else { value >= target })
    }

    /// Whether this value is a success: it reaches the target, or a half where none is given and the figure is a share.
    pub(super) fn succeeded(&self, value: f64) -> bool {
        self.reached(value) || self.target.is_none() && self.is_share && !self.less && value >= SUCCESS
    }
}

/// Where a candidate plays.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Field {
    /// Where it learns.
    Training,
    /// Where it is looked at.
    Yardstick,
}

impl Evolve {
    /// Seats of a match.
    pub fn seats(&self) -> u64 {
        if self.opponents.is_empty() { 1 } else { 2 }
    }

    /// Matches of a generation at first.
    pub fn matches_a_generation(&self) -> u64 {
        self.method.population() * self.matches_a_candidate()
    }

    /// Matches of one candidate, a generation.
    pub(super) fn matches_a_candidate(&self) -> u64 {
        self.blocks * self.seats() * self.opponents.len().max(1) as u64
    }

    /// The seed of a repetition.
    pub(super) fn seed_of(&self, repetition: usize) -> u64 {
        self.ground.seed.wrapping_add(repetition as u64)
    }

    /// The seats of a match of the yardstick.
    pub(super) fn yardstick_seats(&self) -> u64 {
        if self.yardstick.opponents.is_empty() { 1 } else { 2 }
    }

    /// Blocks of a look at the yardstick.
    pub(super) fn yardstick_blocks(&self) -> u64 {
        self.yardstick.matches.div_ceil(self.yardstick_seats())
    }

    /// What a candidate plays: one setting an opponent.
    pub(super) fn settings(&self, genome: &Genome, field: Field, seed: u64, game: &dyn GameEntry) -> Vec<Setting> {
        let sheet = game.agent(&self.candidate.kind).expect("the agent was looked up when the brief was checked");
        let knobs = self.candidate.knobs(genome, sheet);
        let own = Casting { entrant: 0, kind: self.candidate.kind.clone(), knobs };
        let (level, rules, opponents) = match field {
            Field::Training => (&self.ground.level, &self.ground.rules, &self.opponents),
            Field::Yardstick => (&self.yardstick.level, &self.yardstick.rules, &self.yardstick.opponents),
        };
        let other = |other: &Entrant| Casting { entrant: 1, kind: other.kind.clone(), knobs: other.knobs.clone() };
        let setting = |cast: Vec<Casting>, pairing: u64| Setting {
            rules: rules.clone(),
            level: level.clone(),
            cast,
            series: 1,
            study_seed: seed,
            pairing,
        };
        if opponents.is_empty() {
            return vec![setting(vec![own], 0)];
        }
        let each = opponents.iter().enumerate();
        each.map(|(place, opponent)| setting(vec![own.clone(), other(opponent)], place as u64)).collect()
    }
}
