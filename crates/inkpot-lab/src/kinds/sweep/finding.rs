//! The finding of a sweep: points, differences of neighbours, the curve, the value for the target.

use std::collections::BTreeMap;

use inkpot_core::KnobValue;
use inkpot_stats::{Difference, Interval, Mean, Model, Outcome, Solved, Turn};
use serde::{Deserialize, Serialize};

/// The finding of a sweep, beside the summary that all studies share.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct SweepFinding {
    /// The points.
    pub points: Vec<PointSummary>,
    /// Neighbouring points compared block by block; empty unless one knob was varied.
    pub differences: Vec<PointDifference>,
    /// The curve through the points of one numeric knob.
    pub curve: Option<CurveSummary>,
    /// The knob value that gives the target.
    pub solved: Option<SolvedSummary>,
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
    pub score: Option<Mean>,
    /// States advanced a decision; none where the agent does not search.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nodes: Option<Mean>,
    pub measures: BTreeMap<String, Mean>,
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

/// The curve through the points, and its shape.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct CurveSummary {
    /// The knob on the axis.
    pub knob: String,
    /// The model that describes it.
    pub model: Model,
    /// Parameters of the logistic curve, whether it describes the points or not.
    pub parameters: inkpot_stats::LapseLogistic,
    /// The fit of the curve.
    pub fit: CurveFit,
    /// The rises and falls that are clear, in order; none where no change is.
    pub turns: Vec<Turn>,
    /// The curve that presumes no shape with its band: knob value, rate, lower and upper end.
    pub band: Vec<[f64; 4]>,
}

/// The fit of the logistic curve, and whether there is anything to fit.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct CurveFit {
    /// P-value of misfit: small when the logistic curve does not describe the points.
    pub misfit_p: f64,
    /// P-value of no effect: large when the points differ no more than chance makes them.
    pub effect_p: f64,
}

/// The knob values that give the wanted rate. An end of an interval is none where it lies outside the values measured.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SolvedSummary {
    /// The knob.
    pub knob: String,
    /// The wanted rate.
    pub target: f64,
    /// The value that gives it, the lowest where several do; none unless one is found.
    pub value: Option<f64>,
    /// Lower end of its interval.
    pub low: Option<f64>,
    /// Upper end.
    pub high: Option<f64>,
    /// Whether some value gives it.
    pub outcome: Outcome,
    /// Every value at which the curve takes it, with its interval.
    pub solutions: Vec<Solved>,
    /// Stretches in which the band does not exclude it, though the curve does not take it there.
    pub possible: Vec<(Option<f64>, Option<f64>)>,
    /// Matches a point that would show whether some value gives it, were the curve where it is; none unless that is
    /// open.
    pub matches_needed: Option<u64>,
    /// The points between which nothing was played, where that makes the interval of the value as wide as it is: more
    /// points there tell more than more matches.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gap: Option<[f64; 2]>,
}
