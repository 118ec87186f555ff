//! The proof: every rung of a sheet measured on blocks that no search saw.

use inkpot_core::{GameEntry, GameSource, Level, Registry, Rows};
use serde::{Deserialize, Serialize};

use super::Sheet;
use super::sheet::SHEET_FORMAT;
use crate::checker::Checker;
use crate::figure::Figure;
use crate::figure_tally::{FigureTally, Weighted};
use crate::kind::{Finds, Kind, Reading, Sums};
use crate::kinds::batch::Batch;
use crate::{Cell, Draft, EntrantDraft, Place, Plan, Problem, Variation};

/// The proof of a tuning, as a plan.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Proof {
    /// The sheet.
    pub sheet: Sheet,
    /// Rung and weight of each cell.
    cells: Vec<(usize, f64)>,
}

/// The finding of a tuning, beside the summary that all studies share.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TuneFinding {
    /// The proofs, rung by rung.
    pub tune: TuneSummary,
}

impl Kind for Proof {
    /// A proof is laid out with its sheet.
    fn lay_out(&self, _plan: &mut Plan, _checker: &mut Checker) {}
}

impl Finds for Proof {
    type Finding = TuneFinding;

    fn reading<'a>(&'a self, plan: &'a Plan, game: &'a dyn GameEntry) -> Box<dyn Reading<TuneFinding> + 'a> {
        Box::new(ProofReading::over(self, plan, game))
    }
}

/// The summary of a tuning.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TuneSummary {
    /// Whether every hard target is met.
    pub met: bool,
    /// Matches of the search, which count for nothing in the figures.
    pub search_matches: u64,
    /// The rungs, each with its values and measurements.
    pub rungs: Vec<super::SheetRung>,
}

impl Proof {
    /// Returns the plan that measures a sheet; `level` is the sheet's. Errs with every mismatch with the game.
    pub(crate) fn plan(
        sheet: &Sheet,
        game: &GameSource,
        level: Level,
        registry: &Registry,
    ) -> Result<(Plan, Self), Vec<Problem>> {
        let mut sheet = sheet.clone();
        sheet.rungs.iter_mut().flat_map(|rung| &mut rung.targets).for_each(|target| target.measured = None);
        let mut draft = Draft {
            game: game.clone(),
            level: Some(level),
            seed: Some(sheet.proof.seed),
            seats: Some(2),
            matches: Some(sheet.proof.matches),
            series: sheet.proof.series,
            confidence: Some(sheet.proof.confidence),
            rules: sheet.rules.clone(),
            ..Draft::default()
        };
        let mut cells = Vec::new();
        let mut tables = Vec::new();
        for (place, rung) in sheet.rungs.iter().enumerate() {
            let opponent = draft.entrants.len() + rung.players.len();
            for (number, player) in rung.players.iter().enumerate() {
                let more = if number > 0 { format!(" {}", number + 1) } else { String::new() };
                cells.push((place, player.weight.unwrap_or(1.0)));
                tables.push((vec![draft.entrants.len(), opponent], number));
                draft.entrants.push(entrant(
                    format!("{} on {}{more}", player.agent, rung.name),
                    player.agent.clone(),
                    &player.knobs,
                ));
            }
            draft.entrants.push(entrant(rung.name.clone(), sheet.opponent.agent.clone(), &rung.opponent));
        }
        let mut problems = foreign(&sheet, game, registry);
        let plan = match Batch::planned(&draft, registry) {
            Ok(plan) => Some(plan),
            Err(more) => {
                problems.extend(more.into_iter().map(|problem| named(problem, &draft)));
                None
            }
        };
        let mut plan = plan.filter(|_| problems.is_empty()).ok_or(problems)?;
        plan.cells = Vec::new();
        for ((table, number), (place, _)) in tables.into_iter().zip(&cells) {
            let addition = Variation {
                level: plan.ground.level.clone(),
                rules: sheet.rungs[*place].rules.over(&plan.ground.rules),
                knobs: table.iter().map(|entrant| plan.entrants[*entrant].knobs.clone()).collect(),
            };
            // Rungs are compared: their players meet the same chance, one by one.
            let cell = Cell::of(table, sheet.proof.first_block);
            plan.cells.push(Cell { variation: Some(Box::new(addition)), pairing: number as u64, ..cell });
        }
        plan.rounds = vec![plan.cells.len()];
        Ok((plan, Self { sheet, cells }))
    }
}

