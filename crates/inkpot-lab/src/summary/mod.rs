//! What a study came to: read off the stored rows, fresh or old, by the same path.

mod told;

use std::collections::BTreeMap;

use inkpot_core::{GameEntry, Measure, Streams, Wanted};
use inkpot_ledger::{DecisionTime, LedgerError, Manifest, Study};
use inkpot_stats::{BlockRates, Interval};

pub use self::told::*;

use crate::comparison::compared;
use crate::curve::BootstrapDraws;
use crate::notes::notes;
use crate::outcomes::{Pattern, first_seat_share, share};
use crate::points::point_results;
use crate::ranking::rank;
use crate::suspense::suspense;
use crate::tally::{CellTally, EntrantTally, Tally, Times, TimesBy};
use crate::tune::ProofTally;
use crate::watch::Watch;
use crate::{Plan, StudyKind};

/// Name of the measure that is fitted on the study.
const SUSPENSE: &str = "suspense";

/// Sums up the stored rows of a complete study; how long decisions took stands apart, since it differs from run to
/// run.
pub fn summarise(
    study: &Study,
    manifest: &Manifest,
    plan: &Plan,
    game: &dyn GameEntry,
) -> Result<(Summary, Vec<DecisionTime>), LedgerError> {
    let measures = &game.sheet().measures;
    let names: Vec<String> = measures.iter().map(|measure| measure.name.clone()).collect();
    let mut tally = Tally::new(plan, game);
    let mut watch = Watch::over(plan, game);
    let mut proof = ProofTally::over(plan, game);
    study.visit(manifest, &names, |rows| {
        tally.take(rows);
        watch.as_mut().map(|watch| watch.take(rows));
        if let Some(proof) = &mut proof {
            proof.take(rows);
        }
        Ok(())
    })?;
    let (cells, times) = tally.finish();
    let mut summary = Summary {
        study: study.name().into(),
        kind: plan.kind,
        game: plan.game.clone(),
        level: plan.level.clone(),
        seed: plan.seed,
        matches: cells.iter().map(|cell| cell.matches).sum(),
        blocks: cells.iter().map(|cell| cell.blocks).sum(),
        ticks: cells.iter().map(|cell| cell.ticks).sum(),
        confidence: plan.confidence,
        rules: plan.rules.clone(),
        entrants: (0..plan.entrants.len()).map(|place| entrant(plan, &cells, place, measures)).collect(),
        pairings: Vec::new(),
        first_seat: first_seat(plan, &cells),
        endings: BTreeMap::new(),
        voids: cells.iter().map(|cell| cell.voids).sum(),
        points: Vec::new(),
        differences: Vec::new(),
        curve: None,
        solved: None,
        ratings: Vec::new(),
        tournament: None,
        comparison: None,
        people: people(plan, &cells),
        tune: proof.map(ProofTally::finish),
        notes: Vec::new(),
    };
    for (ending, count) in cells.iter().flat_map(|cell| &cell.endings) {
        *summary.endings.entry(ending.clone()).or_default() += count;
    }
    match plan.kind {
        StudyKind::Sweep => point_results(&mut summary, plan, &cells, measures),
        _ => summary.pairings = cells.iter().flat_map(|cell| pairings(plan, cell)).collect(),
    }
    add_suspense(&mut summary, plan, game);
    rank(&mut summary, plan, &cells, game);
    summary.comparison = watch.and_then(|watch| compared(plan, watch, summary.matches));
    summary.notes = notes(&summary, plan, &cells, game);
    Ok((summary, decision_times(plan, &times)))
}

/// Measure intervals by name.
pub(crate) fn measured(tally: &EntrantTally, measures: &[Measure], confidence: f64) -> BTreeMap<String, Interval> {
    let intervals = measures.iter().zip(&tally.measures);
    intervals.filter_map(|(measure, moments)| Some((measure.name.clone(), moments.interval(confidence)?))).collect()
}

