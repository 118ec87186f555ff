//! From the draft of a tuning to the tuning: names looked up, everything checked, all problems at once.

mod free;
mod rungs;
mod targets;

pub(crate) use free::free_range;
use inkpot_core::{GameEntry, Knob, KnobValue, Registry};

use super::asked::sheet_of;
use super::modifier::{Modifier, changed};
use super::proposing::least_budget;
use super::{Across, Free, Rung, Side, Target, Tune, TuneDraft};
use crate::checker::Checker;
use crate::kinds::batch::Batch;
use crate::{Draft, Entrant, EntrantDraft, Ground, Place, Problem};

/// Matches of the search at most, per rung: with one free knob, and for each further one.
const BUDGET: (u64, u64) = (6000, 4000);
/// Standard error at which the search ends, in tolerances.
const PRECISION: f64 = 0.3;
/// The proof's margin, in tolerances, where nothing is said.
const PROOF_MARGIN: f64 = 0.2;
const LEAST_PROOF: f64 = 2000.0;
/// Matches of the proof where only measures are aimed at.
const PROOF_OF_MEASURES: u64 = 4000;
const MOST_RUNGS: usize = 30;
const MOST_FREE: usize = 8;
const MOST_MATCHES: u64 = 1_000_000_000;

/// Checks the draft of a tuning against the registry. Errs with everything that is wrong with it.
pub fn resolve_tune(draft: &TuneDraft, registry: &Registry) -> Result<Tune, Vec<Problem>> {
    let game = Checker::at(&draft.game, registry)?.game();
    let mut checker = TuneChecker { game, registry, draft, problems: Vec::new() };
    let base = checker.base();
    let profiles = checker.profiles();
    let rungs: Vec<Rung> = draft.rungs.iter().enumerate().map(|(i, rung)| checker.rung(i, rung, &profiles)).collect();
    let free = checker.free(&rungs, base.as_ref().map(|(opponent, _)| opponent));
    checker.counts(&rungs, &free);
    checker.ranges(&rungs, base.as_ref());
    let Some((opponent, ground)) = base.filter(|_| checker.problems.is_empty()) else {
        return Err(checker.problems);
    };
    let tune = Tune {
        ground,
        opponent,
        budget: draft.budget.unwrap_or(BUDGET.0 + BUDGET.1 * (free.len() as u64 - 1)),
        proof: draft.proof.unwrap_or_else(|| proof(&rungs)).next_multiple_of(draft.series.unwrap_or(2).max(1)),
        precision: draft.precision.unwrap_or(PRECISION),
        free,
        rungs,
        languages: draft.languages.clone(),
    };
    let least = (0..tune.rungs.len()).map(|rung| least_budget(&tune, rung)).max().unwrap_or(0);
    if !tune.follows_a_curve() && tune.budget < least {
        let help = format!("set `budget` to a whole number from {least} to {MOST_MATCHES}, or free fewer knobs");
        checker.problem("budget", format!("the first look takes {least} matches a rung, more than `budget`"), help);
    }
    let middle = tune.point_at(&vec![0.5; tune.free.len()]);
    for place in 0..tune.rungs.len() {
        let errors = tune.try_seated(place, &middle, game).err().unwrap_or_default();
        checker.problems.extend(errors.iter().map(|error| {
            let help = "look at what is free, and at what the rung and its profiles set";
            Problem::new(Place::item("rung", place), error.to_string(), help)
        }));
    }
    if checker.problems.is_empty() { Ok(tune) } else { Err(checker.problems) }
}

/// Matches that give the narrowest rate target a margin of a fifth of its tolerance.
fn proof(rungs: &[Rung]) -> u64 {
    let rates = rungs.iter().flat_map(|rung| &rung.targets).filter(|target| target.is_rate());
    let narrowest = rates.map(Target::within).fold(f64::INFINITY, f64::min);
    if !narrowest.is_finite() {
        return PROOF_OF_MEASURES;
    }
    let margin = PROOF_MARGIN * narrowest;
    // Two standard errors of a rate of one half, and a fifth more for matches of a block that are alike.
    (1.2 / (margin * margin)).max(LEAST_PROOF).ceil() as u64
}

struct TuneChecker<'a> {
    game: &'a dyn GameEntry,
    registry: &'a Registry,
    draft: &'a TuneDraft,
    problems: Vec<Problem>,
}

