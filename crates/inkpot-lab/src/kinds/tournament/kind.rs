//! Tournaments: check, layout and reading.

use inkpot_core::{GameEntry, Streams};

use super::asked::{Format, Tournament, TournamentDraft};
use super::finding::TournamentFinding;
use super::{finding, ranking};
use crate::checker::{Checker, unknown};
use crate::kind::{About, Finds, Kind, Reading, Sums};
use crate::kinds::batch::MOST_PAIRINGS;
use crate::standing::Played;
use crate::{Cell, Draft, Entrant, Plan};

const MOST_ROUNDS: u64 = 200;

impl TournamentDraft {
    pub(crate) fn checked(&self, checker: &mut Checker, draft: &Draft, entrants: &[Entrant]) -> Tournament {
        checker.field(draft, entrants, ("tournament", 2));
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
        let (entrants, seats) = (plan.entrants.len(), plan.seats as usize);
        if !checker.seats_for_two(seats) {
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
            self.draw_round(plan, &[]);
        }
    }

    fn compares_blocks(&self, _plan: &Plan) -> bool {
        true
    }

    fn has_series(&self) -> bool {
        false
    }

    /// The rounds of a Swiss tournament have blocks of their own, and everybody plays on.
    fn fresh_blocks(&self, plan: &Plan) -> u64 {
        if self.format == Format::Swiss { plan.blocks * plan.rounds.len() as u64 } else { plan.blocks }
    }

    fn draw_round(&self, plan: &mut Plan, played: &[Played]) {
        let (round, seats) = (plan.rounds_drawn(), plan.seats() as usize);
        let mut chance = Streams::of_study(plan.ground.seed).draw(round as u64);
        let tables = self.draw(round, (plan.entrants.len(), seats), played, &mut chance);
        // In a round robin all cells share their blocks, so that differences are paired; the rounds of the others are
        // new chance each, so that nothing is played twice.
        let first = if self.format == Format::RoundRobin { 0 } else { round as u64 * plan.blocks };
        let cells: Vec<Cell> = tables.into_iter().map(|table| Cell::of_its_own(table, first)).collect();
        plan.cells.extend(cells);
    }
}

impl Finds for Tournament {
    type Finding = TournamentFinding;

    fn reading<'a>(&'a self, _plan: &'a Plan, _game: &'a dyn GameEntry) -> Box<dyn Reading<TournamentFinding> + 'a> {
        Box::new(*self)
    }

    fn notes(&self, found: &TournamentFinding, about: &About) -> Vec<String> {
        finding::notes(&found.tournament, about.summary.unlikely())
    }
}

impl Reading<TournamentFinding> for Tournament {
    fn finish(self: Box<Self>, sums: &mut Sums) -> TournamentFinding {
        ranking::rank(&self, sums)
    }
}
