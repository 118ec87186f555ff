//! Looks up and checks the free knobs.

use inkpot_core::{Knob, KnobRange, KnobValue};

use super::{TuneChecker, sheet_knobs};
use crate::checker::unknown;
use crate::kinds::tune::asked::own_bounds;
use crate::kinds::tune::{Free, FreeDraft, FreeRange, Rung, Side};
use crate::{Entrant, Place, Problem};

impl TuneChecker<'_> {
    pub(super) fn free(&mut self, rungs: &[Rung], opponent: Option<&Entrant>) -> Vec<Free> {
        let mut all: Vec<Free> = Vec::new();
        for (place, asked) in self.draft.free.iter().enumerate() {
            let at = Place::item("free", place);
            let found = self.free_knob(&at, asked, rungs, opponent);
            if let Some(free) = found {
                if all.iter().any(|other| other.of == free.of && other.knob == free.knob) {
                    let what = format!("`{}` is free twice", free.name());
                    self.problem(&at, what, "leave one of the two out");
                }
                all.push(free);
            }
        }
        all
    }

    fn free_knob(&mut self, at: &Place, free: &FreeDraft, rungs: &[Rung], opponent: Option<&Entrant>) -> Option<Free> {
        let side = match free.of.as_deref() {
            None => Side::Opponent,
            Some(name) => {
                if let Some(side) = Side::ALL.into_iter().find(|side| side.name() == name) {
                    side
                } else {
                    let help = "it must be opponent, player or rules";
                    self.problem(at.key("of"), format!("`of` cannot be `{name}`"), help);
                    return None;
                }
            }
        };
        let knobs = match side {
            Side::Rules => self.game.sheet().rules.clone(),
            Side::Opponent => sheet_knobs(self.game, &opponent?.kind),
            Side::Player => {
                let mut kinds: Vec<&str> =
                    rungs.iter().flat_map(|rung| &rung.players).map(|player| player.entrant.kind.as_str()).collect();
                kinds.dedup();
                if kinds.len() > 1 {
                    let what = "players of several kinds have no knobs in common";
                    self.problem(at, what, "turn a knob of the opponent or the rules");
                    return None;
                }
                sheet_knobs(self.game, kinds.first()?)
            }
        };
        let Some(knob) = knobs.iter().find(|knob| knob.name == free.knob) else {
            let known: Vec<String> = knobs.iter().map(|knob| knob.name.clone()).collect();
            self.problems.push(unknown(&at.key("knob"), "knob", &free.knob, &known));
            return None;
        };
        for rung in rungs.iter().filter(|rung| rung.modifiers.of(side).iter().any(|(name, _)| *name == free.knob)) {
            self.problem(
                at.key("knob"),
                format!("`{}` is free, but rung `{}` sets it", free.knob, rung.name),
                "leave one of the two out",
            );
        }
        let range = free_range(&mut self.problems, at, free, knob)?;
        Some(Free {
            of: side,
            knob: free.knob.clone(),
            range,
            across: free.across.unwrap_or_default(),
            step: free.step,
        })
    }
}

/// Returns the range of a free knob, and reports its problems.
pub(crate) fn free_range(problems: &mut Vec<Problem>, at: &Place, free: &FreeDraft, knob: &Knob) -> Option<FreeRange> {
    if let KnobRange::Choice { of, .. } = &knob.range {
        let words = if free.choices.is_empty() { of.clone() } else { free.choices.clone() };
        if free.low.is_some() || free.high.is_some() || free.step.is_some() || words.len() < 2 {
            let help = format!("give two or more `choices` of: {}", of.join(", "));
            problems.push(Problem::new(at, format!("`{}` is a choice", knob.name), help));
            return None;
        }
        for word in &words {
            if let Err(error) = knob.check(&KnobValue::Word(word.clone())) {
                problems.push(Problem::new(
                    at.key("choices"),
                    error.to_string(),
                    format!("it must be {}", knob.allowed()),
                ));
            }
        }
        return Some(FreeRange::Words(words));
    }
    let ends = [free.low, free.high].into_iter().flatten();
    let outside = ends.filter(|x| knob.check(&KnobValue::Number(*x)).is_err()).collect::<Vec<_>>();
    for x in outside {
        let what = format!("`{}` cannot be {x}", knob.name);
        problems.push(Problem::new(at, what, format!("it must be {}", knob.allowed())));
    }
    let (low, high) = own_bounds(knob, free.low, free.high)?;
    if low >= high || !free.choices.is_empty() {
        let what = match (free.low, free.high) {
            (Some(low), Some(high)) if low >= high => {
                format!("the range of `{}` cannot go from {low} to {high}", knob.name)
            }
            _ => format!("the range of `{}` is not given", knob.name),
        };
        problems.push(Problem::new(at, what, "give `from` and `to`, the first below the second"));
        return None;
    }
    if free.step.is_some_and(|step| step <= 0.0) {
        problems.push(Problem::new(at.key("step"), "`step` must be a number above 0", "as in step = 0.2"));
    }
    Some(FreeRange::Number { low, high, whole: matches!(knob.range, KnobRange::Whole { .. }) })
}
