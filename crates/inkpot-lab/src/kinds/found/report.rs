//! The report of a search, repetition by repetition.

use inkpot_core::Knobs;
use inkpot_learn::Genome;
use inkpot_stats::{Interval, OverRepetitions};
use serde::{Deserialize, Serialize};

use super::aim::{Aim, LearnedOn};
use super::looks::Looks;
use super::method::MethodName;

/// The reason why a repetition ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum StoppedBy {
    /// The yardstick's target was reached.
    Target,
    /// Many generations without progress.
    Stagnation,
    /// All matches were played, or all steps made.
    Budget,
    /// A learned number became infinite or undefined.
    Diverged,
    /// All positions were looked through.
    Solved,
}

/// The file that the champion is handed over in.
const CHAMPION: &str = "champion.toml";

/// The result of a search.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(clippy::struct_excessive_bools, reason = "each is a key of the summary")]
pub struct SearchFound {
    /// The method.
    pub method: MethodName,
    /// The reason why the repetition of the champion ended.
    pub stopped_by: StoppedBy,
    /// The figure by which champions are proved.
    pub figure: String,
    /// Whether that is a share of matches.
    pub is_share: bool,
    /// Whether less of it is wanted, so that a target is met from above.
    #[serde(default)]
    pub less: bool,
    /// Its value at which repetitions end.
    pub target: Option<f64>,
    /// Whether terms are compared one after the other.
    pub in_turn: bool,
    /// Whether each generation played blocks of its own.
    pub fresh_blocks: bool,
    /// The place where a champion's training figure was measured.
    pub learned_on: LearnedOn,
    /// The repetitions.
    pub seeds: Vec<SeedFound>,
    /// Mean of the figure over the repetitions' champions on fresh blocks, with its interval over repetitions: the
    /// expectation for another repetition. None for one repetition.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub over_repetitions: Option<Interval>,
    /// The file of the champion: of the repetitions' champions that which did best in the search.
    pub champion: String,
    /// The seed of its repetition.
    pub champion_seed: u64,
    /// For an exact search, the positions at which the opponent's chances are estimated; with none of them the champion
    /// is a best response.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sampled: Option<u64>,
    /// Notes on the search.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub notes: Vec<String>,
}

/// The result of a repetition.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SeedFound {
    /// Its seed.
    pub seed: u64,
    /// Matches that it played, looks at the yardstick left out.
    pub matches: u64,
    /// Ticks or turns of those.
    pub steps: u64,
    /// Decisions that it learned from, where it was trained.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub decisions: Option<u64>,
    /// Its generations, or its looks where it was trained.
    pub generations: u64,
    /// The reason why it ended.
    pub stopped_by: StoppedBy,
    /// Matches until the look whose candidate reached the target, confirmed on fresh blocks; none where none did.
    pub first_success: Option<u64>,
    /// The generations, or looks of a training, in which it reached the target: after the first, which is 0 where there
    /// was no look before, and by the second.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reached: Option<[u64; 2]>,
    /// The figure of its champion where that learned; null where it has none.
    #[serde(rename = "seen", with = "crate::gaps::number")]
    pub training: f64,
    /// The same on fresh blocks, with its interval; none where there are too few blocks.
    pub proved: Option<Interval>,
    /// The same on the levels that are held back, if there are any.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub held_back: Option<Interval>,
    /// The legs of its course, in order; none where it has none.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub legs: Vec<LegFound>,
    /// The fitness of its champion in training, by its first number.
    #[serde(rename = "fitness_seen")]
    pub training_fitness: f64,
    /// The terms of its champion.
    pub terms: Vec<TermFound>,
    /// The free knobs of its champion.
    #[serde(default, skip_serializing_if = "Knobs::is_empty")]
    pub knobs: Knobs,
}

/// The result of a leg of a course.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct LegFound {
    /// The level.
    pub level: String,
    /// The value of the yardstick's figure from which on it is passed.
    pub pass: f64,
    /// Decisions after which it was passed; none where it was not.
    pub passed: Option<u64>,
    /// The figure at the last look at it, with its interval; none where it was never looked at.
    pub last: Option<Interval>,
}

/// The value of a term for a champion.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TermFound {
    /// The figure.
    pub figure: String,
    /// Its weight.
    pub weight: f64,
    /// Its value where the champion learned; null where it has none.
    #[serde(rename = "seen", with = "crate::gaps::number")]
    pub training: f64,
    /// The same on fresh blocks, with its interval; none where no match has it, or of too few blocks.
    pub proved: Option<Interval>,
}

impl SeedFound {
    /// The proved figure, or that of the training where there is none.
    pub(crate) fn value(&self) -> f64 {
        self.proved.map_or(self.training, |proof| proof.value)
    }

    /// Returns the distance between the training figure and the proof.
    pub(crate) fn excess(&self) -> f64 {
        self.proved.map_or(0.0, |proof| (self.training - proof.value).abs())
    }
}

/// The position of an interval relative to a target.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TargetVerdict {
    /// All of it is at the target or beyond.
    Met,
    /// All of it falls short.
    Missed,
    /// It lies on both sides.
    NotSeparable,
}

