//! Ranking a field off the outcomes of its tables.

use std::collections::BTreeMap;

use inkpot_core::{GameEntry, KnobValue};
use inkpot_stats::{BlockRates, Cycles, FieldSize, Interval, Meeting, Pair, Ratings, cycles, holm};

use super::asked::{Format, Tournament};
use super::finding::{
    CirclesSummary, ProgressSummary, RatingSummary, ResidualSummary, RoundSummary, TableSummary, TournamentFinding,
    TournamentSummary,
};
use crate::kind::Sums;
use crate::outcomes::{Pattern, placement};
use crate::standing::Played;
use crate::tally::CellTally;
use crate::{PairingSummary, Plan};

/// Circles that are named, and pairs that ratings describe worst.
const NAMED: usize = 5;
const WORST: usize = 10;
/// Rounds at which ratings are taken again, at most.
const LOOKS: usize = 24;
/// Entrants fitted over all these looks, at most: of large fields fewer looks are taken.
const FITTED: usize = 8000;

/// Builds the finding of a tournament and adds the ratings' expectations to each pairing.
pub(super) fn rank(tournament: &Tournament, sums: &mut Sums) -> TournamentFinding {
    let (plan, cells) = (sums.plan, sums.cells);
    let played = tables(plan, cells);
    let size = size(plan, cells);
    let fitted = Ratings::fit(size, || meetings(plan, cells, usize::MAX));
    let anchor = tournament.anchor;
    let rating = |fitted: &Ratings, place: usize| fitted.rating(place, anchor, plan.ground.confidence);
    let (mut met, records) = pairs(plan, cells);
    let mut circles = Cycles { count: 0, by_chance: 0.0, threes: 0, clearest: Vec::new() };
    let mut residuals = Vec::new();
    if let Some(fitted) = &fitted {
        for pair in &mut met {
            pair.expected = fitted.expected(pair.a, pair.b);
        }
        circles = cycles(size.entrants, &met, plan.ground.confidence, NAMED);
        residuals = worst(&met, plan);
        mark(&mut sums.pairings, &met, &records, fitted, plan);
    }
    let mut order: Vec<usize> = (0..size.entrants).collect();
    let value = |place: usize| fitted.as_ref().map_or(f64::NEG_INFINITY, |fitted| fitted.strength(place));
    order.sort_by(|a, b| value(*b).total_cmp(&value(*a)));
    let placements = (tournament.format == Format::Knockout).then(|| placements(plan, &played));
    if let Some(placements) = &placements {
        order.sort_by_key(|place| placements[*place]);
    }
    let ratings = order
        .iter()
        .enumerate()
        .map(|(index, &place)| RatingSummary {
            name: plan.entrants[place].name.clone(),
            rating: fitted.as_ref().and_then(|fitted| rating(fitted, place)),
            points_share: sums.entrants[place].win_rate.map(|rate| rate.value),
            stronger_than_next: order.get(index + 1).and_then(|next| fitted.as_ref()?.stronger(place, *next)),
            above_next: order
                .get(index + 1)
                .and_then(|next| fitted.as_ref()?.difference(place, *next, plan.ground.confidence)),
            budget: budget(plan, place, sums.game),
            placement: placements.as_ref().map(|placements| placements[place]),
        })
        .collect();
    let name = |place: usize| plan.entrants[place].name.clone();
    let summary = TournamentSummary {
        format: tournament.format,
        anchor: anchor.map(name),
        rounds: if tournament.format == Format::RoundRobin { Vec::new() } else { rounds(tournament, plan, &played) },
        first_seat: fitted.as_ref().and_then(|fitted| fitted.seat(0, plan.ground.confidence)).map(|seat| {
            // Above the mean of the others, not above that of all.
            let factor = size.seats as f64 / (size.seats as f64 - 1.0);
            Interval { value: seat.value * factor, low: seat.low * factor, high: seat.high * factor }
        }),
        groups: fitted.as_ref().map_or(0, Ratings::groups),
        circles: CirclesSummary {
            count: circles.count,
            by_chance: circles.by_chance,
            p: circles.p(),
            threes: circles.threes,
            clearest: circles.clearest.iter().map(|three| three.iter().map(|place| name(*place)).collect()).collect(),
        },
        residuals,
        progress: progress(tournament, plan, cells),
    };
    TournamentFinding { ratings, tournament: summary }
}

/// Returns the size of the field and of its chance.
fn size(plan: &Plan, cells: &[CellTally]) -> FieldSize {
    let blocks = cells.iter().map(|cell| cell.first_block + plan.blocks).max().unwrap_or(0) as usize;
    FieldSize { entrants: plan.entrants.len(), seats: plan.seats() as usize, blocks }
}

