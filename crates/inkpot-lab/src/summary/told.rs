//! What a summary holds.

use std::collections::BTreeMap;

use inkpot_core::{KnobValue, Knobs};
use inkpot_stats::{Difference, Interval, Model, PeopleSeen};
use serde::{Deserialize, Serialize};

use crate::{ComparisonSummary, RatingSummary, StudyKind, TournamentSummary, TuneSummary};

/// What a study came to. Holds nothing that differs from run to run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Summary {
    /// Name of the study.
    pub study: String,
    /// Its kind.
    pub kind: StudyKind,
    /// Its game.
    pub game: String,
    /// Its level.
    pub level: String,
    /// Seed of all its chance.
    pub seed: u64,
    /// Matches played.
    pub matches: u64,
    /// Blocks played.
    pub blocks: u64,
    /// Ticks or turns played.
    pub ticks: u64,
    /// Confidence of all intervals.
    pub confidence: f64,
    /// Every rules knob.
    pub rules: Knobs,
    /// The entrants over all they played.
    pub entrants: Vec<EntrantSummary>,
    /// Who met whom; empty in a sweep.
    pub pairings: Vec<PairingSummary>,
    /// Points share of the first seat.
    pub first_seat: Option<Interval>,
    /// Matches by why they ended.
    pub endings: BTreeMap<String, u64>,
    /// Matches in which the game fell.
    pub voids: u64,
    /// The points of a sweep; empty otherwise.
    pub points: Vec<PointSummary>,
    /// Neighbouring points compared block by block; empty unless one knob was varied.
    pub differences: Vec<PointDifference>,
    /// The curve through the points of one numeric knob.
    pub curve: Option<CurveSummary>,
    /// The knob value that gives the target.
    pub solved: Option<SolvedSummary>,
    /// The field of a tournament, best first; empty otherwise.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub ratings: Vec<RatingSummary>,
    /// What a tournament came to beside the ratings.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tournament: Option<TournamentSummary>,
    /// What a comparison came to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub comparison: Option<ComparisonSummary>,
    /// How differently people fare, where each plays a series; empty otherwise.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub people: Vec<PeopleSummary>,
    /// What a tuning came to, rung by rung.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tune: Option<TuneSummary>,
    /// What should be known before the figures are believed, in plain sentences.
    pub notes: Vec<String>,
}

/// An entrant over all it played.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "the fields are named after the figures they carry")]
pub struct EntrantSummary {
    pub name: String,
    pub agent: String,
    pub knobs: Knobs,
    pub matches: u64,
    pub wins: u64,
    pub draws: u64,
    pub losses: u64,
    pub win_rate: Option<Interval>,
    pub score: Option<Interval>,
    pub faults: u64,
    /// States advanced a decision; none where the agent does not search.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nodes: Option<Interval>,
    pub measures: BTreeMap<String, Interval>,
}

/// How differently people fare who play as an entrant: figures over series, each one person's.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct PeopleSummary {
    /// The entrant.
    pub name: String,
    /// Whom it met.
    pub against: String,
    /// The point of a sweep; empty otherwise.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub point: String,
    /// People.
    pub people: u64,
    /// Matches of each.
    pub matches: u64,
    /// How they fare.
    #[serde(flatten)]
    pub seen: PeopleSeen,
}

/// Two entrants against each other; figures of `a` against `b`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "the fields are named after the figures they carry")]
pub struct PairingSummary {
    pub a: String,
    pub b: String,
    pub matches: u64,
    pub wins: u64,
    pub draws: u64,
    pub losses: u64,
    pub win_rate: Option<Interval>,
    /// The share that the ratings of a tournament expect.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub expected: Option<f64>,
    /// Probability that `a` is the stronger, by all that both played in a tournament.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stronger: Option<f64>,
}

/// A point of a sweep; figures of the first entrant.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "the fields are named after the figures they carry")]
pub struct PointSummary {
    pub knobs: BTreeMap<String, KnobValue>,
    pub matches: u64,
    pub wins: u64,
    pub draws: u64,
    pub losses: u64,
    pub win_rate: Option<Interval>,
    pub score: Option<Interval>,
    /// States advanced a decision; none where the agent does not search.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nodes: Option<Interval>,
    pub measures: BTreeMap<String, Interval>,
}

/// Two neighbouring points compared on the blocks they share; the second minus the first.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "the two values of the knob, the comparison, and its p-value after Holm's correction")]
pub struct PointDifference {
    pub from: KnobValue,
    pub to: KnobValue,
    #[serde(flatten)]
    pub difference: Difference,
    pub p_adjusted: f64,
}

/// The curve through the points.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct CurveSummary {
    /// The knob on the axis.
    pub knob: String,
    /// Which curve.
    pub model: Model,
    /// Parameters of the logistic curve.
    pub parameters: inkpot_stats::LapseLogistic,
    /// How well it fits.
    pub fit: Fit,
    /// The curve with its band: knob value, rate, lower and upper end.
    pub band: Vec<[f64; 4]>,
}

/// How well the logistic curve fits, and whether there is anything to fit.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Fit {
    /// P-value of misfit: small when the logistic curve does not describe the points.
    pub misfit_p: f64,
    /// P-value of no effect: large when the points differ no more than chance makes them.
    pub effect_p: f64,
}

/// The knob value that gives the wanted rate; none where no measured value gives it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "an end of the interval is none where it lies outside the values measured")]
pub struct SolvedSummary {
    pub knob: String,
    pub target: f64,
    pub value: Option<f64>,
    pub low: Option<f64>,
    pub high: Option<f64>,
}
