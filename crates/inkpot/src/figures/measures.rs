//! Measures of behaviour side by side.

use inkpot_core::Measure;
use inkpot_figures::{Measures, Panel, PanelMark, Words};
use inkpot_lab::Summary;
use inkpot_stats::{Interval, Mean};

use super::{Gallery, estimate};
use crate::show::entrants::ranked;
use crate::show::format::plain;
use crate::show::measures::is_shared;

/// Panels of the figure.
const PANELS: usize = 9;

impl Gallery<'_> {
    pub(super) fn measures(&self) -> Measures {
        let panels: Vec<Panel> = self.shown.iter().take(PANELS).map(|measure| self.panel(measure)).collect();
        let whose = match self.plan.vary() {
            [vary, ..] => format!("of {} over {}", self.summary.entrants[0].name, self.plan.vary_name(vary)),
            [] => "by entrant".to_string(),
        };
        Measures {
            words: Words {
                title: self.strongest(&panels),
                subtitle: format!(
                    "Means {whose}; {} a {}",
                    self.each(),
                    if self.plan.vary().is_empty() { "pairing" } else { "point" }
                ),
                caption: self.caption("Bars and bands:"),
            },
            panels,
        }
    }

    /// The measure in which the marks differ most for their intervals, with its ends.
    fn strongest(&self, panels: &[Panel]) -> String {
        let ends = |panel: &Panel| {
            let by_value = |a: &&PanelMark, b: &&PanelMark| a.estimate.value.total_cmp(&b.estimate.value);
            let low = panel.marks.iter().min_by(by_value)?.clone();
            Some((low, panel.marks.iter().max_by(by_value)?.clone()))
        };
        let contrast = |panel: &Panel| {
            ends(panel).map_or(0.0, |(low, high)| {
                let margins = low.estimate.high - low.estimate.low + high.estimate.high - high.estimate.low;
                (high.estimate.value - low.estimate.value) / margins.max(1e-12)
            })
        };
        let best = panels.iter().max_by(|a, b| contrast(a).total_cmp(&contrast(b)));
        match best.and_then(|panel| Some((panel, ends(panel)?))) {
            Some((panel, (low, high))) => {
                let of =
                    if self.plan.vary().is_empty() { String::new() } else { format!("{} ", self.plan.vary()[0].knob) };
                let mark = |mark: &PanelMark| {
                    format!("{} ({of}{})", plain((mark.estimate.value * 1e3).round() / 1e3), mark.name)
                };
                format!("{}: from {} to {}", panel.label, mark(&low), mark(&high))
            }
            None => "No measure has a mean yet".into(),
        }
    }

    fn panel(&self, measure: &Measure) -> Panel {
        let mark = |name: String, x: f64, mean: Option<&Mean>| {
            Some(PanelMark { name, x, estimate: estimate(&mean?.interval()?) })
        };
        match self.plan.vary() {
            [vary, ..] => {
                let numeric = vary.values.iter().all(|value| value.number().is_some());
                let marks =
                    self.summary.points().iter().zip(&vary.values).enumerate().filter_map(|(index, (point, value))| {
                        mark(
                            value.to_string(),
                            value.number().unwrap_or(index as f64),
                            point.measures.get(&measure.name),
                        )
                    });
                Panel {
                    label: measure.titled(),
                    knob: numeric.then(|| self.plan.vary_name(vary)),
                    marks: marks.collect(),
                }
            }
            [] if is_shared(measure, self.summary) => {
                let mean = self.summary.entrants.first().and_then(|entrant| entrant.measures.get(&measure.name));
                let marks = mark("every match".into(), 0.0, mean).into_iter().collect();
                Panel { label: measure.titled(), knob: None, marks }
            }
            [] => Panel {
                label: measure.titled(),
                knob: None,
                marks: ranked(self.summary)
                    .into_iter()
                    .filter_map(|entrant| mark(entrant.name.clone(), 0.0, entrant.measures.get(&measure.name)))
                    .collect(),
            },
        }
    }
}

/// The measures in which entrants or points differ most for their spread come first.
pub(super) fn varied<'a>(all: &'a [Measure], summary: &Summary) -> Vec<&'a Measure> {
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
    let mut kept: Vec<(usize, &Measure)> = all.iter().enumerate().collect();
    kept.sort_by(|a, b| contrast(b.1).total_cmp(&contrast(a.1)));
    kept.truncate(PANELS);
    kept.sort_by_key(|(index, _)| *index);
    kept.into_iter().map(|(_, measure)| measure).collect()
}
