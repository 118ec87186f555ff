//! The proof: every rung of a sheet measured on blocks that no search saw.

use inkpot_core::{GameEntry, Registry, Rows};
use inkpot_stats::{BlockRates, Interval, Moments};
use serde::{Deserialize, Serialize};

use super::sheet::{SHEET_FORMAT, SheetMeasured};
use super::trial::figure_mean;
use super::{Figure, Met, Sheet};
use crate::{Cell, Draft, EntrantDraft, Plan, Problem, StudyKind, resolve};

/// What a plan proves.
#[derive(Clone, Debug, PartialEq)]
pub struct Proof {
    /// The sheet.
    pub sheet: Sheet,
    /// Rung and weight of each cell.
    cells: Vec<(usize, f64)>,
}

/// What a proof came to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TuneSummary {
    /// Whether every hard target is met.
    pub met: bool,
    /// Matches of the search, which count for nothing in the figures.
    pub search_matches: u64,
    /// The rungs, each with its values and what was measured.
    pub rungs: Vec<super::SheetRung>,
}

impl Plan {
    /// The plan that measures a sheet. Errs with everything in it that does not fit the game.
    pub fn proving(sheet: &Sheet, registry: &Registry) -> Result<Self, Vec<Problem>> {
        let mut sheet = sheet.clone();
        sheet.rungs.iter_mut().flat_map(|rung| &mut rung.targets).for_each(|target| target.measured = None);
        let mut draft = Draft {
            kind: StudyKind::Batch,
            game: sheet.game.clone(),
            level: Some(sheet.level.clone()),
            seed: Some(sheet.proof.seed),
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
                tables.push(vec![draft.entrants.len(), opponent]);
                draft.entrants.push(entrant(
                    format!("{} on {}{more}", player.agent, rung.name),
                    player.agent.clone(),
                    &player.knobs,
                ));
            }
            draft.entrants.push(entrant(rung.name.clone(), sheet.opponent.agent.clone(), &rung.opponent));
        }
        let mut problems = foreign(&sheet, registry);
        let plan = match resolve(&draft, registry) {
            Ok(plan) => Some(plan),
            Err(more) => {
                problems.extend(more.into_iter().map(|problem| named(problem, &draft)));
                None
            }
        };
        let mut plan = plan.filter(|_| problems.is_empty()).ok_or(problems)?;
        plan.kind = StudyKind::Tune;
        plan.cells = Vec::new();
        for (table, (place, _)) in tables.into_iter().zip(&cells) {
            let mut cell: Cell = plan.cell(table, sheet.proof.first_block);
            cell.setting.rules = sheet.rungs[*place].rules.over(&plan.rules);
            plan.cells.push(cell);
        }
        plan.rounds = vec![plan.cells.len()];
        plan.proof = Some(Proof { sheet, cells });
        Ok(plan)
    }
}

fn entrant(name: String, agent: String, knobs: &inkpot_core::Knobs) -> EntrantDraft {
    EntrantDraft { name: Some(name), agent, knobs: knobs.clone(), vary: Vec::new() }
}

/// A problem of an entrant with the entrant's name, since a sheet has no entrants.
fn named(mut problem: Problem, draft: &Draft) -> Problem {
    let place = problem.at.strip_prefix("entrant[").and_then(|rest| rest.split(']').next()?.parse::<usize>().ok());
    if let Some(name) = place.and_then(|place| draft.entrants.get(place)?.name.clone()) {
        problem.what = format!("`{name}`: {}", problem.what);
    }
    problem
}

/// What in a sheet is of another format or game.
fn foreign(sheet: &Sheet, registry: &Registry) -> Vec<Problem> {
    let mut problems = Vec::new();
    if sheet.format != SHEET_FORMAT {
        let what = format!("this sheet has format {}", sheet.format);
        problems.push(Problem::new("format", what, format!("this version reads format {SHEET_FORMAT}")));
    }
    let Some(game) = registry.game(&sheet.game) else { return problems };
    for (place, rung) in sheet.rungs.iter().enumerate() {
        for target in &rung.targets {
            if let Err(known) = Figure::find(&target.figure, target.side, game.sheet()) {
                let what = format!("there is no figure `{}`", target.figure);
                problems.push(Problem::new(format!("rung[{place}]"), what, format!("there are: {}", known.join(", "))));
            }
        }
        for (name, value) in rung.rules.iter() {
            let knob = game.sheet().rules.iter().find(|knob| knob.name == name);
            if knob.is_none_or(|knob| knob.check(value).is_err()) {
                let what = format!("the rules knob `{name}` cannot be {value}");
                let help = knob.map_or("there is no such knob".into(), |knob| format!("it takes {}", knob.allowed()));
                problems.push(Problem::new(format!("rung[{place}]"), what, help));
            }
        }
    }
    if sheet.rungs.is_empty() {
        problems.push(Problem::new("rung", "this sheet has no rung", "add a [[rung]]"));
    }
    problems
}