/// Every pair of seats of every match of the first this many cells.
fn meetings<'a>(plan: &'a Plan, cells: &'a [CellTally], first: usize) -> impl Iterator<Item = Meeting> + 'a {
    plan.cells.iter().zip(cells).take(first).flat_map(|(cell, tally)| {
        let blocks = tally.outcomes.iter().flat_map(|outcomes| (0..outcomes.len()).map(move |block| (block, outcomes)));
        let first_block = tally.first_block as usize;
        blocks
            .filter_map(|(block, outcomes)| Some((block, outcomes.get(block)?)))
            .flat_map(move |(block, pattern)| meetings_of(pattern, &cell.entrants, first_block + block))
    })
}

/// Every pair of seats of every match of a block between these.
pub(crate) fn meetings_of<'a>(
    pattern: Pattern<'a>,
    entrants: &'a [usize],
    block: usize,
) -> impl Iterator<Item = Meeting> + 'a {
    pattern.matches().flat_map(move |seats| {
        (0..seats.len()).flat_map(move |i| (i + 1..seats.len()).map(move |j| (i, j))).map(move |(i, j)| {
            let (one, other) = (seats[i], seats[j]);
            Meeting {
                block,
                first: (entrants[usize::from(one.0)], i),
                second: (entrants[usize::from(other.0)], j),
                halves: match one.1.cmp(&other.1) {
                    std::cmp::Ordering::Less => 2,
                    std::cmp::Ordering::Equal => 1,
                    std::cmp::Ordering::Greater => 0,
                },
            }
        })
    })
}

/// Blocks in which the first of two was placed before, beside and after the second.
type Record = [u64; 3];

/// Returns the pairs that met, with the first's share against the second.
fn pairs(plan: &Plan, cells: &[CellTally]) -> (Vec<Pair>, Vec<Record>) {
    let seats = plan.seats() as usize;
    let mut met: BTreeMap<(usize, usize), (BlockRates, Record)> = BTreeMap::new();
    for (cell, tally) in plan.cells.iter().zip(cells) {
        for i in 0..cell.entrants.len() {
            for j in i + 1..cell.entrants.len() {
                let (a, b) = (cell.entrants[i], cell.entrants[j]);
                let (a, b, i, j) = if a < b { (a, b, i, j) } else { (b, a, j, i) };
                let (rate, record) = met.entry((a, b)).or_insert_with(|| (BlockRates::new(seats), [0; 3]));
                let outcomes = tally.outcomes.iter();
                let blocks = outcomes.flat_map(|outcomes| (0..outcomes.len()).filter_map(|block| outcomes.get(block)));
                for pattern in blocks {
                    rate.push(pattern.share_against(i, j));
                    count(record, pattern, i, j);
                }
            }
        }
    }
    let of = |((a, b), (rate, record)): ((usize, usize), (BlockRates, Record))| {
        Some((Pair { a, b, share: rate.interval(plan.ground.confidence)?, expected: 0.5 }, record))
    };
    met.into_iter().filter_map(of).unzip()
}

/// Counts the matches of a block for one against another.
fn count(record: &mut Record, pattern: Pattern, first: usize, other: usize) {
    for seats in pattern.matches() {
        if let [Some(placement), Some(others)] = [first, other].map(|who| placement(seats, who)) {
            record[(placement.cmp(&others) as i8 + 1) as usize] += 1;
        }
    }
}

fn worst(met: &[Pair], plan: &Plan) -> Vec<ResidualSummary> {
    let adjusted = holm(&met.iter().map(|pair| pair.misfit_p(plan.ground.confidence)).collect::<Vec<_>>());
    let mut all: Vec<(&Pair, f64)> = met.iter().zip(adjusted).collect();
    let size = |pair: &Pair| (pair.share.value - pair.expected).abs() / pair.share.half_width().max(1e-9);
    all.sort_by(|a, b| size(b.0).total_cmp(&size(a.0)));
    let difference = |(pair, p_adjusted): (&Pair, f64)| {
        // Seen from the one that does better than its rating.
        let turned = pair.share.value < pair.expected;
        let (a, b) = if turned { (pair.b, pair.a) } else { (pair.a, pair.b) };
        ResidualSummary {
            a: plan.entrants[a].name.clone(),
            b: plan.entrants[b].name.clone(),
            share: if turned { pair.share.complement() } else { pair.share },
            expected: if turned { 1.0 - pair.expected } else { pair.expected },
            p_adjusted,
        }
    };
    all.into_iter().take(WORST).map(difference).collect()
}

