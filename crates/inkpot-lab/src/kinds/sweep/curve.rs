//! The response curve of a sweep over one numeric knob.

use inkpot_core::Streams;
use inkpot_stats::{BlockTable, Outcome, Response};

use super::finding::{CurveFit, CurveSummary, SolvedSummary};
use crate::Plan;
use crate::chance::BootstrapDraws;
use crate::tally::CellTally;

/// Points at which curve and band are written down.
const BAND_POINTS: usize = 101;

/// Fits the curve; none with fewer than four points or five blocks.
pub(super) fn fit(plan: &Plan, xs: &[f64], cells: &[CellTally]) -> Option<Response> {
    if cells.iter().all(CellTally::is_decided) {
        return None;
    }
    let mut table = BlockTable::new(cells.len(), plan.blocks as usize);
    for (column, cell) in cells.iter().enumerate() {
        for (block, share) in cell.shares(0).enumerate() {
            table.add(column, block, share);
        }
    }
    // A block number that no study reaches: the bootstrap shares no draws with the matches.
    let mut draws = BootstrapDraws(Streams::of_study(plan.ground.seed).order(u64::MAX));
    Response::fit(xs, &table, plan.matches_a_block() as usize, plan.ground.confidence, &mut draws).ok()
}

/// Solves the curve for a rate; nothing is determined without a curve.
pub(super) fn solved_summary(
    knob: String,
    target: f64,
    response: Option<&Response>,
    matches_a_block: u64,
) -> SolvedSummary {
    let solution = response.map(|response| response.solve(target));
    let outcome = solution.as_ref().map_or(Outcome::Open, |found| found.outcome);
    let first =
        solution.as_ref().and_then(|solution| solution.solved.first()).filter(|_| outcome == Outcome::Found).copied();
    SolvedSummary {
        knob,
        target,
        value: first.map(|point| point.value),
        low: first.and_then(|point| point.low),
        high: first.and_then(|point| point.high),
        outcome,
        matches_needed: solution.as_ref().and_then(|found| Some(found.blocks_needed? * matches_a_block)),
        gap: solution.as_ref().filter(|_| outcome == Outcome::Found).and_then(|found| found.gap),
        possible: solution.as_ref().map(|found| found.possible.clone()).unwrap_or_default(),
        solutions: solution.map(|found| found.solved).unwrap_or_default(),
    }
}

/// The curve with its band at evenly spaced knob values.
pub(super) fn curve_summary(knob: String, response: &Response, xs: &[f64]) -> CurveSummary {
    let (first, last) = (xs[0], xs[xs.len() - 1]);
    let band = (0..BAND_POINTS)
        .map(|i| {
            let x = first + (last - first) * i as f64 / (BAND_POINTS - 1) as f64;
            let at = response.at(x);
            [x, at.value, at.low, at.high]
        })
        .collect();
    CurveSummary {
        knob,
        model: response.model,
        parameters: response.logistic,
        fit: CurveFit { misfit_p: response.fit_p, effect_p: response.effect_p },
        turns: response.turns.clone(),
        band,
    }
}
