//! Aims: the subject of a search and its evaluation, for every method.

use inkpot_core::{AgentSheet, Casting, Chance, GameEntry, GameSheet, Knobs, Level, Seating, Setting};
use inkpot_learn::{Fitness, Genome};
use inkpot_stats::Interval;
use serde::{Deserialize, Serialize};

use super::method::MethodFamily;
use super::term::{Figures, fitness};
use super::{Candidate, Term};
use crate::figure::Figure;
use crate::figure_tally::interval_of;
use crate::{Entrant, Ground};

/// The aim of a search and its judgement.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Aim {
    /// The ground on which candidates play.
    pub ground: Ground,
    /// The candidate: the part of an agent that is searched for.
    pub candidate: Candidate,
    /// The terms of fitness.
    pub terms: Vec<Term>,
    /// Whether the terms are compared one after the other.
    pub in_turn: bool,
    /// Whom all candidates play; nobody in a game that is played alone, or where they learn against each other only.
    pub opponents: Vec<Entrant>,
    /// Independent repetitions of the search.
    pub seeds: u64,
    /// The yardstick, from which it never learns.
    pub yardstick: Yardstick,
    /// Matches of the proof, of each repetition's champion against each opponent of the yardstick.
    pub proof: u64,
    /// Root of the streams of chance from which repetitions draw; none in studies of earlier versions, in which
    /// repetition `r` of seed `s` was repetition 0 of seed `s + r`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) chance: Option<u64>,
}

/// The purpose of a stream of chance, part of its name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Purpose {
    /// Learning: the method, and the blocks of its matches.
    Learning = 1,
    /// Looks at the yardstick.
    Looks = 2,
}

/// Names the root of the streams of a search, beside the family of its methods.
const SEARCH: u64 = 0x5ea_2c4;

/// The yardstick of a search, from which it never learns.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Yardstick {
    /// The level, resolved.
    pub level: Level,
    /// Every rules knob.
    pub rules: Knobs,
    /// The opponents.
    pub opponents: Vec<Entrant>,
    /// Levels of additional looks, to test whether the learning transfers; resolved.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub held_back: Vec<Level>,
    /// The figure's name.
    pub figure: String,
    /// The value of it at which a repetition ends.
    pub target: Option<f64>,
    /// Generations from one look to the next.
    pub every: u64,
    /// Matches of a look against each opponent.
    pub matches: u64,
    pub(crate) of: Figure,
    /// Whether less of it is wanted, so that the target is reached from above.
    pub(crate) less: bool,
    /// Whether it is a share.
    pub(crate) is_share: bool,
}

impl Yardstick {
    /// Whether this value reaches the target.
    pub(crate) fn reached(&self, value: f64) -> bool {
        self.target.is_some_and(|target| if self.less { value <= target } else { value >= target })
    }
}

/// The setting of a candidate's matches: level, rules and opponents.
pub(crate) struct Field<'a> {
    level: &'a Level,
    rules: &'a Knobs,
    opponents: Vec<Casting>,
}

impl Field<'_> {
    /// Returns the number of pairings: one an opponent, or one alone.
    pub(crate) fn pairings(&self) -> usize {
        self.opponents.len().max(1)
    }

    /// Whether candidates play there alone.
    pub(crate) fn stands_alone(&self) -> bool {
        self.opponents.is_empty()
    }
}

/// The place where a champion's training figure was measured.
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
    Casting::new(1, kind, knobs)
}

impl Aim {
    /// Returns the fitness of these figures.
    pub(crate) fn fitness_of(&self, figures: &Figures) -> Fitness {
        fitness(&self.terms, &figures.terms, self.in_turn)
    }

    /// The root of the streams of a search with this seed: those of another seed, family or kind share no draw with it.
    pub(crate) fn root_of(seed: u64, family: MethodFamily) -> u64 {
        Chance::named(seed, &[SEARCH, family as u64]).bits()
    }

    /// The number of a repetition as people and files call it: 1 for the first.
    pub(crate) fn number_of(&self, repetition: usize) -> u64 {
        match self.chance {
            Some(_) => repetition as u64 + 1,
            None => self.ground.seed.wrapping_add(repetition as u64),
        }
    }

    /// The seed of the stream from which a repetition draws for a purpose.
    pub(crate) fn stream(&self, purpose: Purpose, repetition: usize) -> u64 {
        match (self.chance, purpose) {
            (Some(root), _) => Chance::named(root, &[purpose as u64, repetition as u64]).bits(),
            (None, Purpose::Learning) => self.ground.seed.wrapping_add(repetition as u64),
            (None, Purpose::Looks) => self.ground.seed,
        }
    }

    /// Returns the seating on the yardstick: a candidate alone, or against one other.
    pub(crate) fn yardstick_seating(&self) -> Seating {
        self.ground.seating(if self.yardstick.opponents.is_empty() { 1 } else { 2 })
    }

