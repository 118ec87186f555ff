//! Measures of behaviour side by side.

use inkpot_core::Measure;
use inkpot_figures::{Measures, Panel, PanelMark, Words};
use inkpot_stats::Mean;

use super::gallery::{Gallery, estimate};
use super::varied::PANELS;
use crate::show::entrants::ranked;
use crate::show::format::plain;
use crate::show::measures::is_shared;

impl Gallery<'_> {
    pub(super) fn measures(&self) -> Measures {
        let panels: Vec<Panel> = self.shown.iter().take(PANELS).map(|measure| self.panel(measure)).collect();
        let whose = match self.plan.vary() {
            [vary, ..] => format!("of {} over {}", self.summary.entrants[0].name, vary.name(&self.plan)),
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
                Panel { label: measure.titled(), knob: numeric.then(|| vary.name(&self.plan)), marks: marks.collect() }
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
