//! Figures of an entrant in one cell, as intervals.

use std::collections::BTreeMap;

use inkpot_core::Measure;
use inkpot_stats::Interval;

use crate::tally::EntrantTally;

/// Name of the measure that is fitted on the study.
pub(crate) const SUSPENSE: &str = "suspense";

/// Measure intervals by name.
pub(crate) fn measured(tally: &EntrantTally, measures: &[Measure], confidence: f64) -> BTreeMap<String, Interval> {
    let intervals = measures.iter().zip(&tally.measures);
    intervals.filter_map(|(measure, moments)| Some((measure.name.clone(), moments.interval(confidence)?))).collect()
}

/// States advanced, of an agent that searches.
pub(crate) fn searched(nodes: Option<Interval>) -> Option<Interval> {
    nodes.filter(|nodes| nodes.value > 0.0)
}
