//! Looks up and checks the targets.

use inkpot_core::nearest;

use super::TuneChecker;
use crate::Place;
use crate::figure::Figure;
use crate::kinds::tune::asked::as_written;
use crate::kinds::tune::{Side, Target, TargetDraft};

impl TuneChecker<'_> {
    pub(super) fn target(&mut self, at: &Place, asked: &TargetDraft) -> Option<Target> {
        let sheet = self.game.sheet();
        let side = match asked.side.as_deref() {
            None | Some("player") => Side::Player,
            Some("opponent") => Side::Opponent,
            Some(other) => {
                self.problem(at.key("side"), format!("`side` cannot be `{other}`"), "it must be player or opponent");
                return None;
            }
        };
        let figure = match Figure::find(&asked.figure, side, sheet) {
            Ok(figure) => figure,
            Err(known) => {
                let near = nearest(&asked.figure, known.iter().map(String::as_str));
                let near = near.map(|near| format!("did you mean `{near}`? ")).unwrap_or_default();
                let what = format!("there is no figure `{}`", asked.figure);
                self.problem(at.key("figure"), what, format!("{near}Available: {}", known.join(", ")));
                return None;
            }
        };
        if asked.side.is_some() && !figure.has_sides(sheet) {
            let what = format!("`{}` is one figure of the match", asked.figure);
            self.problem(at.key("side"), what, "leave `side` out; a win rate is the player's");
            return None;
        }
        let weight = asked.weight.unwrap_or(1.0);
        if !(weight > 0.0 && weight.is_finite()) {
            self.problem(
                at.key("weight"),
                format!("the `weight` of a target cannot be {weight}"),
                "it must be a number above 0",
            );
        }
        let (from, to) = match (asked.value, asked.within, asked.low, asked.high) {
            (Some(value), Some(within), None, None) if within > 0.0 => {
                (Some(as_written(value - within)), Some(as_written(value + within)))
            }
            (None, None, Some(low), Some(high)) if low < high => (asked.low, asked.high),
            (None, None, Some(_), None) | (None, None, None, Some(_)) => (asked.low, asked.high),
            _ => {
                let help = "give `value` and a positive `within`, or `from`, `to` or both, the first below the second";
                self.problem(at, format!("the target for `{}` is not complete", asked.figure), help);
                return None;
            }
        };
        let (figure, hard) = (asked.figure.clone(), !asked.soft);
        let (value, value_within) = (asked.value, asked.value.and(asked.within));
        let target = Target { figure, side, from, to, value, value_within, weight, hard, measured: None };
        let outside = target.value.is_some_and(|value| !(0.0..=1.0).contains(&value));
        if target.is_rate() && (target.low() >= 1.0 || target.high() <= 0.0 || outside) {
            let what = format!("a rate lies between 0 and 1, and the target for `{}` does not", asked.figure);
            self.problem(at, what, "write 70 % as 0.7");
            return None;
        }
        if let Some(within) = asked.within.filter(|within| target.is_rate() && *within >= 0.5) {
            let what = format!("within {within} of a rate lies every rate");
            self.problem(
                at.key("within"),
                what,
                format!("it must be below 0.5; write {within} % as {}", within / 100.0),
            );
            return None;
        }
        Some(target)
    }
}
