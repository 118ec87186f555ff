//! Figures of a knob's effect: curve and surface.

use inkpot_core::KnobValue;
use inkpot_figures::{Answer, Estimate, MatrixOf, Response, ResponsePoint, Surface, Words};
use inkpot_lab::SolvedSummary;
use inkpot_stats::{Outcome, Solved};

use crate::figures::{Gallery, estimate};
use crate::show::format::solution;

impl Gallery<'_> {
    pub(super) fn response(&self) -> Response {
        let vary = &self.plan.vary()[0];
        let numbers: Option<Vec<f64>> = vary.values.iter().map(KnobValue::number).collect();
        let points = self.summary.points().iter().enumerate().filter_map(|(index, point)| {
            let label = numbers.is_none().then(|| vary.values[index].to_string());
            let x = numbers.as_ref().map_or(index as f64, |numbers| numbers[index]);
            Some(ResponsePoint { x, label, rate: estimate(&point.win_rate?) })
        });
        let band = self
            .summary
            .curve()
            .map(|curve| curve.band.iter().map(|&[x, value, low, high]| (x, Estimate { value, low, high })).collect());
        let solved = self.summary.solved();
        let first = &self.summary.entrants[0].name;
        let curve = if band.is_some() { " Line and shade: the curve and its band." } else { "" };
        Response {
            words: Words {
                title: self.title(),
                subtitle: format!(
                    "Win rate of {first} over {}; {} points of {}",
                    vary.name(&self.plan),
                    self.summary.points().len(),
                    self.each()
                ),
                caption: self.caption(&format!("Points: share of points with interval.{curve}")),
            },
            knob: vary.name(&self.plan),
            points: points.collect(),
            band: band.unwrap_or_default(),
            target: solved.map(|solved| solved.target),
            answers: solved.map(|solved| answers(solved, &vary.knob)).unwrap_or_default(),
        }
    }

    pub(super) fn surface(&self) -> Surface {
        let (up, across) = (&self.plan.vary()[0], &self.plan.vary()[1]);
        let texts = |values: &[KnobValue]| values.iter().map(KnobValue::to_string).collect::<Vec<_>>();
        let rates: Vec<Option<Estimate>> =
            self.summary.points().iter().map(|point| point.win_rate.as_ref().map(estimate)).collect();
        let first = &self.summary.entrants[0].name;
        let framed = if self.plan.target().is_some() { " Framed: the interval holds the target." } else { "" };
        Surface {
            of: MatrixOf::Rates,
            words: Words {
                title: self.title(),
                subtitle: format!(
                    "Win rate of {first} over {} and {}; {} points of {}",
                    up.name(&self.plan),
                    across.name(&self.plan),
                    rates.len(),
                    self.each()
                ),
                caption: self.caption(&format!("Bold: the interval leaves out 50 %.{framed}")),
            },
            across: (across.name(&self.plan), texts(&across.values)),
            up: (up.name(&self.plan), texts(&up.values)),
            cells: rates.chunks(across.values.len()).map(<[_]>::to_vec).collect(),
            target: self.plan.target(),
        }
    }
}

/// The values that give the target, where any is found.
fn answers(solved: &SolvedSummary, knob: &str) -> Vec<Answer> {
    let found = solved.solutions.iter().filter(|_| solved.outcome == Outcome::Found);
    let answer = |solved: &Solved| {
        let (value, ends) = solution(solved);
        let interval = format!("interval {}", ends.replace(" what was measured", ""));
        Answer { value: solved.value, name: format!("{knob} {value}"), interval }
    };
    found.map(answer).collect()
}