impl TuneChecker<'_> {
    fn problem(&mut self, at: impl Into<Place>, what: impl Into<String>, help: impl Into<String>) {
        self.problems.push(Problem::new(at, what, help));
    }

    /// An entrant alone, checked as in any study; `at` is where it was typed.
    fn entrant(&mut self, at: &Place, entrant: &EntrantDraft) -> Option<(Entrant, Ground)> {
        let draft = self.draft;
        let name = entrant.name.clone().unwrap_or_else(|| entrant.agent.clone());
        let seats = *self.game.sheet().seats.start();
        let others = (1..seats.max(2)).map(|place| EntrantDraft {
            name: Some(format!("other {place}")),
            agent: self.game.agents().first().map(|sheet| sheet.name.clone()).unwrap_or_default(),
            ..EntrantDraft::default()
        });
        let study = Draft {
            game: draft.game.clone(),
            level: draft.level.clone(),
            seed: draft.seed,
            series: draft.series,
            confidence: draft.confidence,
            rules: draft.rules.clone(),
            entrants: std::iter::once(EntrantDraft { name: Some(name), ..entrant.clone() }).chain(others).collect(),
            ..Draft::default()
        };
        match Batch::planned(&study, self.registry) {
            Ok(plan) => Some((plan.entrants[0].clone(), plan.ground)),
            Err(problems) => {
                for mut problem in problems {
                    problem.at = problem.at.moved(&Place::item("entrant", 0), at);
                    if !self.problems.contains(&problem) {
                        self.problems.push(problem);
                    }
                }
                None
            }
        }
    }

    fn base(&mut self) -> Option<(Entrant, Ground)> {
        let seats = &self.game.sheet().seats;
        if *seats.start() != 2 {
            let game = &self.draft.game;
            let what = format!("`{game}` is not for two players, and a ladder needs a player and an opponent");
            self.problem("game", what, "choose a game that two can play");
        }
        let opponent = self.draft.opponent.clone();
        self.entrant(&"opponent".into(), &opponent)
    }

    fn counts(&mut self, rungs: &[Rung], free: &[Free]) {
        let draft = self.draft;
        if !(1..=MOST_RUNGS).contains(&rungs.len()) {
            let what = format!("a ladder has 1 to {MOST_RUNGS} rungs, not {}", rungs.len());
            self.problem("rung", what, format!("add 1 to {MOST_RUNGS} [[rung]]"));
        }
        if draft.seed.is_some_and(|seed| i64::try_from(seed).is_err()) {
            let what = "the seed is too large for a difficulty sheet";
            self.problem("seed", what, format!("it must be a whole number up to {}", i64::MAX));
        }
        if draft.free.is_empty() || free.len() > MOST_FREE {
            let what = format!("{} knobs are free", draft.free.len());
            self.problem("free", what, format!("add 1 to {MOST_FREE} [[free]] with `knob`, `from` and `to`"));
        }
        for (key, matches, least) in [("budget", draft.budget, 200), ("proof", draft.proof, 40)] {
            if matches.is_some_and(|matches| !(least..=MOST_MATCHES).contains(&matches)) {
                let what = format!("`{key}` cannot be {}", matches.unwrap_or_default());
                self.problem(key, what, format!("it must be a whole number from {least} to {MOST_MATCHES}"));
            }
        }
        if draft.precision.is_some_and(|precision| !(0.01..=2.0).contains(&precision)) {
            self.problem(
                "precision",
                "`precision` is out of range",
                "it must be a number of tolerances from 0.01 to 2",
            );
        }
        let wishes = |rung: &&Rung| !rung.targets.is_empty() && rung.targets.iter().all(|target| !target.hard);
        for rung in rungs.iter().filter(wishes) {
            let what = format!("all targets of rung `{}` are soft: nothing can fail", rung.name);
            self.problem("rung", what, "leave `soft` out of one");
        }
    }

    /// Modifiers that leave their knob's range over the base.
    fn ranges(&mut self, rungs: &[Rung], base: Option<&(Entrant, Ground)>) {
        let Some((opponent, ground)) = base else { return };
        let mut found = Vec::new();
        for (index, rung) in rungs.iter().enumerate() {
            let player = rung.players.first().map(|player| &player.entrant);
            let sides = [
                (Side::Opponent, sheet_knobs(self.game, &opponent.kind), Some(&opponent.knobs)),
                (
                    Side::Player,
                    player.map(|player| sheet_knobs(self.game, &player.kind)).unwrap_or_default(),
                    player.map(|player| &player.knobs),
                ),
                (Side::Rules, self.game.sheet().rules.clone(), Some(&ground.rules)),
            ];
            for (side, knobs, base) in sides {
                for (name, modifier) in rung.modifiers.of(side) {
                    let knob = knobs.iter().find(|knob| knob.name == *name);
                    let value = base.and_then(|base| base.get(name)).and_then(KnobValue::number);
                    let (Modifier::Percent(percent), Some(knob), Some(value)) = (modifier, knob, value) else {
                        continue;
                    };
                    let result = changed(value, *percent);
                    if knob.bounds().is_some_and(|(low, high)| !(low..=high).contains(&result)) {
                        found.push((index, side, name.clone(), value, *percent, result, knob.allowed()));
                    }
                }
            }
        }
        for (index, side, name, value, percent, result, allowed) in found {
            self.problem(
                Place::item("rung", index).key(side.name()).key(&name),
                format!("{percent:+} % takes `{name}` from {} to {}", short(value), short(result)),
                format!("it must be {allowed}; choose a smaller percentage"),
            );
        }
    }
}

fn short(x: f64) -> f64 {
    (x * 1e4).round() / 1e4
}

/// The knobs of an agent kind or preset; none if there is no such.
fn sheet_knobs(game: &dyn GameEntry, agent: &str) -> Vec<Knob> {
    let sheet = sheet_of(game, agent).or_else(|| crate::find_agent(game, agent).map(|(sheet, _)| sheet));
    sheet.map(|sheet| sheet.knobs.clone()).unwrap_or_default()
}

impl Across {
    /// Whether a knob may go from one value to the next.
    pub(crate) fn allows(self, from: f64, to: f64) -> bool {
        const SLACK: f64 = 1e-9;
        match self {
            Self::Any => true,
            Self::Rising => to >= from - SLACK,
            Self::Falling => to <= from + SLACK,
            Self::Shared => (to - from).abs() <= SLACK,
        }
    }
}
