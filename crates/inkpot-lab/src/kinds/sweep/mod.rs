//! A sweep: one pairing at every value of one or two knobs.

mod curve;
mod notes;
mod points;
mod vary;

use inkpot_core::{GameEntry, KnobValue};
use serde::{Deserialize, Serialize};

pub use self::points::{CurveFit, CurveSummary, PointDifference, PointSummary, SolvedSummary, SweepFinding};

use super::{Finding, Kind, Reading, Sums};
use crate::resolve::Checker;
use crate::{Draft, Entrant, Plan, Summary, VaryRange};

/// What a sweep asks for.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct SweepDraft {
    /// Knobs to vary.
    pub vary: Vec<VaryDraft>,
    /// Wanted win rate of the first entrant.
    pub target: Option<f64>,
}

/// A knob to vary.
#[derive(Clone, Debug, PartialEq)]
pub struct VaryDraft {
    /// Whose knob: an entrant's label, `rules` or `level`; the first entrant's if not given.
    pub of: Option<String>,
    /// The knob; `level` of nobody varies the level itself.
    pub knob: String,
    /// Its values.
    pub range: VaryRange,
}

/// One pairing at every value of one or two knobs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Sweep {
    /// The knobs that are varied.
    pub vary: Vec<Vary>,
    /// Wanted win rate of the first entrant.
    pub target: Option<f64>,
}

/// A knob that is varied, with its values.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Vary {
    /// Whose knob.
    pub subject: Subject,
    /// The knob.
    pub knob: String,
    /// Its values; numbers rise.
    pub values: Vec<KnobValue>,
}

/// Whose knob is varied.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Subject {
    /// An entrant's, by its place.
    Entrant(usize),
    /// The game's rules.
    Rules,
    /// Which level.
    Level,
    /// The generator of the level.
    Generator,
}

impl SweepDraft {
    pub(super) fn checked(&self, checker: &mut Checker, draft: &Draft, entrants: &[Entrant]) -> Sweep {
        let vary = checker.vary(self, draft, entrants);
        if let Some(target) = self.target.filter(|target| !(*target > 0.0 && *target < 1.0)) {
            checker.problem(
                "target",
                format!("`target` cannot be {target}"),
                "it must be a number between 0 and 1, as in 0.55",
            );
        }
        checker.field(draft, entrants, 1);
        if !(1..=2).contains(&self.vary.len()) {
            checker.problem(
                "vary",
                format!("a sweep varies one or two knobs, not {}", self.vary.len()),
                "add a [[vary]] with `knob`, `from`, `to`, `points`",
            );
        }
        if entrants.len() > checker.most_seats() {
            let (asked, seats) = (draft.entrants.len().max(entrants.len()), checker.fewest_seats());
            checker.problem(
                "entrant",
                format!("a sweep plays one pairing, not {asked} entrants"),
                format!("name {seats}; a batch plays every pairing"),
            );
        }
        Sweep { vary, target: self.target }
    }
}

impl Kind for Sweep {
    fn lay_out(&self, plan: &mut Plan, checker: &mut Checker) {
        plan.cells = checker.points(self, plan);
        plan.rounds = vec![plan.cells.len()];
    }

    fn times_by_cell(&self) -> bool {
        true
    }

    fn reading<'a>(&'a self, _plan: &'a Plan, _game: &'a dyn GameEntry) -> Box<dyn Reading + 'a> {
        Box::new(Points(self))
    }

    fn notes(&self, summary: &Summary, plan: &Plan, game: &dyn GameEntry) -> Vec<String> {
        let found = summary.sweep().map(|found| notes::notes(self, found, summary.unlikely())).unwrap_or_default();
        found.into_iter().chain(notes::unmoved(self, plan, game)).collect()
    }
}

struct Points<'a>(&'a Sweep);

impl Reading for Points<'_> {
    fn finish(self: Box<Self>, sums: &mut Sums) -> Finding {
        sums.pairings.clear();
        Finding::Sweep(points::finding(self.0, sums))
    }
}
