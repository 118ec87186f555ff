//! From the tallies of a sweep's cells to its finding.

use std::collections::BTreeMap;

use inkpot_core::{KnobValue, Measure};
use inkpot_stats::{holm, paired_difference};

use super::asked::Sweep;
use super::curve::{curve_summary, fit, solved_summary};
use super::finding::{PointDifference, PointSummary, SweepFinding};
use crate::Plan;
use crate::kind::Sums;
use crate::summing::measured::{SUSPENSE, measured, searched};
use crate::tally::CellTally;

/// Builds the finding of a sweep.
pub(super) fn finding(sweep: &Sweep, sums: &Sums) -> SweepFinding {
    let Sums { plan, cells, .. } = *sums;
    let each = plan.cells.iter().zip(cells).zip(sums.suspense);
    let mut found = SweepFinding {
        points: each
            .map(|((cell, tally), suspense)| {
                let mut point = point(sweep, plan, &cell.point, tally, &sums.game.sheet().measures);
                point.measures.extend(suspense.map(|mean| (SUSPENSE.to_string(), mean.into())));
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
    let knob = vary.name(plan);
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
        .map(|(vary, value)| (point_key(sweep, &vary.knob, &vary.name(plan)), value.clone()))
        .collect();
    PointSummary {
        knobs,
        matches: tally.matches,
        wins: first.wins,
        draws: first.draws,
        losses: first.losses,
        win_rate: first.rates.interval(plan.ground.confidence),
        score: first.score.estimate(plan.ground.confidence),
        nodes: searched(first.nodes.estimate(plan.ground.confidence)),
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
