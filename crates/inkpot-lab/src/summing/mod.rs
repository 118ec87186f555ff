//! Sums up a study from its stored rows, fresh or old, by the same path.

pub(crate) mod measured;

use std::collections::BTreeMap;

use inkpot_core::{GameEntry, Measure, Rows, Streams, Wanted};
use inkpot_ledger::{DecisionTime, LedgerError, Manifest, Study};
use inkpot_stats::{BlockRates, Interval, Mean, Moments};

use self::measured::{SUSPENSE, measured, searched};
use crate::chance::BootstrapDraws;
use crate::kind::{About, Finds, Kind, Sums};
use crate::notes::notes;
use crate::outcomes::Pattern;
use crate::stored_rows::visit_rows;
use crate::tally::{CellTally, EntrantTally, Keeping, Tally, Times, TimesBy};
use crate::{EntrantSummary, PairingSummary, PeopleSummary, Plan, Summary};

/// The common summary, the finding of its kind, and decision times, which are separate since they differ from run to
/// run.
pub(crate) type SummedUp<F> = (Summary, F, Vec<DecisionTime>);

/// Sums up the stored rows of a complete study of this kind.
pub(crate) fn summed_up<K: Finds>(
    kind: &K,
    study: &Study,
    manifest: &Manifest,
    plan: &Plan,
    game: &dyn GameEntry,
) -> Result<SummedUp<K::Finding>, LedgerError> {
    let mut reading = kind.reading(plan, game);
    let (cells, times) = read(kind, study, manifest, plan, game, &mut |rows| reading.take(rows))?;
    let suspense: Vec<Option<Interval>> = cells.iter().map(|cell| cell.suspense(plan.ground.confidence)).collect();
    let mut summary = summary(kind, plan, &cells, &suspense, game);
    let pairings = std::mem::take(&mut summary.pairings);
    let mut sums = Sums { plan, game, cells: &cells, suspense: &suspense, entrants: &summary.entrants, pairings };
    let found = reading.finish(&mut sums);
    summary.pairings = sums.pairings;
    kind.amend(&found, &mut summary);
    let caveats = kind.notes(&found, &About { summary: &summary, plan, game });
    summary.notes = notes(&summary, plan, &cells, kind, (caveats, kind.stopped_early(&found)));
    Ok((summary, found, decision_times(kind, plan, &times)))
}

/// Reads the rows of a study into tallies, and shows each part to `take`.
fn read(
    kind: &dyn Kind,
    study: &Study,
    manifest: &Manifest,
    plan: &Plan,
    game: &dyn GameEntry,
    take: &mut dyn FnMut(&Rows),
) -> Result<(Vec<CellTally>, TimesBy), LedgerError> {
    let keeping = Keeping { outcomes: kind.compares_blocks(plan), times_by_cell: kind.times_by_cell() };
    let mut tally = Tally::new(plan, game, keeping);
    visit_rows(study, manifest, plan, &game.measure_names(), |rows| {
        tally.take(rows);
        take(rows);
        Ok(())
    })?;
    Ok(tally.finish())
}

/// Builds the common summary, without notes.
fn summary(
    kind: &dyn Kind,
    plan: &Plan,
    cells: &[CellTally],
    suspense: &[Option<Interval>],
    game: &dyn GameEntry,
) -> Summary {
    let measures = &game.sheet().measures;
    let total = |count: fn(&CellTally) -> u64| cells.iter().map(count).sum();
    let mut endings: BTreeMap<String, u64> = BTreeMap::new();
    for (ending, count) in cells.iter().flat_map(|cell| &cell.endings) {
        *endings.entry(ending.clone()).or_default() += count;
    }
    let ground = &plan.ground;
    Summary {
        game: ground.game.to_string(),
        level: ground.level.to_string(),
        seed: ground.seed,
        matches: total(|cell| cell.matches),
        blocks: total(|cell| cell.blocks),
        series: ground.series,
        ticks: total(|cell| cell.ticks),
        confidence: ground.confidence,
        rules: ground.rules.clone(),
        pairings: cells.iter().flat_map(|cell| pairings(plan, cell)).collect(),
        first_seat: first_seat(plan, cells),
        endings,
        voids: total(|cell| cell.voids),
        people: people(kind, plan, cells),
        notes: Vec::new(),
        entrants: (0..plan.entrants.len()).map(|place| entrant(plan, cells, place, measures, suspense)).collect(),
    }
}

fn entrant(
    plan: &Plan,
    cells: &[CellTally],
    place: usize,
    measures: &[Measure],
    suspense: &[Option<Interval>],
) -> EntrantSummary {
    let playing: Vec<&CellTally> =
        cells.iter().filter(|cell| cell.entrants.iter().any(|entrant| entrant.place == place)).collect();
    let tallies: Vec<&EntrantTally> =
        playing.iter().flat_map(|cell| &cell.entrants).filter(|tally| tally.place == place).collect();
    let entrant = &plan.entrants[place];
    let total = |count: fn(&EntrantTally) -> u64| tallies.iter().map(|tally| count(tally)).sum();
    let by_cell: Vec<BTreeMap<String, Mean>> =
        tallies.iter().map(|tally| measured(tally, measures, plan.ground.confidence)).collect();
    let over_cells = |name: &str| average(by_cell.iter().filter_map(|measured| measured.get(name)).copied());
    let over_own = |of: fn(&EntrantTally) -> &Moments| {
        average(tallies.iter().filter_map(|tally| of(tally).estimate(plan.ground.confidence)))
    };
    let undecided = plan.cells.iter().zip(suspense).filter(|(cell, _)| cell.entrants.contains(&place));
    let undecided = undecided.filter_map(|(_, mean)| *mean).map(Mean::from);
    let undecided = average(undecided).map(|mean| (SUSPENSE.to_string(), mean));
    let (alone, success) = (plan.seats() == 1, measures.iter().find(|measure| measure.success));
    EntrantSummary {
        name: entrant.name.clone(),
        agent: entrant.agent.clone(),
        knobs: entrant.knobs.without_bytes(),
        matches: tallies.iter().map(|tally| tally.wins + tally.draws + tally.losses).sum(),
        wins: total(|tally| tally.wins),
        draws: total(|tally| tally.draws),
        losses: total(|tally| tally.losses),
        win_rate: (!alone).then(|| joint_rate(plan, place, &playing).interval(plan.ground.confidence)).flatten(),
        success: success.filter(|_| alone).and_then(|success| over_cells(&success.name)?.interval()),
        score: over_own(|tally| &tally.score),
        faults: total(|tally| tally.faults),
        late: total(|tally| tally.late),
        crashed: total(|tally| tally.crashed),
        nodes: searched(over_own(|tally| &tally.nodes)),
        measures: measures
            .iter()
            .filter_map(|m| Some((m.name.clone(), over_cells(&m.name)?)))
            .chain(undecided)
            .collect(),
    }
}

