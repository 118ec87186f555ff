//! Figures of an entrant in one cell, as intervals.

use std::collections::BTreeMap;

use inkpot_core::Measure;
use inkpot_stats::Mean;

use crate::tally::EntrantTally;

/// Name of the measure that is fitted on the study.
pub(crate) const SUSPENSE: &str = "suspense";

/// Means of measures by name.
pub(crate) fn measured(tally: &EntrantTally, measures: &[Measure], confidence: f64) -> BTreeMap<String, Mean> {
    let means = measures.iter().zip(&tally.measures);
    means.filter_map(|(measure, moments)| Some((measure.name.clone(), moments.estimate(confidence)?))).collect()
}

/// States advanced, of an agent that searches.
pub(crate) fn searched(nodes: Option<Mean>) -> Option<Mean> {
    nodes.filter(|nodes| nodes.value > 0.0)
}
