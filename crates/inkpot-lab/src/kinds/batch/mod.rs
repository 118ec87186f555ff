//! A batch: every entrant meets every other.

use inkpot_core::GameEntry;
use serde::{Deserialize, Serialize};

use super::{Finding, Kind, Reading, Sums};
use crate::combinations::{choose, combinations};
use crate::resolve::Checker;
use crate::{Cell, Draft, Entrant, Plan};

/// Pairings of a study at most.
pub(crate) const MOST_PAIRINGS: usize = 250_000;

/// Every entrant meets every other.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Batch {}

/// A batch finds what the entrants and pairings of every study say.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct BatchFinding {}

impl Batch {
    pub(super) fn checked(checker: &mut Checker, draft: &Draft, entrants: &[Entrant]) -> Self {
        checker.field(draft, entrants, 1);
        Self {}
    }
}

impl Kind for Batch {
    /// Every way to fill the fewest seats of the game with different entrants, in order of their places.
    fn lay_out(&self, plan: &mut Plan, checker: &mut Checker) {
        let (entrants, seats) = (plan.entrants.len(), checker.fewest_seats());
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

    fn reading<'a>(&'a self, _plan: &'a Plan, _game: &'a dyn GameEntry) -> Box<dyn Reading + 'a> {
        Box::new(*self)
    }
}

impl Reading for Batch {
    fn finish(self: Box<Self>, _sums: &mut Sums) -> Finding {
        Finding::Batch(BatchFinding {})
    }
}