fn entrant(plan: &Plan, cells: &[CellTally], place: usize, measures: &[Measure]) -> EntrantSummary {
    let playing: Vec<&CellTally> =
        cells.iter().filter(|cell| cell.entrants.iter().any(|own| own.place == place)).collect();
    let own: Vec<&EntrantTally> =
        playing.iter().flat_map(|cell| &cell.entrants).filter(|tally| tally.place == place).collect();
    let asked = &plan.entrants[place];
    let total = |count: fn(&EntrantTally) -> u64| own.iter().map(|tally| count(tally)).sum();
    let by_cell: Vec<BTreeMap<String, Interval>> =
        own.iter().map(|tally| measured(tally, measures, plan.confidence)).collect();
    let over_cells = |name: &str| average(by_cell.iter().filter_map(|measured| measured.get(name)));
    EntrantSummary {
        name: asked.name.clone(),
        agent: asked.agent.clone(),
        knobs: asked.knobs.clone(),
        matches: own.iter().map(|tally| tally.wins + tally.draws + tally.losses).sum(),
        wins: total(|tally| tally.wins),
        draws: total(|tally| tally.draws),
        losses: total(|tally| tally.losses),
        win_rate: joint_rate(plan, place, &playing).interval(plan.confidence),
        score: average(own.iter().filter_map(|tally| tally.score.interval(plan.confidence)).collect::<Vec<_>>().iter()),
        faults: total(|tally| tally.faults),
        nodes: searched(average(
            own.iter().filter_map(|tally| tally.nodes.interval(plan.confidence)).collect::<Vec<_>>().iter(),
        )),
        measures: measures.iter().filter_map(|m| Some((m.name.clone(), over_cells(&m.name)?))).collect(),
    }
}

/// How differently people fare, cell by cell.
fn people(plan: &Plan, cells: &[CellTally]) -> Vec<PeopleSummary> {
    // A block number that no study reaches, and no other bootstrap uses.
    let mut draws = BootstrapDraws(Streams::of_study(plan.seed).order(u64::MAX - 1));
    let mut all = Vec::new();
    for (cell, tally) in plan.cells.iter().zip(cells) {
        for own in &tally.entrants {
            let Some(people) = &own.people else { continue };
            let Some(seen) = people.seen(plan.confidence, &mut draws) else { continue };
            let others = tally.entrants.iter().filter(|other| other.place != own.place);
            let names: Vec<&str> = others.map(|other| plan.entrants[other.place].name.as_str()).collect();
            all.push(PeopleSummary {
                name: plan.entrants[own.place].name.clone(),
                against: names.join(", "),
                point: if plan.vary.is_empty() { String::new() } else { plan.cell_name(cell) },
                people: people.count() as u64,
                matches: plan.matches_a_block(),
                seen,
            });
        }
    }
    all
}

/// Adds suspense to the measures of entrants and points.
fn add_suspense(summary: &mut Summary, plan: &Plan, game: &dyn GameEntry) {
    let by_cell = suspense(plan, game, plan.blocks);
    for (place, entrant) in summary.entrants.iter_mut().enumerate() {
        let own = plan.cells.iter().zip(&by_cell).filter(|(cell, _)| cell.entrants.contains(&place));
        let seen: Vec<Interval> = own.filter_map(|(_, seen)| *seen).collect();
        entrant.measures.extend(average(seen.iter()).map(|seen| (SUSPENSE.to_string(), seen)));
    }
    for (point, seen) in summary.points.iter_mut().zip(&by_cell) {
        point.measures.extend(seen.map(|seen| (SUSPENSE.to_string(), seen)));
    }
}

/// The measures of a game, and those that are read off a whole study.
pub fn told_measures(game: &dyn GameEntry) -> Vec<Measure> {
    let help = "how undecided it was over time, by a model fitted on the study: 0 decided, 1 even throughout";
    let suspense = Measure::of_match(SUSPENSE, "Suspense", "", help).wanted(Wanted::More);
    game.sheet().measures.iter().cloned().chain([suspense]).collect()
}

/// States advanced, of an agent that searches.
pub(crate) fn searched(nodes: Option<Interval>) -> Option<Interval> {
    nodes.filter(|nodes| nodes.value > 0.0)
}

