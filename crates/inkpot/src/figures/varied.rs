//! Choice of the measures worth drawing.

use inkpot_core::Measure;
use inkpot_lab::StudySummary;
use inkpot_stats::{Interval, Mean};

/// Measures that are drawn, at most.
pub(super) const PANELS: usize = 9;

/// The measures in which entrants or points differ most for their spread come first.
pub(super) fn varied<'a>(all: &'a [Measure], summary: &StudySummary) -> Vec<&'a Measure> {
    let contrast = |measure: &Measure| -> f64 {
        let of_entrants = summary.entrants.iter().filter_map(|entrant| entrant.measures.get(&measure.name));
        let of_points = summary.points().iter().filter_map(|point| point.measures.get(&measure.name));
        let means: Vec<&Mean> = if summary.points().is_empty() { of_entrants.collect() } else { of_points.collect() };
        let intervals: Vec<Interval> = means.into_iter().filter_map(Mean::interval).collect();
        let values = || intervals.iter().map(|interval| interval.value);
        let spread = values().fold(f64::NEG_INFINITY, f64::max) - values().fold(f64::INFINITY, f64::min);
        let error = intervals.iter().map(Interval::half_width).sum::<f64>() / intervals.len().max(1) as f64;
        if spread.is_finite() { spread / error.max(1e-12) } else { -1.0 }
    };
    let mut columns: Vec<(usize, &Measure)> = all.iter().enumerate().collect();
    columns.sort_by(|a, b| contrast(b.1).total_cmp(&contrast(a.1)));
    columns.truncate(PANELS);
    columns.sort_by_key(|(index, _)| *index);
    columns.into_iter().map(|(_, measure)| measure).collect()
}
