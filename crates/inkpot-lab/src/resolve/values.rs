//! The values that a knob is varied over.

use inkpot_core::{Knob, KnobRange, KnobValue};

use super::{Checker, knob_problem};
use crate::{Place, Problem, VaryRange};

/// Points of a sweep, and of a range, at most.
pub(crate) const MOST_POINTS: usize = 1000;

impl Checker<'_> {
    /// The values of a range, checked; numbers rise.
    pub(crate) fn values(&mut self, at: &Place, knob: &Knob, range: &VaryRange) -> Vec<KnobValue> {
        let (key, mut values) = match range {
            VaryRange::List(values) => ("values", values.clone()),
            VaryRange::Span { low, high, points } => ("points", self.span(at, knob, *low, *high, *points)),
        };
        if let Some(error) = values.iter().find_map(|value| knob.check(value).err()) {
            let key = if key == "values" { "values" } else { "from" };
            self.report(Problem { at: at.key(key), ..knob_problem(at, &error) });
        }
        values.sort_by(|a, b| match (a, b) {
            (KnobValue::Number(a), KnobValue::Number(b)) => a.total_cmp(b),
            _ => std::cmp::Ordering::Equal,
        });
        values.dedup();
        if values.len() == 1 && self.problems.is_empty() {
            self.problem(at.key(key), format!("`{}` is varied over one value", knob.name), "give two or more");
        }
        values
    }

    fn span(&mut self, at: &Place, knob: &Knob, low: f64, high: f64, points: u64) -> Vec<KnobValue> {
        if low.partial_cmp(&high) != Some(std::cmp::Ordering::Less) {
            self.problem(
                at.key("from"),
                format!("{low} to {high} is no range"),
                "the first end must be below the second",
            );
            return Vec::new();
        }
        if !(2..=MOST_POINTS as u64).contains(&points) {
            self.problem(
                at.key("points"),
                format!("points = {points} is out of range"),
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
}
