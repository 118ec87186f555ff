//! A tournament: a field that is ranked.

mod finding;
mod matching;
mod ranking;
mod schedule;
mod standing;

use inkpot_core::{GameEntry, Streams};
use serde::{Deserialize, Serialize};

pub(crate) use self::ranking::meetings_of;
pub(crate) use self::schedule::Played;
pub(crate) use self::standing::read as read_standing;

pub use self::finding::{
    CirclesSummary, ProgressSummary, RatingSummary, ResidualSummary, RoundSummary, TableSummary, TournamentFinding,
    TournamentSummary,
};
pub use self::standing::{drawn, drawn_as_far};

use super::batch::MOST_PAIRINGS;
use super::{Finding, Kind, Reading, Sums};
use crate::resolve::{Checker, unknown};
use crate::{Cell, Draft, Entrant, Plan, Summary};

const MOST_ROUNDS: u64 = 200;

/// Who meets whom in a tournament.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Format {
    /// Everybody meets everybody.
    #[default]
    RoundRobin,
    /// In each round, entrants with equal scores meet.
    Swiss,
    /// Whoever loses is out.
    Knockout,
}

impl Format {
    /// All formats.
    pub const ALL: [Self; 3] = [Self::RoundRobin, Self::Swiss, Self::Knockout];

    /// Its name in briefs and on the command line.
    pub fn name(self) -> &'static str {
        match self {
            Self::RoundRobin => "round-robin",
            Self::Swiss => "swiss",
            Self::Knockout => "knockout",
        }
    }
}

/// What a tournament asks for.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct TournamentDraft {
    /// Who meets whom.
    pub format: Option<Format>,
    /// Rounds of a Swiss tournament.
    pub rounds: Option<u64>,
    /// The entrant whose rating is 0.
    pub anchor: Option<String>,
}

/// Who meets whom in a tournament.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Tournament {
    /// The format.
    pub format: Format,
    /// Rounds of a Swiss tournament; of the others as many as it takes.
    pub rounds: u64,
    /// The entrant whose rating is 0, by its place; else the mean of the field is.
    pub anchor: Option<usize>,
}

impl TournamentDraft {
    pub(super) fn checked(&self, checker: &mut Checker, draft: &Draft, entrants: &[Entrant]) -> Tournament {
        checker.field(draft, entrants, 2);
        let format = self.format.unwrap_or_default();
        if self.rounds.is_some() && format != Format::Swiss {
            checker.problem(
                "rounds",
                format!("the number of rounds of a {} cannot be set", format.name()),
                "leave `rounds` out, or use format = \"swiss\"",
            );
        }
        // About n log n pairings in all.
        let rounds =
            self.rounds.unwrap_or_else(|| u64::from((entrants.len().max(2) as f64).log2().ceil() as u32).max(2));
        if !(1..=MOST_ROUNDS).contains(&rounds) {
            checker.problem(
                "rounds",
                format!("`rounds` cannot be {rounds}"),
                format!("it must be a whole number from 1 to {MOST_ROUNDS}"),
            );
        }
        let anchor = self.anchor.as_ref().and_then(|name| {
            let place = entrants.iter().position(|entrant| entrant.name == *name);
            if place.is_none() {
                let known: Vec<String> = entrants.iter().map(|entrant| entrant.name.clone()).collect();
                checker.report(unknown(&"anchor".into(), "entrant", name, &known));
            }
            place
        });
        Tournament { format, rounds, anchor }
    }
}

impl Kind for Tournament {
    fn lay_out(&self, plan: &mut Plan, checker: &mut Checker) {
        let (entrants, seats) = (plan.entrants.len(), checker.fewest_seats());
        if !checker.seats_for_two() {
            return;
        }
        let pairings = self.pairings(entrants, seats);
        if pairings > MOST_PAIRINGS {
            return checker.problem(
                "entrant",
                format!("a {} of {entrants} entrants has {pairings} pairings", self.format.name()),
                format!("there can be at most {MOST_PAIRINGS}; format = \"swiss\" needs far fewer"),
            );
        }
        match self.tables(entrants, seats) {
            Ok(rounds) => plan.rounds = rounds,
            Err((what, help)) => return checker.problem("format", what, help),
        }
        // What needs no results: every round of a round robin, the first of the others.
        let known = if self.format == Format::RoundRobin { plan.rounds.len() } else { 1 };
        for _ in 0..known {
            self.draw_round(plan, seats, &[]);
        }
    }

    fn has_series(&self) -> bool {
        false
    }

    /// The rounds of a Swiss tournament have blocks of their own, and everybody plays on.
    fn fresh_blocks(&self, plan: &Plan) -> u64 {
        if self.format == Format::Swiss { plan.blocks * plan.rounds.len() as u64 } else { plan.blocks }
    }

    fn reading<'a>(&'a self, _plan: &'a Plan, _game: &'a dyn GameEntry) -> Box<dyn Reading + 'a> {
        Box::new(*self)
    }

    fn notes(&self, summary: &Summary, _plan: &Plan, _game: &dyn GameEntry) -> Vec<String> {
        summary.tournament().map(|told| finding::notes(told, summary.unlikely())).unwrap_or_default()
    }
}

impl Reading for Tournament {
    fn finish(self: Box<Self>, sums: &mut Sums) -> Finding {
        Finding::Tournament(ranking::rank(&self, sums))
    }
}

impl Tournament {
    /// Draws the next round of a plan, given every table played before it.
    pub(crate) fn draw_round(&self, plan: &mut Plan, seats: usize, played: &[Played]) {
        let round = plan.rounds_drawn();
        let mut chance = Streams::of_study(plan.ground.seed).draw(round as u64);
        let tables = self.draw(round, (plan.entrants.len(), seats), played, &mut chance);
        // In a round robin all cells share their blocks, so that differences are paired; the rounds of the others are
        // new chance each, so that nothing is played twice.
        let first = if self.format == Format::RoundRobin { 0 } else { round as u64 * plan.blocks };
        let cells: Vec<Cell> = tables.into_iter().map(|table| Cell::of_its_own(table, first)).collect();
        plan.cells.extend(cells);
    }
}