fn entrant(name: String, agent: String, knobs: &inkpot_core::Knobs) -> EntrantDraft {
    EntrantDraft { name: Some(name), agent, knobs: knobs.clone(), vary: Vec::new() }
}

/// A problem of an entrant with the entrant's name, since a sheet has no entrants.
fn named(mut problem: Problem, draft: &Draft) -> Problem {
    if let Some(name) = problem.at.item_of("entrant").and_then(|place| draft.entrants.get(place)?.name.clone()) {
        problem.what = format!("`{name}`: {}", problem.what);
    }
    problem
}

/// Checks that a sheet has this format and a known game.
fn foreign(sheet: &Sheet, game: &GameSource, registry: &Registry) -> Vec<Problem> {
    let mut problems = Vec::new();
    if sheet.format != SHEET_FORMAT {
        let what = format!("this sheet has format {}", sheet.format);
        problems.push(Problem::new("format", what, format!("this version reads format {SHEET_FORMAT}")));
    }
    let Ok(game) = registry.find(game) else { return problems };
    for (place, rung) in sheet.rungs.iter().enumerate() {
        for target in &rung.targets {
            if let Err(known) = Figure::find(&target.figure, target.side, game.sheet()) {
                let what = format!("there is no figure `{}`", target.figure);
                problems.push(Problem::new(
                    Place::item("rung", place),
                    what,
                    format!("available: {}", known.join(", ")),
                ));
            }
        }
        for (name, value) in rung.rules.iter() {
            let knob = game.sheet().rules.iter().find(|knob| knob.name == name);
            if knob.is_none_or(|knob| knob.check(value).is_err()) {
                let what = format!("the rules knob `{name}` cannot be {value}");
                let help = knob.map_or("there is no such knob".into(), |knob| format!("it must be {}", knob.allowed()));
                problems.push(Problem::new(Place::item("rung", place), what, help));
            }
        }
    }
    if sheet.rungs.is_empty() {
        problems.push(Problem::new("rung", "this sheet has no rung", "add a [[rung]]"));
    }
    problems
}

/// The reading of the rows for a sheet's targets.
struct ProofReading<'a> {
    proof: &'a Proof,
    tally: FigureTally,
}

impl<'a> ProofReading<'a> {
    fn over(proof: &'a Proof, plan: &Plan, game: &dyn GameEntry) -> Self {
        let sheet = game.sheet();
        let figures = proof.sheet.rungs.iter().map(|rung| rung.targets.iter().map(|target| target.of(sheet)).collect());
        let cells = proof.cells.iter().map(|&(group, weight)| Weighted { group, weight }).collect();
        Self { proof, tally: FigureTally::new(plan, cells, figures.collect(), game) }
    }
}

impl Reading<TuneFinding> for ProofReading<'_> {
    fn take(&mut self, rows: &Rows) {
        self.tally.take(rows);
    }

    fn finish(self: Box<Self>, _sums: &mut Sums) -> TuneFinding {
        let mut sheet = self.proof.sheet.clone();
        for (place, rung) in sheet.rungs.iter_mut().enumerate() {
            for (number, target) in rung.targets.iter_mut().enumerate() {
                target.measured(self.tally.interval(place, number));
            }
        }
        let (met, search_matches) = (sheet.holds(), sheet.proof.search_matches);
        TuneFinding { tune: TuneSummary { met, search_matches, rungs: sheet.rungs } }
    }
}

impl TuneSummary {
    /// Returns the sheet with the proofs.
    pub fn proved(&self, proof: &Proof) -> Sheet {
        Sheet { rungs: self.rungs.clone(), ..proof.sheet.clone() }
    }
}
