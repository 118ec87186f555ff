//! What a sweep came to: its points, how neighbours differ, the curve, the value that gives the target.

use std::collections::BTreeMap;

use inkpot_core::{KnobValue, Measure};
use inkpot_stats::{holm, paired_difference};

use crate::curve::{curve_summary, fit};
use crate::summary::{measured, searched};
use crate::tally::CellTally;
use crate::{Plan, PointDifference, PointSummary, SolvedSummary, Summary};

/// Adds the results of a sweep to its summary.
pub(crate) fn point_results(summary: &mut Summary, plan: &Plan, cells: &[CellTally], measures: &[Measure]) {
    summary.points =
        plan.cells.iter().zip(cells).map(|(cell, tally)| point(plan, &cell.point, tally, measures)).collect();
    let [vary] = plan.vary.as_slice() else { return };
    summary.differences = differences(plan, &vary.values, cells);
    let xs: Vec<f64> = vary.values.iter().filter_map(KnobValue::number).collect();
    if xs.len() < vary.values.len() {
        return;
    }
    let response = fit(plan, &xs, cells);
    let knob = plan.vary_name(vary);
    if let Some(target) = plan.target {
        let solved = response.as_ref().and_then(|response| response.solve(target));
        summary.solved = Some(SolvedSummary {
            knob: knob.clone(),
            target,
            value: solved.map(|solved| solved.value),
            low: solved.and_then(|solved| solved.low),
            high: solved.and_then(|solved| solved.high),
        });
    }
    summary.curve = response.map(|response| curve_summary(knob, &response, &xs));
}

fn point(plan: &Plan, values: &[KnobValue], tally: &CellTally, measures: &[Measure]) -> PointSummary {
    let first = &tally.entrants[0];
    let knobs: BTreeMap<String, KnobValue> = plan
        .vary
        .iter()
        .zip(values)
        .map(|(vary, value)| (point_key(plan, &vary.knob, &plan.vary_name(vary)), value.clone()))
        .collect();
    PointSummary {
        knobs,
        matches: tally.matches,
        wins: first.wins,
        draws: first.draws,
        losses: first.losses,
        win_rate: first.rates.interval(plan.confidence),
        score: first.score.interval(plan.confidence),
        nodes: searched(first.nodes.interval(plan.confidence)),
        measures: measured(first, measures, plan.confidence),
    }
}

/// The bare knob's name where it is clear whose it is.
fn point_key(plan: &Plan, knob: &str, full: &str) -> String {
    let clear = plan.vary.iter().filter(|vary| vary.knob == knob).count() == 1;
    if clear { knob.to_string() } else { full.to_string() }
}

fn differences(plan: &Plan, values: &[KnobValue], cells: &[CellTally]) -> Vec<PointDifference> {
    let neighbours: Vec<_> = cells
        .windows(2)
        .zip(values.windows(2))
        .filter_map(|(pair, values)| {
            let shares = pair[1].shares(0).zip(pair[0].shares(0));
            let both = shares.filter(|(after, before)| after.is_finite() && before.is_finite());
            Some((values, paired_difference(both, plan.confidence)?))
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
