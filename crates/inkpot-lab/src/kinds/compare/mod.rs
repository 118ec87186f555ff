//! A comparison: which of two is better, each other's opponents or against the same ones.

mod comparison;
mod stored;
mod watch;

use inkpot_core::{GameEntry, Rows};
use serde::{Deserialize, Serialize};

pub(crate) use self::watch::Watch;

pub use self::comparison::{CompareFinding, ComparisonSummary, POWER};
pub use self::stored::{Stored, StoredError, compare_stored};
pub use self::watch::Verdict;

use super::batch::MOST_PAIRINGS;
use super::{Finding, Kind, Reading, Sums};
use crate::combinations::{choose, combinations, rank};
use crate::resolve::Checker;
use crate::{Cell, Draft, Entrant, Plan, Summary};

/// What a comparison asks for.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct CompareDraft {
    /// Whether it stops once it is clear.
    pub until_clear: bool,
    /// How far apart two may be, in win rate, and still count as equal.
    pub equal_within: Option<f64>,
    /// What must be established of the first.
    pub require: Option<Requirement>,
}

/// A comparison of the first two entrants.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Compare {
    /// Whether it stops once it is clear.
    pub until_clear: bool,
    /// How far apart two may be, in win rate, and still count as equal.
    pub equal_within: Option<f64>,
    /// What must be established of the first.
    pub require: Option<Requirement>,
}

/// What a comparison must establish of the first of its two entrants.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Requirement {
    /// That it is better.
    Better,
    /// That it is worse by no more than still counts as equal.
    NotWorse,
}

/// How much worse, in win rate, still counts as not worse where nothing is said.
const NOT_WORSE_BY: f64 = 0.05;

impl Requirement {
    /// Within how much two count as equal under a requirement: as asked, and for not worse, which without a margin
    /// would be better, 0.05 where nothing is.
    pub fn margin(required: Option<Self>, asked: Option<f64>) -> Option<f64> {
        asked.or((required == Some(Self::NotWorse)).then_some(NOT_WORSE_BY))
    }

    /// Both.
    pub const ALL: [Self; 2] = [Self::Better, Self::NotWorse];

    /// Its name in briefs and on the command line.
    pub fn name(self) -> &'static str {
        match self {
            Self::Better => "better",
            Self::NotWorse => "not-worse",
        }
    }
}

impl CompareDraft {
    pub(super) fn checked(&self, checker: &mut Checker, draft: &Draft, entrants: &[Entrant]) -> Compare {
        checker.field(draft, entrants, 2);
        if let Some(within) = self.equal_within.filter(|within| !(*within > 0.0 && *within < 0.5)) {
            checker.problem(
                "equal_within",
                format!("`equal_within` cannot be {within}"),
                "it must be a difference in win rate between 0 and 0.5, as in 0.03",
            );
        }
        Compare {
            until_clear: self.until_clear,
            equal_within: Requirement::margin(self.require, self.equal_within),
            require: self.require,
        }
    }
}

impl Kind for Compare {
    /// The first two against each other, or each against the same others.
    fn lay_out(&self, plan: &mut Plan, checker: &mut Checker) {
        if !checker.seats_for_two() {
            return;
        }
        let (others, needed) = (plan.entrants.len() - 2, checker.fewest_seats() - 1);
        if others == 0 && needed == 1 {
            plan.cells = vec![Cell::of(vec![0, 1], 0)];
        } else if others < needed {
            let game = plan.ground.game.clone();
            checker.problem(
                "entrant",
                format!("a table of `{game}` needs {needed} opponents beside each of the two, not {others}"),
                format!("name {needed} or more with --against; in a brief they are the entrants after the first two"),
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

    fn reading<'a>(&'a self, plan: &'a Plan, _game: &'a dyn GameEntry) -> Box<dyn Reading + 'a> {
        Box::new(Watched(self.watch(plan)))
    }

    fn notes(&self, summary: &Summary, _plan: &Plan, _game: &dyn GameEntry) -> Vec<String> {
        let early = summary.comparison().filter(|told| told.clear_at.is_some() && !told.is_decided());
        let note = "stopped once it was clear: the difference seen by then is too large on average, and only the intervals of \
                    the comparison allow for looking";
        early.map(|_| note.to_string()).into_iter().collect()
    }

    /// What may have stopped at any block has one interval wherever it stands: the one that holds at all looks at once.
    fn amend(&self, summary: &mut Summary) {
        let found = summary.comparison().filter(|told| told.until_clear);
        let Some(seen) = found.and_then(|told| told.win_rate) else { return };
        if let ([first, second], [pairing]) = (summary.entrants.as_mut_slice(), summary.pairings.as_mut_slice()) {
            (first.win_rate, second.win_rate) = (Some(seen), Some(seen.complement()));
            pairing.win_rate = Some(seen);
        }
    }
}

impl Compare {
    /// A watch over a plan's comparison.
    pub(crate) fn watch(&self, plan: &Plan) -> Watch {
        Watch::over(*self, plan)
    }
}

struct Watched(Watch);

impl Reading for Watched {
    fn take(&mut self, rows: &Rows) {
        self.0.take(rows);
    }

    fn finish(self: Box<Self>, sums: &mut Sums) -> Finding {
        let matches = sums.cells.iter().map(|cell| cell.matches).sum();
        Finding::Compare(CompareFinding { comparison: comparison::compared(sums.plan, self.0, matches) })
    }
}
