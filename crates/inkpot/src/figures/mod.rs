//! From stored studies to figures: which fit, and what they say.

mod cost;
mod spread;

use std::path::{Path, PathBuf};

use clap::ValueEnum;
use inkpot_core::{KnobValue, Measure, nearest};
use inkpot_figures::{
    Answer, Drawing, Estimate, Matrix, Measures, Panel, PanelMark, Rates, RatesRow, Response, ResponsePoint, Surface,
    Words,
};
use inkpot_lab::{EntrantSummary, Plan, StudyKind, Summary};
use inkpot_ledger::{Manifest, Study};
use inkpot_stats::Interval;

use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::{count, percent, plain};
use crate::show::summary::finding;
use crate::study;

/// Pixels a unit of a PNG: sharp on a screen of high density.
const PNG_SCALE: f32 = 2.0;
/// Panels of the figure of measures.
const PANELS: usize = 9;

/// The figures by name.
#[derive(ValueEnum, Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Name {
    /// Win rates with intervals, best first
    Rates,
    /// Who beats whom
    Matrix,
    /// Win rate over a knob, with curve and target
    Response,
    /// Win rate over two knobs
    Surface,
    /// How the scores are spread
    Scores,
    /// How the lengths of the matches are spread
    Lengths,
    /// Measures side by side
    Measures,
    /// Win rate against the time of a decision
    Cost,
}

impl Name {
    pub(crate) fn word(self) -> String {
        self.to_possible_value().map(|value| value.get_name().to_string()).unwrap_or_default()
    }

    /// Whether it is drawn from the rows rather than from the summary.
    fn is_spread(self) -> bool {
        matches!(self, Self::Scores | Self::Lengths)
    }
}

/// The figures of one study.
pub(crate) struct Gallery<'a> {
    study: &'a Study,
    manifest: Manifest,
    plan: Plan,
    summary: &'a Summary,
    measures: &'a [Measure],
    shown: Vec<&'a Measure>,
}

/// The bytes of a drawing in the format that the file's ending says.
pub(crate) fn bytes(drawing: &Drawing, path: &Path) -> Result<Vec<u8>, Failure> {
    match path.extension().and_then(|ending| ending.to_str()) {
        Some("svg") => Ok(drawing.svg().as_bytes().to_vec()),
        Some("png") => drawing.png(PNG_SCALE).map_err(|error| Failure::Failed(error.to_string())),
        _ => Err(Failure::wrong(
            format!("{} is neither SVG nor PNG", path.display()),
            "end the file's name in .svg or .png",
        )),
    }
}

/// Writes a drawing to a file in the format that its ending says.
pub(crate) fn save(drawing: &Drawing, path: &Path) -> Result<(), Failure> {
    std::fs::write(path, bytes(drawing, path)?).map_err(|error| Failure::file("write", path, &error))
}

impl<'a> Gallery<'a> {
    /// The gallery of a complete study; `measures` names those to show.
    pub(crate) fn new(
        study: &'a Study,
        summary: &'a Summary,
        measures: &[String],
        desk: &'a Desk,
    ) -> Result<Self, Failure> {
        let (manifest, plan) = study::open(study, desk)?;
        let all = &desk.game(&summary.game)?.sheet().measures;
        let find = |name: &String| {
            all.iter().find(|measure| measure.name == *name).ok_or_else(|| {
                let names: Vec<&str> = all.iter().map(|measure| measure.name.as_str()).collect();
                let near = nearest(name, names.iter().copied())
                    .map(|near| format!("did you mean `{near}`? "))
                    .unwrap_or_default();
                Failure::wrong(
                    format!("there is no measure `{name}`"),
                    format!("{near}There are: {}", names.join(", ")),
                )
            })
        };
        let asked = measures.iter().map(find).collect::<Result<Vec<_>, _>>()?;
        let shown = if asked.is_empty() { varied(all, summary) } else { asked };
        Ok(Self { study, manifest, plan, summary, measures: all, shown })
    }