impl SearchFound {
    /// Whether a repetition's champion met the target on fresh blocks; none without a target or a proof.
    pub fn verdict(&self, repetition: &SeedFound) -> Option<TargetVerdict> {
        let (target, proved) = (self.target?, repetition.proved?);
        let there = |value: f64| if self.less { value <= target } else { value >= target };
        Some(match (there(proved.low), there(proved.high)) {
            (true, true) => TargetVerdict::Met,
            (false, false) => TargetVerdict::Missed,
            _ => TargetVerdict::NotSeparable,
        })
    }

    /// The figure over all repetitions whose champions were proved; none where none was.
    pub fn repetitions(&self, confidence: f64) -> Option<OverRepetitions> {
        let proved: Vec<Interval> = self.seeds.iter().filter_map(|repetition| repetition.proved).collect();
        OverRepetitions::of(&proved, confidence)
    }

    pub(crate) fn summed_up(&self, confidence: f64) -> Option<Interval> {
        let bounds = if self.is_share { [0.0, 1.0] } else { [f64::NEG_INFINITY, f64::INFINITY] };
        self.repetitions(confidence)?.interval(confidence, bounds)
    }

    /// The repetition whose champion is handed over.
    pub fn chosen(&self) -> &SeedFound {
        self.seeds.iter().find(|seed| seed.seed == self.champion_seed).unwrap_or(&self.seeds[0])
    }

    /// Builds the report of these repetitions, before any proof; none without repetitions.
    pub(crate) fn of(aim: &Aim, how: How, ended: &[Ended]) -> Option<Self> {
        let value = |repetition: &Ended| aim.fitness_of(&repetition.looks.champion_or_last().figures);
        let each = ended.iter().enumerate();
        let (number, best) = each.reduce(|best, next| if value(next.1) > value(best.1) { next } else { best })?;
        Some(Self {
            method: how.method,
            stopped_by: best.stopped.unwrap_or(StoppedBy::Budget),
            figure: aim.yardstick.figure.clone(),
            is_share: aim.yardstick.is_share,
            less: aim.yardstick.less,
            target: aim.yardstick.target,
            in_turn: aim.in_turn,
            fresh_blocks: how.fresh_blocks,
            learned_on: how.learned_on,
            seeds: ended
                .iter()
                .enumerate()
                .map(|(number, repetition)| SeedFound::of(aim, aim.number_of(number), repetition, how.learned_on))
                .collect(),
            over_repetitions: None,
            champion: CHAMPION.into(),
            champion_seed: aim.number_of(number),
            sampled: how.sampled,
            notes: how.notes,
        })
    }
}

/// The method of a search.
pub(crate) struct How {
    pub(crate) method: MethodName,
    pub(crate) fresh_blocks: bool,
    pub(crate) learned_on: LearnedOn,
    /// Positions at which the opponent's chances are known from draws only, of a search through all positions.
    pub(crate) sampled: Option<u64>,
    pub(crate) notes: Vec<String>,
}

/// A repetition that has ended.
pub(crate) struct Ended<'a> {
    pub(crate) looks: &'a Looks,
    pub(crate) matches: u64,
    pub(crate) steps: u64,
    pub(crate) decisions: Option<u64>,
    pub(crate) rounds: u64,
    pub(crate) stopped: Option<StoppedBy>,
    pub(crate) legs: Vec<LegFound>,
}

impl SeedFound {
    fn of(aim: &Aim, seed: u64, repetition: &Ended, learned_on: LearnedOn) -> Self {
        let look = repetition.looks.champion_or_last();
        let pick = &look.pick;
        // An agent that learns by reward explores in the matches that it learns from: its looks on the same ground say
        // what it could do there.
        let is_explored = repetition.decisions.is_some() && learned_on == LearnedOn::Yardstick;
        let figures = if is_explored { &look.figures } else { &pick.seen };
        let term = |(term, value): (&super::Term, &f64)| TermFound {
            figure: term.figure.clone(),
            weight: term.weight,
            training: *value,
            proved: None,
        };
        Self {
            seed,
            matches: repetition.matches,
            steps: repetition.steps,
            decisions: repetition.decisions,
            generations: repetition.rounds,
            stopped_by: repetition.stopped.unwrap_or(StoppedBy::Budget),
            first_success: repetition.looks.confirmed().map(|look| look.pick.matches),
            reached: repetition.looks.confirmed().map(|look| {
                let before = repetition.looks.before_confirmed().map_or(0, |before| before.pick.generation);
                [before, look.pick.generation]
            }),
            training: figures.outcome,
            proved: None,
            held_back: repetition.looks.held_back().and_then(|looked| looked.interval),
            legs: repetition.legs.clone(),
            training_fitness: aim.fitness_of(figures).first(),
            terms: aim.terms.iter().zip(&figures.terms).map(term).collect(),
            knobs: freed(aim, &pick.genome),
        }
    }
}

/// The free knobs of a genome by name.
fn freed(aim: &Aim, genome: &Genome) -> Knobs {
    match &aim.candidate.shape {
        super::Shape::Knobs { free, .. } => {
            let values = aim.candidate.values(genome);
            free.iter().map(|free| free.knob.clone()).zip(values).collect()
        }
        _ => Knobs::default(),
    }
}
