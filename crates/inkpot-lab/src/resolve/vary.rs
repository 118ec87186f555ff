//! The knobs that a sweep varies, their values, and its points.

use inkpot_core::{Knob, KnobRange, KnobValue};

use super::{Desk, find_agent, knob_problem, setting, unknown};
use crate::{Cell, Draft, Entrant, Plan, Problem, Subject, Vary, VaryRange};

const MOST_POINTS: usize = 1000;

impl Desk<'_> {
    pub(super) fn vary(&mut self, draft: &Draft, entrants: &[Entrant]) -> Vec<Vary> {
        let mut all: Vec<Vary> = Vec::new();
        for (index, asked) in draft.vary.iter().enumerate() {
            let at = format!("vary[{index}]");
            let subject = match asked.of.as_deref() {
                None => Subject::Entrant(0),
                Some("rules") => Subject::Rules,
                Some(name) => match entrants.iter().position(|entrant| entrant.name == name) {
                    Some(place) => Subject::Entrant(place),
                    None if entrants.len() < draft.entrants.len() => continue, // The entrant itself is at fault.
                    None => {
                        let mut known: Vec<String> = entrants.iter().map(|entrant| entrant.name.clone()).collect();
                        known.push("rules".into());
                        self.problems.push(unknown(&format!("{at}.of"), "entrant", name, &known));
                        continue;
                    }
                },
            };
            let sheets = match subject {
                Subject::Rules => self.game.sheet().rules.clone(),
                Subject::Entrant(place) => match entrants.get(place) {
                    Some(entrant) => {
                        find_agent(self.game, &entrant.kind).map(|(sheet, _)| sheet.knobs.clone()).unwrap_or_default()
                    }
                    None => continue,
                },
            };
            let Some(knob) = sheets.iter().find(|knob| knob.name == asked.knob) else {
                let known: Vec<String> = sheets.iter().map(|knob| knob.name.clone()).collect();
                self.problems.push(unknown(&format!("{at}.knob"), "knob", &asked.knob, &known));
                continue;
            };
            if all.iter().any(|other| other.subject == subject && other.knob == asked.knob) {
                self.problem(format!("{at}.knob"), format!("`{}` is varied twice", asked.knob), "vary each knob once");
            }
            let values = self.values(&at, knob, &asked.range);
            all.push(Vary { subject, knob: asked.knob.clone(), values });
        }
        all
    }

    pub(super) fn values(&mut self, at: &str, knob: &Knob, range: &VaryRange) -> Vec<KnobValue> {
        let (key, mut values) = match range {
            VaryRange::List(values) => ("values", values.clone()),
            VaryRange::Span { low, high, points } => ("points", self.span(at, knob, *low, *high, *points)),
        };
        if let Some(error) = values.iter().find_map(|value| knob.check(value).err()) {
            let key = if key == "values" { "values" } else { "from" };
            self.problems.push(Problem { at: format!("{at}.{key}"), ..knob_problem(at, &error) });
        }
        values.sort_by(|a, b| match (a, b) {
            (KnobValue::Number(a), KnobValue::Number(b)) => a.total_cmp(b),
            _ => std::cmp::Ordering::Equal,
        });
        values.dedup();
        if values.len() == 1 && self.problems.is_empty() {
            self.problem(
                format!("{at}.{key}"),
                format!("`{}` is varied over one value", knob.name),
                "give two or more",
            );
        }
        values
    }

    fn span(&mut self, at: &str, knob: &Knob, low: f64, high: f64, points: u64) -> Vec<KnobValue> {
        if low.partial_cmp(&high) != Some(std::cmp::Ordering::Less) {
            self.problem(
                format!("{at}.from"),
                format!("{low} to {high} is no range"),
                "the first end must be below the second",
            );
            return Vec::new();
        }
        if !(2..=MOST_POINTS as u64).contains(&points) {
            self.problem(
                format!("{at}.points"),
                format!("{points} points are asked for"),
                format!("from 2 to {MOST_POINTS}"),
            );
            return Vec::new();
        }
        let whole = matches!(knob.range, KnobRange::Whole { .. });
        let steps = (points - 1) as f64;
        (0..points)
            .map(|i| {
                // Rounded to twelve places, so that a tenth reads as 0.1.
                let x = ((low + (high - low) * i as f64 / steps) * 1e12).round() / 1e12;
                KnobValue::Number(if whole { x.round() } else { x })
            })
            .collect()
    }

    pub(super) fn points(&mut self, plan: &Plan) -> Vec<Cell> {
        let count: usize = plan.vary.iter().map(|vary| vary.values.len()).product();
        if count > MOST_POINTS {
            self.problem(
                "vary",
                format!("{count} points are too many"),
                format!("{MOST_POINTS} at most, over all varied knobs"),
            );
            return Vec::new();
        }
        let mut points: Vec<Vec<KnobValue>> = vec![Vec::new()];
        for vary in &plan.vary {
            let longer = |point: &Vec<KnobValue>| {
                let point = point.clone();
                vary.values
                    .iter()
                    .map(move |value| [point.as_slice(), std::slice::from_ref(value)].concat())
                    .collect::<Vec<_>>()
            };
            points = points.iter().flat_map(longer).collect();
        }
        points.into_iter().map(|point| self.point(plan, point)).collect()
    }

    fn point(&mut self, plan: &Plan, point: Vec<KnobValue>) -> Cell {
        let everyone: Vec<usize> = (0..plan.entrants.len()).collect();
        let mut setting = setting(plan, &everyone);
        for (vary, value) in plan.vary.iter().zip(&point) {
            match vary.subject {
                Subject::Rules => setting.rules.set(&vary.knob, value.clone()),
                Subject::Entrant(place) => {
                    let entrant = &plan.entrants[place];
                    let mut given = entrant.given.clone();
                    // The other varied knobs of this entrant are set too: all values of the point count as given.
                    for (other, value) in
                        plan.vary.iter().zip(&point).filter(|(other, _)| other.subject == vary.subject)
                    {
                        given.set(&other.knob, value.clone());
                    }
                    let sheet =
                        find_agent(self.game, &entrant.kind).map(|(sheet, _)| sheet.knobs.clone()).unwrap_or_default();
                    setting.cast[place].knobs = self.knobs(&format!("entrant[{place}].knobs"), &given, &sheet);
                }
            }
        }
        Cell { entrants: everyone, point, first_block: 0, setting }
    }
}
