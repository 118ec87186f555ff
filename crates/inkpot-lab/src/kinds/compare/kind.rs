//! Comparisons: check, layout and reading.

use inkpot_core::{GameEntry, Rows};

use super::asked::{Compare, CompareDraft, Requirement, smallest};
use super::comparison::{CompareFinding, ComparisonSummary, compared};
use super::watch::{Verdict, Watch};
use crate::checker::Checker;
use crate::combinations::{choose, combinations, rank};
use crate::kind::{About, Finds, Kind, Reading, Sums, Watching};
use crate::kinds::batch::MOST_PAIRINGS;
use crate::note::Note;
use crate::planning::MATCHES;
use crate::{Cell, Draft, Entrant, Plan, Summary};

/// Matches at most of a comparison that stops once it is clear.
const MATCHES_UNTIL_CLEAR: u64 = 20_000;

impl CompareDraft {
    /// Matches where the draft says nothing: as many as there may be of a comparison that stops once it is clear.
    pub(crate) fn matches(&self) -> u64 {
        if self.until_clear { MATCHES_UNTIL_CLEAR } else { MATCHES }
    }

    pub(crate) fn checked(&self, checker: &mut Checker, draft: &Draft, entrants: &[Entrant]) -> Compare {
        checker.field(draft, entrants, ("compare", 2));
        if let Some(within) = self.equal_within.filter(|within| !(*within > 0.0 && *within < 0.5)) {
            checker.problem(
                "equal_within",
                format!("`equal_within` cannot be {within}"),
                "it must be a difference in win rate between 0 and 0.5, as in 0.03",
            );
        }
        if let Some(smallest) = self.smallest.filter(|smallest| !(*smallest > 0.0 && *smallest < 0.5)) {
            checker.problem(
                "smallest",
                format!("`smallest` cannot be {smallest}"),
                "it must be a difference in win rate between 0 and 0.5, as in 0.03",
            );
        }
        Compare {
            smallest: self.smallest.unwrap_or_else(smallest),
            until_clear: self.until_clear,
            equal_within: Requirement::margin(self.require, self.equal_within),
            require: self.require,
        }
    }
}

impl Kind for Compare {
    /// The first two against each other, or each against the same others.
    fn lay_out(&self, plan: &mut Plan, checker: &mut Checker) {
        let seats = plan.seats as usize;
        if !checker.seats_for_two(seats) {
            return;
        }
        let (others, needed) = (plan.entrants.len() - 2, seats - 1);
        if others == 0 && needed == 1 {
            plan.cells = vec![Cell::of(vec![0, 1], 0)];
        } else if others < needed {
            let game = plan.ground.game.clone();
            checker.problem(
                "entrant",
                format!("a table of `{game}` needs {needed} opponents beside each of the two, not {others}"),
                format!("name {needed} opponents or more: they are the entrants after the first two"),
            );
        } else if choose(others, needed) > MOST_PAIRINGS / 2 {
            let tables = choose(others, needed);
            checker.problem(
                "entrant",
                format!("{others} opponents make {tables} tables for each of the two"),
                format!("name fewer: there can be at most {} tables", MOST_PAIRINGS / 2),
            );
        } else {
            // Both meet the same opponents with the same chance; other opponents are other matches.
            let seated = |who: usize, table: &[usize]| {
                let everybody: Vec<usize> = std::iter::once(who).chain(table.iter().map(|other| other + 2)).collect();
                Cell { pairing: rank(table) as u64, ..Cell::of(everybody, 0) }
            };
            let tables = combinations(others, needed);
            plan.cells = tables.flat_map(|table| [seated(0, &table), seated(1, &table)]).collect();
        }
        plan.rounds = vec![plan.cells.len()];
    }

    fn interleaved(&self) -> bool {
        true
    }

    fn has_series(&self) -> bool {
        false
    }

    fn watch(&self, plan: &Plan, game: &dyn GameEntry) -> Option<Box<dyn Watching>> {
        Some(Box::new(Watch::over(*self, plan, game)))
    }
}

impl Finds for Compare {
    type Finding = CompareFinding;

    fn reading<'a>(&'a self, plan: &'a Plan, game: &'a dyn GameEntry) -> Box<dyn Reading<CompareFinding> + 'a> {
        Box::new(Watched(Watch::over(*self, plan, game)))
    }

    fn notes(&self, found: &CompareFinding, _about: &About) -> Vec<String> {
        let early =
            Some(&found.comparison).filter(|comparison| comparison.clear_at.is_some() && !comparison.is_decided());
        let note = |comparison: &ComparisonSummary| {
            // Chance that drives two apart stops early; chance that holds them together does not make them look apart.
            let differs = matches!(comparison.verdict, Verdict::Better | Verdict::Worse);
            let large = if differs { "the difference is overstated on average, and " } else { "" };
            Note::Stopped
                .says(format!("the comparison stopped once it was clear; {large}only its own intervals allow for that"))
        };
        early.map(note).into_iter().collect()
    }

    fn stopped_early(&self, found: &CompareFinding) -> bool {
        found.comparison.clear_at.is_some()
    }

    /// Replaces the win rate's interval, in a study that may stop at any block, by the one that holds at all looks at
    /// once.
    fn amend(&self, found: &CompareFinding, summary: &mut Summary) {
        let found = Some(&found.comparison).filter(|comparison| comparison.until_clear);
        let Some(interval) = found.and_then(|comparison| comparison.win_rate) else { return };
        if let ([first, second], [pairing]) = (summary.entrants.as_mut_slice(), summary.pairings.as_mut_slice()) {
            (first.win_rate, second.win_rate) = (Some(interval), Some(interval.complement()));
            pairing.win_rate = Some(interval);
        }
    }
}

struct Watched(Watch);

impl Reading<CompareFinding> for Watched {
    fn take(&mut self, rows: &Rows) {
        self.0.take(rows);
    }

    fn finish(self: Box<Self>, sums: &mut Sums) -> CompareFinding {
        let matches = sums.cells.iter().map(|cell| cell.matches).sum();
        CompareFinding { comparison: compared(sums.plan, self.0, matches) }
    }
}
