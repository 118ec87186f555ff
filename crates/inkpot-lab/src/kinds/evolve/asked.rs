//! An evolution, resolved and checked.

use inkpot_core::{AgentSheet, Casting, GameEntry, Knobs, Level, Setting};
use inkpot_learn::{Genome, Worth};
use serde::{Deserialize, Serialize};

use super::term::{Figures, worth};
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
    /// Whom all candidates play; nobody in a game that is played alone, or where there are rivals only.
    pub opponents: Vec<Entrant>,
    /// How candidates learn against each other; none where they do not.
    pub rivals: Option<Rivals>,
    /// Blocks that each candidate plays against each opponent and rival, a generation.
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

/// How candidates learn against each other.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Rivals {
    /// Populations: candidates of one meet their own, of two each other.
    pub populations: u64,
    /// Rivals of the generation that plays now.
    pub current: u64,
    /// Rivals of the hall of fame.
    pub past: u64,
    /// The most that a hall of fame keeps.
    pub hall_of_fame: u64,
}

impl Rivals {
    /// The most rivals that a candidate meets in a generation.
    pub fn most(&self) -> u64 {
        self.current + self.past.min(self.hall_of_fame)
    }
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

/// Where a candidate plays, and against whom.
pub(super) struct Field<'a> {
    level: &'a Level,
    rules: &'a Knobs,
    opponents: Vec<Casting>,
}

impl Field<'_> {
    /// Whether candidates play there alone.
    pub(super) fn stands_alone(&self) -> bool {
        self.opponents.is_empty()
    }
}

/// What a champion seemed to be worth was measured here.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum LearnedOn {
    /// On the field of the yardstick.
    Yardstick,
    /// On another field.
    Elsewhere,
    /// Against other candidates.
    Rivals,
}

fn opposing(kind: &str, knobs: Knobs) -> Casting {
    Casting { entrant: 1, kind: kind.into(), knobs }
}

impl Evolve {
    /// Seats of a match.
    pub fn seats(&self) -> u64 {
        if self.opponents.is_empty() && self.rivals.is_none() { 1 } else { 2 }
    }

    /// Matches of a generation at first, with as many rivals as there may be.
    pub fn matches_a_generation(&self) -> u64 {
        let rivals = self.rivals.map_or(0, |own| own.most());
        self.method.population() * self.populations() * self.matches_a_candidate(rivals)
    }

    /// Populations of a repetition.
    pub(super) fn populations(&self) -> u64 {
        self.rivals.map_or(1, |own| own.populations)
    }

    /// Matches of one candidate in a generation that meets this number of rivals.
    pub(super) fn matches_a_candidate(&self, rivals: u64) -> u64 {
        self.blocks * self.seats() * (self.opponents.len() as u64 + rivals).max(1)
    }

    /// What these figures are worth.
    pub(super) fn worth_of(&self, figures: &Figures) -> Worth {
        worth(&self.terms, &figures.terms, self.in_turn)
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

    /// Where what a champion seemed to be worth was measured.
    pub(super) fn learned_on(&self) -> LearnedOn {
        let yardstick = &self.yardstick;
        let same = (&self.ground.level, &self.ground.rules) == (&yardstick.level, &yardstick.rules);
        if self.rivals.is_some() {
            LearnedOn::Rivals
        } else if same && self.opponents == yardstick.opponents {
            LearnedOn::Yardstick
        } else {
            LearnedOn::Elsewhere
        }
    }

    /// Where candidates learn: against the opponents, and against these rivals.
    pub(super) fn training(&self, rivals: &[Genome], game: &dyn GameEntry) -> Field<'_> {
        let fixed = self.opponents.iter().map(|own| opposing(&own.kind, own.knobs.clone()));
        let sheet = self.sheet(game);
        let rivals = rivals.iter().map(|own| opposing(&self.candidate.kind, self.candidate.knobs(own, sheet)));
        Field { level: &self.ground.level, rules: &self.ground.rules, opponents: fixed.chain(rivals).collect() }
    }

    /// Where candidates are looked at.
    pub(super) fn looking(&self) -> Field<'_> {
        let Yardstick { level, rules, opponents, .. } = &self.yardstick;
        let opponents = opponents.iter().map(|own| opposing(&own.kind, own.knobs.clone())).collect();
        Field { level, rules, opponents }
    }

    fn sheet<'a>(&self, game: &'a dyn GameEntry) -> &'a AgentSheet {
        game.agent(&self.candidate.kind).expect("the agent was looked up when the brief was checked")
    }

    /// What a candidate plays: one setting an opponent.
    pub(super) fn settings(&self, genome: &Genome, field: &Field, seed: u64, game: &dyn GameEntry) -> Vec<Setting> {
        let knobs = self.candidate.knobs(genome, self.sheet(game));
        let own = Casting { entrant: 0, kind: self.candidate.kind.clone(), knobs };
        let setting = |cast: Vec<Casting>, pairing: u64| Setting {
            rules: field.rules.clone(),
            level: field.level.clone(),
            cast,
            series: 1,
            study_seed: seed,
            pairing,
        };
        if field.opponents.is_empty() {
            return vec![setting(vec![own], 0)];
        }
        let each = field.opponents.iter().enumerate();
        each.map(|(place, other)| setting(vec![own.clone(), other.clone()], place as u64)).collect()
    }
}