/// Adds the ratings' expectations to each pairing; at tables of three and more it builds the pairings.
fn mark(pairings: &mut Vec<PairingSummary>, met: &[Pair], records: &[Record], fitted: &Ratings, plan: &Plan) {
    let name = |place: usize| plan.entrants[place].name.as_str();
    if plan.seats() > 2 {
        *pairings = met
            .iter()
            .zip(records)
            .map(|(pair, &[wins, draws, losses])| PairingSummary {
                a: name(pair.a).into(),
                b: name(pair.b).into(),
                matches: wins + draws + losses,
                wins,
                draws,
                losses,
                win_rate: Some(pair.share),
                ..PairingSummary::default()
            })
            .collect();
    }
    let places: BTreeMap<&str, usize> =
        plan.entrants.iter().enumerate().map(|(place, entrant)| (entrant.name.as_str(), place)).collect();
    for pairing in pairings {
        if let (Some(&a), Some(&b)) = (places.get(pairing.a.as_str()), places.get(pairing.b.as_str())) {
            pairing.expected = Some(fitted.expected(a, b));
            pairing.stronger = fitted.stronger(a, b);
        }
    }
}

/// Tables as the draw saw them.
fn tables(plan: &Plan, cells: &[CellTally]) -> Vec<Played> {
    plan.cells
        .iter()
        .zip(cells)
        .map(|(cell, tally)| Played {
            entrants: cell.entrants.clone(),
            points: tally.entrants.iter().map(|entrant| entrant.points / entrant.matches().max(1.0)).collect(),
            blocks_won: tally.entrants.iter().map(|entrant| entrant.blocks_won).collect(),
            score: tally.entrants.iter().map(|entrant| entrant.score_sum).collect(),
        })
        .collect()
}

fn rounds(tournament: &Tournament, plan: &Plan, played: &[Played]) -> Vec<RoundSummary> {
    let name = |place: &usize| plan.entrants[*place].name.clone();
    let knockout = tournament.format == Format::Knockout;
    let mut out: Vec<usize> = Vec::new();
    let mut rest = played;
    let mut rounds = Vec::new();
    for tables in &plan.rounds {
        let (round, after) = rest.split_at((*tables).min(rest.len()));
        rest = after;
        let seated = |place: &usize| round.iter().any(|table| table.entrants.contains(place));
        let sitting_out =
            (0..plan.entrants.len()).filter(|place| !seated(place) && !out.contains(place)).map(|place| name(&place));
        let sitting_out = sitting_out.collect();
        let tables = round
            .iter()
            .map(|table| TableSummary {
                entrants: table.entrants.iter().map(name).collect(),
                points: table.points.clone(),
                through: knockout.then(|| name(&table.winner())),
                by_seed: knockout && table.by_seed(),
            })
            .collect();
        if knockout {
            out.extend(round.iter().flat_map(|table| table.entrants.iter().filter(|who| **who != table.winner())));
        }
        rounds.push(RoundSummary { tables, sitting_out });
    }
    rounds
}

/// Returns the placements of a knockout: 1 won, 2 lost the last round, and so on.
fn placements(plan: &Plan, played: &[Played]) -> Vec<usize> {
    let mut placements = vec![1; plan.entrants.len()];
    for (cell, table) in played.iter().enumerate() {
        let back = plan.rounds.len() - plan.round_of(cell);
        let losers = table.entrants.iter().filter(|who| **who != table.winner());
        losers.for_each(|who| placements[*who] = back + 1);
    }
    placements
}

fn progress(tournament: &Tournament, plan: &Plan, cells: &[CellTally]) -> Vec<ProgressSummary> {
    let rounds = plan.rounds.len();
    if rounds < 2 {
        return Vec::new();
    }
    let looks = rounds.min(LOOKS).min((FITTED / plan.entrants.len()).max(2));
    let anchor = tournament.anchor;
    (1..=looks)
        .map(|look| look * rounds / looks)
        .map(|round| {
            let first: usize = plan.rounds[..round].iter().sum();
            let fitted = Ratings::fit(size(plan, &cells[..first.min(cells.len())]), || meetings(plan, cells, first));
            let rating = |place: usize| fitted.as_ref()?.rating(place, anchor, plan.ground.confidence);
            ProgressSummary { round, ratings: (0..plan.entrants.len()).map(rating).collect() }
        })
        .collect()
}

fn budget(plan: &Plan, place: usize, game: &dyn GameEntry) -> Option<String> {
    let entrant = &plan.entrants[place];
    let sheet = game.agent(&entrant.kind)?;
    let (knob, value): (&str, &KnobValue) = entrant.knobs.in_force("budget", &sheet.knobs)?;
    Some(format!("{knob} {value}"))
}