    /// The figures that fit the study.
    fn fitting(&self) -> Vec<Name> {
        let mut fitting = match (self.summary.kind, self.plan.vary.len()) {
            (StudyKind::Batch, _) if self.summary.pairings.len() > 1 => {
                vec![Name::Rates, Name::Matrix, Name::Scores, Name::Lengths, Name::Measures]
            }
            (StudyKind::Batch, _) => vec![Name::Rates, Name::Scores, Name::Lengths, Name::Measures],
            (StudyKind::Sweep, 1) => vec![Name::Response, Name::Scores, Name::Lengths, Name::Measures],
            (StudyKind::Sweep, _) => vec![Name::Surface],
        };
        let thinks = self.summary.entrants.iter().any(|entrant| entrant.nodes.is_some());
        if thinks && self.plan.vary.len() < 2 && !self.manifest.decision_times.is_empty() {
            fitting.push(Name::Cost);
        }
        fitting
    }

    /// Draws all that fit into the study's folder, as SVG and PNG.
    pub(crate) fn draw_all(&self, study: &Study) -> Result<Vec<PathBuf>, Failure> {
        let mut files = Vec::new();
        // The rows are read once for all distributions.
        let fitting = self.fitting();
        let (spread, others): (Vec<Name>, Vec<Name>) = fitting.iter().partition(|name| name.is_spread());
        let mut drawings =
            others.into_iter().map(|name| Ok((name, self.draw(name)?))).collect::<Result<Vec<_>, Failure>>()?;
        for (name, distribution) in spread.iter().zip(spread::distributions(self, &spread)?) {
            drawings.push((*name, distribution.draw()));
        }
        drawings.sort_by_key(|(name, _)| fitting.iter().position(|other| other == name));
        for (name, drawing) in &drawings {
            for ending in ["svg", "png"] {
                let file = format!("figures/{}.{ending}", name.word());
                let path = study.folder().join(&file);
                study.write(&file, &bytes(drawing, &path)?)?;
                files.push(path);
            }
        }
        Ok(files)
    }

    /// Draws one figure.
    pub(crate) fn draw(&self, name: Name) -> Result<Drawing, Failure> {
        if !self.fitting().contains(&name) {
            let fitting: Vec<String> = self.fitting().into_iter().map(Name::word).collect();
            let study = &self.summary.study;
            return Err(Failure::wrong(
                format!("the figure `{}` does not fit the {} `{study}`", name.word(), self.summary.kind.name()),
                format!("these do: {}", fitting.join(", ")),
            ));
        }
        Ok(match name {
            Name::Rates => self.rates().draw(),
            Name::Matrix => self.matrix().draw(),
            Name::Response => self.response().draw(),
            Name::Surface => self.surface().draw(),
            Name::Scores | Name::Lengths => spread::distributions(self, &[name])?.remove(0).draw(),
            Name::Measures => self.measures().draw(),
            Name::Cost => cost::cost(self).draw(),
        })
    }

    fn caption(&self, method: &str) -> String {
        format!(
            "{method} {} intervals over {} blocks. {}, seed {}. Study {}.",
            percent(self.summary.confidence).replace(".0 %", "%"),
            count(self.summary.blocks),
            self.summary.game,
            self.summary.seed,
            self.summary.study
        )
    }

    fn each(&self) -> String {
        format!("{} matches", count(self.plan.blocks * self.plan.rotations()))
    }

    fn ranked(&self) -> Vec<&EntrantSummary> {
        let mut ranked: Vec<_> = self.summary.entrants.iter().collect();
        let value = |entrant: &EntrantSummary| entrant.win_rate.map_or(-1.0, |rate| rate.value);
        ranked.sort_by(|a, b| value(b).total_cmp(&value(a)));
        ranked
    }

    fn title(&self) -> String {
        finding(self.summary).trim_end_matches('.').replace(" %", "%").replace("  ", " ")
    }