    /// Blocks of a look at the yardstick.
    pub(crate) fn yardstick_blocks(&self) -> u64 {
        self.yardstick.matches.div_ceil(self.yardstick_seating().matches_a_block() as u64)
    }

    /// Blocks of the proof of one champion against one opponent.
    pub(crate) fn proof_blocks(&self) -> u64 {
        self.proof.div_ceil(self.yardstick_seating().matches_a_block() as u64)
    }

    /// Returns the field of the looks.
    pub(crate) fn looking(&self) -> Field<'_> {
        Self::field(&self.yardstick.level, &self.yardstick.rules, &self.yardstick.opponents)
    }

    /// Builds the settings of a candidate on the yardstick, one an opponent, with the chance of its repetition's looks.
    pub(crate) fn settings_looking(&self, genome: &Genome, repetition: usize, game: &dyn GameEntry) -> Vec<Setting> {
        self.settings(genome, &self.looking(), self.stream(Purpose::Looks, repetition), game)
    }

    /// Returns a candidate's settings on the levels held back, one a level and opponent.
    pub(crate) fn settings_held_back(&self, genome: &Genome, repetition: usize, game: &dyn GameEntry) -> Vec<Setting> {
        let fields = self.yardstick.held_back.iter().map(|level| Field { level, ..self.looking() });
        fields.flat_map(|field| self.settings(genome, &field, self.stream(Purpose::Looks, repetition), game)).collect()
    }

    /// The interval of the yardstick's figure over blocks, each of as many matches as it has pairings and seats.
    pub(crate) fn interval(&self, blocks: &[f64], pairings: usize, sheet: &GameSheet) -> Option<Interval> {
        self.interval_at(blocks, pairings, sheet, self.ground.confidence)
    }

    /// The same at another confidence.
    pub(crate) fn interval_at(
        &self,
        blocks: &[f64],
        pairings: usize,
        sheet: &GameSheet,
        confidence: f64,
    ) -> Option<Interval> {
        let matches_a_block = self.yardstick_seating().matches_a_block() * pairings;
        interval_of(self.yardstick.of, sheet, blocks, matches_a_block, confidence)
    }

    fn sheet<'a>(&self, game: &'a dyn GameEntry) -> &'a AgentSheet {
        game.agent(&self.candidate.kind).expect("the agent was looked up when the brief was checked")
    }

    /// Every knob of the agent that a genome describes.
    pub(crate) fn knobs_of(&self, genome: &Genome, game: &dyn GameEntry) -> Knobs {
        self.candidate.knobs(genome, self.sheet(game))
    }

    /// Builds a field of this level, these rules and opponents.
    pub(crate) fn field<'a>(level: &'a Level, rules: &'a Knobs, opponents: &[Entrant]) -> Field<'a> {
        let opponents = opponents.iter().map(|opponent| opposing(&opponent.kind, opponent.knobs.clone())).collect();
        Field { level, rules, opponents }
    }

    /// Returns a candidate's settings, one an opponent.
    pub(crate) fn settings(&self, genome: &Genome, field: &Field, seed: u64, game: &dyn GameEntry) -> Vec<Setting> {
        let knobs = self.candidate.knobs(genome, self.sheet(game));
        let player = Casting::new(0, &self.candidate.kind, knobs);
        let setting = |cast: Vec<Casting>, pairing: u64| Setting {
            rules: field.rules.clone(),
            level: field.level.clone(),
            seating: Seating::rotated(cast.len()),
            cast,
            study_seed: seed,
            pairing,
        };
        if field.opponents.is_empty() {
            return vec![setting(vec![player], 0)];
        }
        let each = field.opponents.iter().enumerate();
        each.map(|(place, other)| setting(vec![player.clone(), other.clone()], place as u64)).collect()
    }

    /// Returns the training field: the opponents, and these rivals.
    pub(crate) fn training(&self, rivals: &[Genome], game: &dyn GameEntry) -> Field<'_> {
        let fixed = self.opponents.iter().map(|opponent| opposing(&opponent.kind, opponent.knobs.clone()));
        let sheet = self.sheet(game);
        let rivals = rivals.iter().map(|rival| opposing(&self.candidate.kind, self.candidate.knobs(rival, sheet)));
        Field { level: &self.ground.level, rules: &self.ground.rules, opponents: fixed.chain(rivals).collect() }
    }

    /// Returns the ground of a champion's training figure, unless it was measured against other candidates.
    pub(crate) fn learned_on(&self) -> LearnedOn {
        let yardstick = &self.yardstick;
        let same = (&self.ground.level, &self.ground.rules) == (&yardstick.level, &yardstick.rules);
        if same && self.opponents == yardstick.opponents { LearnedOn::Yardstick } else { LearnedOn::Elsewhere }
    }
}
