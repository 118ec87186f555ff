//! What each kind of study asks for, and the cells it plays.

use super::entrants::MOST_ENTRANTS;
use super::{Desk, unknown};
use crate::schedule::{choose, combinations};
use crate::{Cell, Comparison, Draft, Entrant, Format, Plan, Requirement, StudyKind, Tournament};

const MOST_PAIRINGS: usize = 250_000;
const MOST_ROUNDS: u64 = 200;

impl Desk<'_> {
    /// Keys that mean something only in another kind of study: they would silently do nothing.
    pub(super) fn foreign_keys(&mut self, draft: &Draft) {
        let tournament = [
            ("format", draft.format.is_some()),
            ("rounds", draft.rounds.is_some()),
            ("anchor", draft.anchor.is_some()),
        ];
        let compare = [
            ("until", draft.until_clear),
            ("equal_within", draft.equal_within.is_some()),
            ("require", draft.require.is_some()),
        ];
        let of = [(StudyKind::Tournament, tournament.as_slice()), (StudyKind::Compare, compare.as_slice())];
        for (kind, keys) in of.into_iter().filter(|(kind, _)| *kind != draft.kind) {
            for (key, _) in keys.iter().filter(|(_, set)| *set) {
                let name = kind.name();
                self.problem(
                    *key,
                    format!("only a {name} has `{key}`"),
                    format!("use kind = \"{name}\", or leave `{key}` out"),
                );
            }
        }
        if !draft.vary.is_empty() && draft.kind != StudyKind::Sweep {
            let (name, a) = (
                draft.kind.name(),
                if draft.kind == StudyKind::Batch { "" } else { "; for a field, put `vary` into an [[entrant]]" },
            );
            self.problem(
                "vary",
                format!("a {name} varies nothing"),
                format!("use kind = \"sweep\", or leave [[vary]] out{a}"),
            );
        }
    }

    pub(super) fn target(&mut self, draft: &Draft) {
        let Some(target) = draft.target else { return };
        if !(target > 0.0 && target < 1.0) {
            self.problem(
                "target",
                format!("a win rate cannot be aimed at {target}"),
                "a number between 0 and 1, as in 0.55",
            );
        }
        if draft.kind != StudyKind::Sweep {
            self.problem(
                "target",
                "only a sweep has a target",
                "use kind = \"sweep\" with a [[vary]], or leave `target` out",
            );
        }
    }

    pub(super) fn field_size(&mut self, draft: &Draft, resolved: &[Entrant]) {
        let sheet = self.game.sheet();
        let asked = draft.entrants.len().max(resolved.len());
        let (game, seats) = (&sheet.name, *sheet.seats.start());
        let needed = seats.max(if draft.kind == StudyKind::Sweep || draft.kind == StudyKind::Batch { 1 } else { 2 });
        if asked < needed {
            let s = if asked == 1 { "" } else { "s" };
            let (what, help) =
                (format!("name {needed} or more"), format!("`inkpot agents {game}` shows what there is"));
            let wrong = if needed > seats {
                format!("{asked} entrant{s} make no {}", draft.kind.name())
            } else {
                format!("{asked} entrant{s} cannot fill the {seats} seats of `{game}`")
            };
            self.problem("entrant", wrong, format!("{what}; {help}"));
        }
        if asked > MOST_ENTRANTS {
            self.problem("entrant", format!("{asked} entrants are too many"), format!("{MOST_ENTRANTS} at most"));
        }
        if draft.kind != StudyKind::Sweep {
            return;
        }
        if !(1..=2).contains(&draft.vary.len()) {
            self.problem(
                "vary",
                format!("a sweep varies one or two knobs, not {}", draft.vary.len()),
                "add a [[vary]] with `knob`, `from`, `to`, `points`",
            );
        }
        if resolved.len() > *sheet.seats.end() {
            self.problem(
                "entrant",
                format!("a sweep plays one pairing, not {asked} entrants"),
                format!("name {seats}; a batch plays every pairing"),
            );
        }
    }

    pub(super) fn tournament(&mut self, draft: &Draft, entrants: &[Entrant]) -> Option<Tournament> {
        if draft.kind != StudyKind::Tournament {
            return None;
        }
        let format = draft.format.unwrap_or_default();
        if draft.rounds.is_some() && format != Format::Swiss {
            self.problem(
                "rounds",
                format!("a {} has as many rounds as it takes", format.name()),
                "leave `rounds` out, or use format = \"swiss\"",
            );
        }
        // About n log n pairings in all.
        let rounds =
            draft.rounds.unwrap_or_else(|| u64::from((entrants.len().max(2) as f64).log2().ceil() as u32).max(2));
        if !(1..=MOST_ROUNDS).contains(&rounds) {
            self.problem("rounds", format!("{rounds} rounds are asked for"), format!("from 1 to {MOST_ROUNDS}"));
        }
        let anchor = draft.anchor.as_ref().and_then(|name| {
            let place = entrants.iter().position(|entrant| entrant.name == *name);
            if place.is_none() {
                let known: Vec<String> = entrants.iter().map(|entrant| entrant.name.clone()).collect();
                self.problems.push(unknown("anchor", "entrant", name, &known));
            }
            place
        });
        Some(Tournament { format, rounds, anchor })
    }

    pub(super) fn comparison(&mut self, draft: &Draft) -> Option<Comparison> {
        if draft.kind != StudyKind::Compare {
            return None;
        }
        if let Some(within) = draft.equal_within.filter(|within| !(*within > 0.0 && *within < 0.5)) {
            self.problem(
                "equal_within",
                format!("two cannot count as equal within {within}"),
                "a difference in win rate between 0 and 0.5, as in 0.03",
            );
        }
        Some(Comparison {
            until_clear: draft.until_clear,
            equal_within: Requirement::margin(draft.require, draft.equal_within),
            require: draft.require,
        })
    }

    /// Fills in the cells of a plan that is otherwise complete: all of them, or those of a first round.
    pub(super) fn cells(&mut self, plan: &mut Plan) {
        let seats = *self.game.sheet().seats.start();
        let entrants = plan.entrants.len();
        if seats < 2 && (plan.tournament.is_some() || plan.comparison.is_some()) {
            let game = &self.game.sheet().name;
            let what = format!("`{game}` has one seat, and nobody to win against");
            return self.problem("game", what, "choose a game of two seats or more; a batch measures one alone");
        }
        if let Some(tournament) = plan.tournament {
            let pairings = tournament.pairings(entrants, seats);
            if pairings > MOST_PAIRINGS {
                self.problem(
                    "entrant",
                    format!("a {} of {entrants} entrants has {pairings} pairings", tournament.format.name()),
                    format!("{MOST_PAIRINGS} at most; format = \"swiss\" needs far fewer"),
                );
                return;
            }
            match tournament.tables(entrants, seats) {
                Ok(rounds) => plan.rounds = rounds,
                Err((what, help)) => return self.problem("format", what, help),
            }
            plan.begin_tournament(seats);
            return;
        }
        plan.cells = match plan.kind {
            StudyKind::Sweep => self.points(plan),
            StudyKind::Compare => self.comparisons(plan, seats),
            StudyKind::Batch | StudyKind::Tournament | StudyKind::Tune => self.pairings(plan, seats),
        };
        plan.rounds = vec![plan.cells.len()];
    }

    /// Every way to fill the fewest seats of the game with different entrants, in order of their places.
    fn pairings(&mut self, plan: &Plan, seats: usize) -> Vec<Cell> {
        let count = choose(plan.entrants.len(), seats);
        if count > MOST_PAIRINGS {
            self.problem(
                "entrant",
                format!("{} entrants have {count} pairings", plan.entrants.len()),
                format!("{MOST_PAIRINGS} at most; a tournament with format = \"swiss\" needs far fewer"),
            );
            return Vec::new();
        }
        combinations(plan.entrants.len(), seats).into_iter().map(|entrants| plan.cell(entrants, 0)).collect()
    }

    /// The first two against each other, or each against the same others.
    fn comparisons(&mut self, plan: &Plan, seats: usize) -> Vec<Cell> {
        let others = plan.entrants.len() - 2;
        let (game, needed) = (&self.game.sheet().name, seats.saturating_sub(1));
        if others == 0 && seats == 2 {
            return vec![plan.cell(vec![0, 1], 0)];
        }
        if others < needed {
            self.problem(
                "entrant",
                format!("a table of `{game}` needs {needed} opponents beside each of the two, not {others}"),
                format!("name {needed} or more with --against; in a brief they are the entrants after the first two"),
            );
            return Vec::new();
        }
        let tables = combinations(others, needed);
        let seated = |who: usize, table: &[usize]| {
            let everybody: Vec<usize> = std::iter::once(who).chain(table.iter().map(|other| other + 2)).collect();
            plan.cell(everybody, 0)
        };
        tables.iter().flat_map(|table| [seated(0, table), seated(1, table)]).collect()
    }
}
