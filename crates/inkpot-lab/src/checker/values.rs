//! The values that a knob is varied over.

use inkpot_core::{Knob, KnobRange, KnobValue};

use super::{Checker, MOST_POINTS, knob_problem};
use crate::{Place, Problem, VaryRange};

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
                format!("{low} to {high} is not a range"),
                "the first end must be below the second",
            );
            return Vec::new();
        }
        if !(2..=MOST_POINTS as u64).contains(&points) {
            self.problem(
                at.key("points"),
                format!("`points` cannot be {points}"),
                format!("it must be a whole number from 2 to {MOST_POINTS}"),
            );
            return Vec::new();
        }
        let steps = (points - 1) as f64;
        // Rounded to twelve places, so that a tenth reads as 0.1.
        let spread = (0..points).map(|i| ((low + (high - low) * i as f64 / steps) * 1e12).round() / 1e12);
        let values: Vec<f64> = spread.collect();
        let whole = matches!(knob.range, KnobRange::Whole { .. });
        if let Some(between) = values.iter().find(|x| whole && x.fract() != 0.0) {
            let most = (high - low).abs() as u64;
            let fits = (2..=most + 1).filter(|fits| most.is_multiple_of(fits - 1));
            let fits = fits.min_by_key(|fits| (fits.abs_diff(points), std::cmp::Reverse(*fits)));
            self.problem(
                at.key("points"),
                format!(
                    "{points} points from {low} to {high} include {between}, and `{}` takes whole numbers",
                    knob.name
                ),
                format!("ask for {} points, or list the values", fits.unwrap_or(2)),
            );
            return Vec::new();
        }
        values.into_iter().map(KnobValue::Number).collect()
    }
}