/// How long decisions took: by entrant over all it played, and by point of a sweep.
fn decision_times(plan: &Plan, times: &TimesBy) -> Vec<DecisionTime> {
    let told = |place: usize, point: Option<String>, times: &Times| {
        Some(DecisionTime {
            entrant: plan.entrants[place].name.clone(),
            point,
            decisions: times.each.count(),
            mean_us: times.mean_us()?,
            p95_us: times.each.quantile(0.95),
            p99_us: times.each.quantile(0.99),
        })
    };
    let whole = (0..plan.entrants.len()).filter_map(|place| {
        let mut all = Times::default();
        times.iter().filter(|((_, own), _)| *own == place).for_each(|(_, own)| all.merge(own));
        told(place, None, &all)
    });
    let sweep = plan.kind == StudyKind::Sweep;
    let points = times.iter().filter(|_| sweep);
    let points = points.filter_map(|((cell, place), own)| told(*place, Some(plan.cell_name(&plan.cells[*cell])), own));
    whole.chain(points).collect()
}

/// Points share over all cells of an entrant.
fn joint_rate(plan: &Plan, place: usize, cells: &[&CellTally]) -> BlockRates {
    let index = |cell: &CellTally| cell.entrants.iter().position(|own| own.place == place).unwrap_or(0);
    match cells {
        [only] => only.entrants[index(only)].rates,
        _ => joint(plan, cells, |cell, pattern| share(pattern, index(cell))),
    }
}

/// Points share of the first seat over all cells.
fn first_seat(plan: &Plan, cells: &[CellTally]) -> Option<Interval> {
    if plan.seats() < 2 {
        return None;
    }
    let all: Vec<&CellTally> = cells.iter().collect();
    let rates = match all.as_slice() {
        [only] => only.first_seat,
        _ => joint(plan, &all, |_, pattern| first_seat_share(pattern)),
    };
    rates.interval(plan.confidence)
}

/// A share over several cells. A block counts once, with the mean of its cells, since these share its chance: cells
/// that begin at one block share all of them, those of different rounds share none.
fn joint(plan: &Plan, cells: &[&CellTally], share: impl Fn(&CellTally, &Pattern) -> f64) -> BlockRates {
    let together = cells.chunk_by(|a, b| a.first_block == b.first_block);
    let widest = together.clone().map(<[_]>::len).max().unwrap_or(1);
    let mut rates = BlockRates::new(plan.matches_a_block() as usize * widest);
    for cells in together {
        let mut sums: Vec<(f64, f64)> = Vec::new();
        for cell in cells {
            let shares = cell.outcomes.iter().flat_map(|outcomes| outcomes.each(&|pattern| share(cell, pattern)));
            for (block, share) in shares.enumerate() {
                if sums.len() <= block {
                    sums.push((0.0, 0.0));
                }
                if share.is_finite() {
                    sums[block] = (sums[block].0 + share, sums[block].1 + 1.0);
                }
            }
        }
        sums.into_iter().filter(|(_, cells)| *cells > 0.0).for_each(|(sum, cells)| rates.push(sum / cells));
    }
    rates
}

/// The mean of several intervals with their mean margin: it holds however the cells, which share their blocks, are
/// correlated.
fn average<'a>(intervals: impl Iterator<Item = &'a Interval>) -> Option<Interval> {
    let (mut n, mut sum) = (0.0, [0.0; 3]);
    for interval in intervals {
        n += 1.0;
        sum = [sum[0] + interval.value, sum[1] + interval.low, sum[2] + interval.high];
    }
    (n > 0.0).then(|| Interval { value: sum[0] / n, low: sum[1] / n, high: sum[2] / n })
}

fn pairings(plan: &Plan, cell: &CellTally) -> Vec<PairingSummary> {
    let name = |tally: &EntrantTally| plan.entrants[tally.place].name.clone();
    let [a, b] = cell.entrants.as_slice() else { return Vec::new() };
    vec![PairingSummary {
        a: name(a),
        b: name(b),
        matches: cell.matches,
        wins: a.wins,
        draws: a.draws,
        losses: a.losses,
        win_rate: a.rates.interval(plan.confidence),
        expected: None,
        stronger: None,
    }]
}
