//! Sweeps: check, layout and reading.

use inkpot_core::GameEntry;

use super::asked::{Sweep, SweepDraft};
use super::finding::SweepFinding;
use super::{notes, points};
use crate::checker::Checker;
use crate::kind::{About, Finds, Kind, Reading, Sums};
use crate::{Cell, Draft, Entrant, Plan};

impl SweepDraft {
    pub(crate) fn checked(&self, checker: &mut Checker, draft: &Draft, entrants: &[Entrant]) -> Sweep {
        let vary = checker.vary(self, draft, entrants);
        if let Some(target) = self.target.filter(|target| !(*target > 0.0 && *target < 1.0)) {
            checker.problem(
                "target",
                format!("`target` cannot be {target}"),
                "it must be a number between 0 and 1, as in 0.55",
            );
        }
        checker.field(draft, entrants, ("sweep", 1));
        if !(1..=2).contains(&self.vary.len()) {
            checker.problem(
                "vary",
                format!("a sweep varies one or two knobs, not {}", self.vary.len()),
                "add a [[vary]] with `knob`, `from`, `to`, `points`",
            );
        }
        let (fewest, most) = checker.seat_range();
        if entrants.len() > most {
            let labels = draft.entrants.len().max(entrants.len());
            checker.problem(
                "entrant",
                format!("a sweep plays one pairing, not {labels} entrants"),
                format!("name {fewest}; a batch plays every pairing"),
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

    /// All entrants sit down at once.
    fn seats(&self, checker: &mut Checker, wanted: Option<u64>, entrants: usize) -> usize {
        let (fewest, most) = checker.seat_range();
        let Some(seats) = wanted else { return entrants.clamp(fewest, most) };
        if seats < entrants as u64 && seats >= fewest as u64 {
            let what = format!("a sweep seats all its {entrants} entrants at once, not {seats} of them");
            checker.problem("seats", what, "leave `seats` out, or name fewer");
        }
        checker.seats(wanted, entrants)
    }

    fn cell_name(&self, _plan: &Plan, cell: &Cell) -> String {
        let values = self.vary.iter().zip(&cell.point).map(|(vary, value)| format!("{} {value}", vary.knob));
        values.collect::<Vec<_>>().join(", ")
    }

    fn times_by_cell(&self) -> bool {
        true
    }

    fn notes_one_sided(&self) -> bool {
        false
    }
}

impl Finds for Sweep {
    type Finding = SweepFinding;

    fn reading<'a>(&'a self, _plan: &'a Plan, _game: &'a dyn GameEntry) -> Box<dyn Reading<SweepFinding> + 'a> {
        Box::new(Points(self))
    }

    fn notes(&self, found: &SweepFinding, about: &About) -> Vec<String> {
        let of_curve = notes::notes(self, found, about.plan, about.summary.unlikely());
        of_curve.into_iter().chain(notes::unmoved(self, about.plan, about.game)).collect()
    }
}

struct Points<'a>(&'a Sweep);

impl Reading<SweepFinding> for Points<'_> {
    fn finish(self: Box<Self>, sums: &mut Sums) -> SweepFinding {
        sums.pairings.clear();
        points::finding(self.0, sums)
    }
}