/// The figures of a proof, summed up as rows stream by.
pub(crate) struct ProofTally<'a> {
    proof: &'a Proof,
    game: &'a dyn GameEntry,
    /// Where each cell's player has its place in the plan.
    players: Vec<u16>,
    /// Block means by cell and target.
    blocks: Vec<Vec<Vec<f64>>>,
    matches_a_block: usize,
    confidence: f64,
}

impl<'a> ProofTally<'a> {
    pub(crate) fn over(plan: &'a Plan, game: &'a dyn GameEntry) -> Option<Self> {
        let proof = plan.proof.as_ref()?;
        let targets = |&(rung, _): &(usize, f64)| vec![Vec::new(); proof.sheet.rungs[rung].targets.len()];
        Some(Self {
            blocks: proof.cells.iter().map(targets).collect(),
            players: plan.cells.iter().map(|cell| cell.entrants[0] as u16).collect(),
            matches_a_block: plan.matches_a_block() as usize,
            confidence: plan.confidence,
            proof,
            game,
        })
    }

    /// Takes whole blocks in order of cell and block.
    pub(crate) fn take(&mut self, rows: &Rows) {
        let sheet = self.game.sheet();
        let mut start = 0;
        for chunk in rows.rows.chunk_by(|a, b| (a.cell, a.block) == (b.cell, b.block)) {
            let cell = chunk[0].cell as usize;
            let block = Rows {
                rows: chunk.to_vec(),
                measures: rows.measures[start * rows.width..(start + chunk.len()) * rows.width].to_vec(),
                width: rows.width,
            };
            start += chunk.len();
            let (rung, _) = self.proof.cells[cell];
            for (place, target) in self.proof.sheet.rungs[rung].targets.iter().enumerate() {
                let Ok(figure) = Figure::find(&target.figure, target.side, sheet) else { continue };
                let player = self.players[cell];
                let mean = figure_mean(&block, |at, seats| {
                    let own = seats.iter().position(|row| row.entrant == player).unwrap_or(0);
                    figure.of(seats, own, |seat| block.measures_of(at + seat), sheet.ticks_per_second)
                });
                self.blocks[cell][place].push(mean);
            }
        }
    }

    /// What the proof came to.
    pub(crate) fn finish(self) -> TuneSummary {
        let mut sheet = self.proof.sheet.clone();
        for (place, rung) in sheet.rungs.iter_mut().enumerate() {
            for (number, target) in rung.targets.iter_mut().enumerate() {
                let (low, high) = target.ends();
                let seen = self.interval(place, number, target.is_rate());
                target.measured = seen.map(|seen| SheetMeasured {
                    value: seen.value,
                    low: seen.low,
                    high: seen.high,
                    verdict: Met::of(&seen, low, high),
                });
            }
        }
        TuneSummary { met: sheet.holds(), search_matches: sheet.proof.search_matches, rungs: sheet.rungs }
    }

    /// The interval of a target: of one player as in any study, of several by Student's t on the weighted block means.
    fn interval(&self, rung: usize, target: usize, rate: bool) -> Option<Interval> {
        let cells: Vec<usize> = (0..self.proof.cells.len()).filter(|cell| self.proof.cells[*cell].0 == rung).collect();
        if let ([only], true) = (cells.as_slice(), rate) {
            let mut rates = BlockRates::new(self.matches_a_block);
            self.blocks[*only][target].iter().filter(|x| x.is_finite()).for_each(|x| rates.push(*x));
            return rates.interval(self.confidence);
        }
        let mut moments = Moments::default();
        let blocks = cells.iter().map(|cell| self.blocks[*cell][target].len()).min().unwrap_or(0);
        for block in 0..blocks {
            let (mut sum, mut weight) = (0.0, 0.0);
            for cell in &cells {
                let (x, own) = (self.blocks[*cell][target][block], self.proof.cells[*cell].1);
                if x.is_finite() {
                    (sum, weight) = (sum + own * x, weight + own);
                }
            }
            moments.push(sum / weight);
        }
        moments.interval(self.confidence)
    }
}

impl TuneSummary {
    /// The sheet with what was measured.
    pub fn proved(&self, proof: &Proof) -> Sheet {
        Sheet { rungs: self.rungs.clone(), ..proof.sheet.clone() }
    }
}