    fn rates(&self) -> Rates {
        let rows = self.ranked().into_iter().filter_map(|entrant| {
            let record = [entrant.wins, entrant.draws, entrant.losses];
            Some(RatesRow { name: entrant.name.clone(), rate: estimate(&entrant.win_rate?), record })
        });
        Rates {
            words: Words {
                title: self.title(),
                subtitle: format!("Share of points (win 1, draw ½), {} a pairing, seats rotated", self.each()),
                caption: self.caption("Pale: not separable from 50%."),
            },
            rows: rows.collect(),
        }
    }

    fn matrix(&self) -> Matrix {
        let names: Vec<String> = self.ranked().into_iter().map(|entrant| entrant.name.clone()).collect();
        let met = |row: &str, column: &str| {
            self.summary.pairings.iter().find_map(|pairing| {
                let rate = pairing.win_rate?;
                if pairing.a == row && pairing.b == column {
                    Some(estimate(&rate))
                } else if pairing.b == row && pairing.a == column {
                    Some(estimate(&rate.complement()))
                } else {
                    None
                }
            })
        };
        let cells = names.iter().map(|row| names.iter().map(|column| met(row, column)).collect()).collect();
        Matrix {
            words: Words {
                title: self.title(),
                subtitle: format!("Win rate of the row against the column, {} a pair", self.each()),
                caption: self.caption("Sorted by mean win rate. Bold: the interval leaves out 50%."),
            },
            names,
            cells,
        }
    }

    fn response(&self) -> Response {
        let vary = &self.plan.vary[0];
        let numbers: Option<Vec<f64>> = vary.values.iter().map(KnobValue::number).collect();
        let points = self.summary.points.iter().enumerate().filter_map(|(index, point)| {
            let label = numbers.is_none().then(|| vary.values[index].to_string());
            let x = numbers.as_ref().map_or(index as f64, |numbers| numbers[index]);
            Some(ResponsePoint { x, label, rate: estimate(&point.win_rate?) })
        });
        let band =
            self.summary.curve.as_ref().map(|curve| {
                curve.band.iter().map(|&[x, value, low, high]| (x, Estimate { value, low, high })).collect()
            });
        let solved = self.summary.solved.as_ref();
        let first = &self.summary.entrants[0].name;
        let curve = if band.is_some() { " Shaded: band of the fitted curve." } else { "" };
        Response {
            words: Words {
                title: self.title(),
                subtitle: format!(
                    "Win rate of {first} over {}; {} points of {}",
                    self.plan.vary_name(vary),
                    self.summary.points.len(),
                    self.each()
                ),
                caption: self.caption(&format!("Points: share of points with interval.{curve}")),
            },
            knob: self.plan.vary_name(vary),
            points: points.collect(),
            band: band.unwrap_or_default(),
            target: solved.map(|solved| solved.target),
            answer: solved.and_then(|solved| {
                let end = |end: Option<f64>| end.map_or_else(|| "beyond".into(), |x| format!("{x:.3}"));
                Some(Answer {
                    value: solved.value?,
                    name: format!("{} {:.3}", vary.knob, solved.value?),
                    interval: format!("interval {} to {}", end(solved.low), end(solved.high)),
                })
            }),
        }
    }

    fn surface(&self) -> Surface {
        let (up, across) = (&self.plan.vary[0], &self.plan.vary[1]);
        let texts = |values: &[KnobValue]| values.iter().map(KnobValue::to_string).collect::<Vec<_>>();
        let rates: Vec<Option<Estimate>> =
            self.summary.points.iter().map(|point| point.win_rate.as_ref().map(estimate)).collect();
        let first = &self.summary.entrants[0].name;
        let framed = if self.plan.target.is_some() { " Framed: the interval holds the target." } else { "" };
        Surface {
            words: Words {
                title: self.title(),
                subtitle: format!(
                    "Win rate of {first} over {} and {}; {} points of {}",
                    self.plan.vary_name(up),
                    self.plan.vary_name(across),
                    rates.len(),
                    self.each()
                ),
                caption: self.caption(&format!("Bold: the interval leaves out 50%.{framed}")),
            },
            across: (self.plan.vary_name(across), texts(&across.values)),
            up: (self.plan.vary_name(up), texts(&up.values)),
            cells: rates.chunks(across.values.len()).map(<[_]>::to_vec).collect(),
            target: self.plan.target,
        }
    }

