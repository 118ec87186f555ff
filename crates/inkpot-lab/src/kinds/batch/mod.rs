//! A batch: every entrant meets every other.

use inkpot_core::{GameEntry, Registry};
use serde::{Deserialize, Serialize};

use crate::checker::Checker;
use crate::combinations::{choose, combinations};
use crate::kind::{Finds, Kind, Reading, Sums};
use crate::planning::{MATCHES, Planning, planned};
use crate::{Cell, Draft, Entrant, Plan, Problem};

/// Pairings of a study at most.
pub(crate) const MOST_PAIRINGS: usize = 250_000;

/// Every entrant meets every other.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Batch {}

/// The finding of a batch: none beyond entrants and pairings.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct BatchFinding {}

impl Batch {
    pub(crate) fn checked(checker: &mut Checker, draft: &Draft, entrants: &[Entrant]) -> Self {
        checker.field(draft, entrants, ("batch", 1));
        Self {}
    }

    /// The plan of a batch, from which a proof begins. Errs with everything that is wrong with the draft.
    pub(crate) fn planned(draft: &Draft, registry: &Registry) -> Result<Plan, Vec<Problem>> {
        let check = |checker: &mut Checker, entrants: &[Entrant]| Self::checked(checker, draft, entrants);
        let planning = Planning { name: "batch", matches: MATCHES, check: &check, kind: |plan| plan };
        planned(draft, registry, &planning).map(|(plan, _)| plan)
    }
}

impl Kind for Batch {
    /// Every way to fill the seats with different entrants, in order of their places.
    fn lay_out(&self, plan: &mut Plan, checker: &mut Checker) {
        let (entrants, seats) = (plan.entrants.len(), plan.seats as usize);
        let count = choose(entrants, seats);
        if count > MOST_PAIRINGS {
            return checker.problem(
                "entrant",
                format!("{entrants} entrants have {count} pairings"),
                format!("there can be at most {MOST_PAIRINGS}; a tournament with format = \"swiss\" needs far fewer"),
            );
        }
        plan.cells = combinations(entrants, seats).map(|table| Cell::of_its_own(table, 0)).collect();
        plan.rounds = vec![plan.cells.len()];
    }
}

impl Finds for Batch {
    type Finding = BatchFinding;

    fn reading<'a>(&'a self, _plan: &'a Plan, _game: &'a dyn GameEntry) -> Box<dyn Reading<BatchFinding> + 'a> {
        Box::new(*self)
    }
}

impl Reading<BatchFinding> for Batch {
    fn finish(self: Box<Self>, _sums: &mut Sums) -> BatchFinding {
        BatchFinding {}
    }
}