/// Returns the differences between people, cell by cell.
fn people(kind: &dyn Kind, plan: &Plan, cells: &[CellTally]) -> Vec<PeopleSummary> {
    // A block number that no study reaches, and no other bootstrap uses.
    let mut draws = BootstrapDraws(Streams::of_study(plan.ground.seed).order(u64::MAX - 1));
    let mut all = Vec::new();
    for (cell, tally) in plan.cells.iter().zip(cells) {
        for entrant in &tally.entrants {
            let Some(people) = &entrant.people else { continue };
            let Some(figures) = people.figures(plan.ground.confidence, &mut draws) else { continue };
            let others = tally.entrants.iter().filter(|other| other.place != entrant.place);
            let names: Vec<&str> = others.map(|other| plan.entrants[other.place].name.as_str()).collect();
            all.push(PeopleSummary {
                name: plan.entrants[entrant.place].name.clone(),
                against: names.join(", "),
                point: if cell.point.is_empty() { String::new() } else { kind.cell_name(plan, cell) },
                people: people.count() as u64,
                matches: plan.matches_a_block(),
                figures,
            });
        }
    }
    all
}

/// The measures of a game, and those that are read off a whole study.
pub fn told_measures(game: &dyn GameEntry) -> Vec<Measure> {
    let help = "how undecided it was over time, by a model fitted on the study: 0 decided, 1 even throughout";
    let suspense = Measure::of_match(SUSPENSE, "Suspense", "", help).wanted(Wanted::More);
    game.sheet().measures.iter().cloned().chain([suspense]).collect()
}

/// Returns decision times: by entrant over all its matches, and by point of a sweep.
fn decision_times(kind: &dyn Kind, plan: &Plan, times: &TimesBy) -> Vec<DecisionTime> {
    let cost = |place: usize, point: Option<String>, times: &Times| {
        Some(DecisionTime {
            entrant: plan.entrants[place].name.clone(),
            point,
            decisions: times.each.count(),
            mean_us: times.mean_us()?,
            p50_us: times.each.quantile(0.5),
            p95_us: times.each.quantile(0.95),
            p99_us: times.each.quantile(0.99),
        })
    };
    let whole = (0..plan.entrants.len()).filter_map(|place| {
        let mut all = Times::default();
        times.iter().filter(|((_, times), _)| *times == place).for_each(|(_, times)| all.merge(times));
        cost(place, None, &all)
    });
    let points = times.iter().filter(|_| kind.times_by_cell());
    let named = |cell: usize| Some(kind.cell_name(plan, &plan.cells[cell]));
    let points = points.filter_map(|((cell, place), row)| cost(*place, named(*cell), row));
    whole.chain(points).collect()
}

/// Points share over all cells of an entrant.
fn joint_rate(plan: &Plan, place: usize, cells: &[&CellTally]) -> BlockRates {
    let index = |cell: &CellTally| cell.entrants.iter().position(|entrant| entrant.place == place).unwrap_or(0);
    match cells {
        [only] => only.entrants[index(only)].rates,
        _ => joint(plan, cells, |cell, pattern| pattern.share(index(cell))),
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
        _ => joint(plan, &all, |_, pattern| pattern.first_seat_share()),
    };
    rates.interval(plan.ground.confidence)
}

/// A share over several cells. A block counts once, with the mean of its cells, since these share its chance: cells
/// that begin at one block share all of them, those of different rounds share none.
fn joint(plan: &Plan, cells: &[&CellTally], share: impl Fn(&CellTally, Pattern) -> f64) -> BlockRates {
    let decided = cells.iter().all(|cell| cell.is_decided());
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
    if decided {
        rates.decide();
    }
    rates
}

/// The mean of several means with their mean margin: it holds however the cells, which share their blocks, are
/// correlated. Without an interval where one of them has none.
fn average(means: impl Iterator<Item = Mean>) -> Option<Mean> {
    let all: Vec<Mean> = means.collect();
    let mean = |of: fn(&Mean) -> Option<f64>| {
        let sum: Option<f64> = all.iter().map(of).sum();
        sum.map(|sum| sum / all.len() as f64)
    };
    let value = mean(|estimate| Some(estimate.value)).filter(|_| !all.is_empty())?;
    Some(Mean {
        value,
        low: mean(|figure| figure.low),
        high: mean(|figure| figure.high),
        alike: all.iter().all(|all| all.alike),
    })
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
        win_rate: a.rates.interval(plan.ground.confidence),
        expected: None,
        stronger: None,
    }]
}