    fn measures(&self) -> Measures {
        let panels: Vec<Panel> = self.shown.iter().take(PANELS).map(|measure| self.panel(measure)).collect();
        let whose = match self.summary.kind {
            StudyKind::Batch => "by entrant".to_string(),
            StudyKind::Sweep => {
                format!("of {} over {}", self.summary.entrants[0].name, self.plan.vary_name(&self.plan.vary[0]))
            }
        };
        Measures {
            words: Words {
                title: self.strongest(&panels),
                subtitle: format!(
                    "Means {whose}; {} a {}",
                    self.each(),
                    if self.plan.vary.is_empty() { "pairing" } else { "point" }
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
                let of = if self.plan.vary.is_empty() { String::new() } else { format!("{} ", self.plan.vary[0].knob) };
                let mark = |mark: &PanelMark| {
                    format!("{} ({of}{})", plain((mark.estimate.value * 1e3).round() / 1e3), mark.name)
                };
                format!("{}: from {} to {}", panel.label, mark(&low), mark(&high))
            }
            None => "No measure has a mean yet".into(),
        }
    }

    fn panel(&self, measure: &Measure) -> Panel {
        let mark = |name: String, x: f64, interval: Option<&Interval>| {
            interval.map(|interval| PanelMark { name, x, estimate: estimate(interval) })
        };
        match self.summary.kind {
            StudyKind::Batch => Panel {
                label: measure.titled(),
                knob: None,
                marks: self
                    .ranked()
                    .into_iter()
                    .filter_map(|entrant| mark(entrant.name.clone(), 0.0, entrant.measures.get(&measure.name)))
                    .collect(),
            },
            StudyKind::Sweep => {
                let vary = &self.plan.vary[0];
                let numeric = vary.values.iter().all(|value| value.number().is_some());
                let marks =
                    self.summary.points.iter().zip(&vary.values).enumerate().filter_map(|(index, (point, value))| {
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
        }
    }
}

/// The measures in which entrants or points differ most for their spread come first.
fn varied<'a>(all: &'a [Measure], summary: &Summary) -> Vec<&'a Measure> {
    let contrast = |measure: &Measure| -> f64 {
        let of_entrants = summary.entrants.iter().filter_map(|entrant| entrant.measures.get(&measure.name));
        let of_points = summary.points.iter().filter_map(|point| point.measures.get(&measure.name));
        let intervals: Vec<&Interval> =
            if summary.points.is_empty() { of_entrants.collect() } else { of_points.collect() };
        let values = || intervals.iter().map(|interval| interval.value);
        let spread = values().fold(f64::NEG_INFINITY, f64::max) - values().fold(f64::INFINITY, f64::min);
        let error = intervals.iter().map(|interval| interval.half_width()).sum::<f64>() / intervals.len().max(1) as f64;
        if spread.is_finite() { spread / error.max(1e-12) } else { -1.0 }
    };
    let mut kept: Vec<(usize, &Measure)> = all.iter().enumerate().collect();
    kept.sort_by(|a, b| contrast(b.1).total_cmp(&contrast(a.1)));
    kept.truncate(PANELS);
    kept.sort_by_key(|(index, _)| *index);
    kept.into_iter().map(|(_, measure)| measure).collect()
}

fn estimate(interval: &Interval) -> Estimate {
    Estimate { value: interval.value, low: interval.low, high: interval.high }
}
