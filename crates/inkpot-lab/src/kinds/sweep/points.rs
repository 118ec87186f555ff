//! What a sweep came to: its points, how neighbours differ, the curve, the value that gives the target.

use std::collections::BTreeMap;

use inkpot_core::{KnobValue, Measure};
use inkpot_stats::{Difference, Interval, Mean, Model, Outcome, Solved, Turn, holm, paired_difference};
use serde::{Deserialize, Serialize};

use super::curve::{curve_summary, fit, solved_summary};
use super::{Sums, Sweep};
use crate::Plan;
use crate::summary::measured::{SUSPENSE, measured, searched};
use crate::tally::CellTally;

/// What a sweep found beside what every study does.
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

/// The curve through the points, and what is known of its shape.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct CurveSummary {
    /// The knob on the axis.
    pub knob: String,
    /// Which summary describes it.
    pub model: Model,
    /// Parameters of the logistic curve, whether it describes the points or not.
    pub parameters: inkpot_stats::LapseLogistic,
    /// How well it fits.
    pub fit: CurveFit,
    /// The rises and falls that are clear, in order; none where no change is.
    pub turns: Vec<Turn>,
    /// The curve that presumes no shape with its band: knob value, rate, lower and upper end.
    pub band: Vec<[f64; 4]>,
}

/// How well the logistic curve fits, and whether there is anything to fit.
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
}

/// What a sweep comes to.
pub(super) fn finding(sweep: &Sweep, sums: &Sums) -> SweepFinding {
    let Sums { plan, cells, .. } = *sums;
    let each = plan.cells.iter().zip(cells).zip(sums.suspense);
    let mut found = SweepFinding {
        points: each
            .map(|((cell, tally), suspense)| {
                let mut point = point(sweep, plan, &cell.point, tally, &sums.game.sheet().measures);
                point.measures.extend(suspense.map(|seen| (SUSPENSE.to_string(), seen.into())));
                point
            })
            .collect(),
        ..SweepFinding::default()
    };
    let [vary] = sweep.vary.as_slice() else { return found };
    found.differences = differences(plan, &vary.values, cells);
    let xs: Vec<f64> = vary.values.iter().filter_map(KnobValue::number).collect();
    if xs.len() < vary.values.len() {
        return found;
    }
    let response = fit(plan, &xs, cells);
    let knob = plan.vary_name(vary);
    if let Some(target) = sweep.target {
        let solved = solved_summary(knob.clone(), target, response.as_ref(), plan.matches_a_block());
        found.solved = Some(solved);
    }
    found.curve = response.map(|response| curve_summary(knob, &response, &xs));
    found
}

fn point(sweep: &Sweep, plan: &Plan, values: &[KnobValue], tally: &CellTally, measures: &[Measure]) -> PointSummary {
    let first = &tally.entrants[0];
    let knobs: BTreeMap<String, KnobValue> = sweep
        .vary
        .iter()
        .zip(values)
        .map(|(vary, value)| (point_key(sweep, &vary.knob, &plan.vary_name(vary)), value.clone()))
        .collect();
    PointSummary {
        knobs,
        matches: tally.matches,
        wins: first.wins,
        draws: first.draws,
        losses: first.losses,
        win_rate: first.rates.interval(plan.ground.confidence),
        score: first.score.seen(plan.ground.confidence),
        nodes: searched(first.nodes.seen(plan.ground.confidence)),
        measures: measured(first, measures, plan.ground.confidence),
    }
}

/// The bare knob's name where it is clear whose it is.
fn point_key(sweep: &Sweep, knob: &str, full: &str) -> String {
    let clear = sweep.vary.iter().filter(|vary| vary.knob == knob).count() == 1;
    if clear { knob.to_string() } else { full.to_string() }
}

fn differences(plan: &Plan, values: &[KnobValue], cells: &[CellTally]) -> Vec<PointDifference> {
    let neighbours: Vec<_> = cells
        .windows(2)
        .zip(values.windows(2))
        .filter_map(|(pair, values)| {
            let shares = pair[1].shares(0).zip(pair[0].shares(0));
            let both = shares.filter(|(after, before)| after.is_finite() && before.is_finite());
            Some((values, paired_difference(both, plan.ground.confidence)?))
        })
        .collect();
    let adjusted = holm(&neighbours.iter().map(|(_, difference)| difference.p).collect::<Vec<_>>());
    neighbours
        .into_iter()
        .zip(adjusted)
        .map(|((values, difference), p_adjusted)| PointDifference {
            from: values[0].clone(),
            to: values[1].clone(),
            difference,
            p_adjusted,
        })
        .collect()
}
