//! Two stored entrants compared as they stand.

use std::collections::{BTreeMap, BTreeSet};

use inkpot_core::{GameEntry, Rows};
use inkpot_ledger::{LedgerError, Manifest, Study};
use inkpot_stats::{BlockRates, Interval, Moments, paired_difference, unpaired_difference};
use thiserror::Error;

use super::asked::Requirement;
use super::comparison::ComparisonSummary;
use crate::course::{Course, print_of};
use crate::stored_rows::visit_rows;
use crate::{Cell, Entrant, Plan};

/// An entrant of a stored study.
#[derive(Clone, Copy)]
#[expect(missing_docs, reason = "the study, its manifest and plan, and the entrant's place in it")]
pub struct Stored<'a> {
    pub study: &'a Study,
    pub manifest: &'a Manifest,
    pub plan: &'a Plan,
    pub place: usize,
}

/// An error: the two stored entrants cannot be compared.
#[derive(Debug, Error)]
#[expect(missing_docs, reason = "the texts say it")]
pub enum StoredError {
    #[error("`{a}` and `{b}` were not played at the same game, level and rules")]
    Rules { a: String, b: String },
    #[error("`{a}` and `{b}` have no opponent in common")]
    NobodyInCommon { a: String, b: String },
    #[error("`{a}` is compared with itself")]
    Same { a: String },
    #[error("`{study}` is a sweep: its entrants differ from point to point")]
    Sweep { study: String },
    #[error(transparent)]
    Ledger(#[from] LedgerError),
}

/// The other entrants of a table, by agent and knobs rather than label.
type Opponents = Vec<String>;

/// Points shares by block, counted from the first of its table, and of how many blocks.
type ByBlock = BTreeMap<u64, (f64, u64)>;

/// An entrant's results at one kind of table.
#[derive(Default)]
struct Fared {
    blocks: ByBlock,
    /// First blocks of the tables of this kind: several where opponents are alike but for their labels.
    begins: BTreeSet<u64>,
    courses: BTreeMap<usize, Course>,
}

/// An entrant's results, by the others at its table.
type Shares = BTreeMap<Opponents, Fared>;

/// Compares two stored entrants: their win rate against each other where they met in one study, else their results
/// against the opponents that both met, paired by block where the studies share their chance (same seed, same blocks
/// against each opponent), else as two samples.
pub fn compare_stored(
    a: Stored,
    b: Stored,
    game: &dyn GameEntry,
    (equal_within, require): (Option<f64>, Option<Requirement>),
) -> Result<ComparisonSummary, StoredError> {
    let name = |side: Stored| format!("{}/{}", side.study.name(), side.plan.entrants[side.place].name);
    for side in [a, b] {
        if side.plan.cells.iter().any(|cell| !cell.point.is_empty()) {
            return Err(StoredError::Sweep { study: side.study.name().into() });
        }
    }
    if !a.plan.same_setting(b.plan) {
        return Err(StoredError::Rules { a: name(a), b: name(b) });
    }
    if a.study.name() == b.study.name() && a.place == b.place {
        return Err(StoredError::Same { a: name(a) });
    }
    let mut comparison = ComparisonSummary::begun(name(a), name(b), equal_within, require);
    if let Some(rates) = head_to_head(a, b, game)? {
        comparison.conclude(rates.interval(a.plan.ground.confidence), true);
        (comparison.blocks, comparison.matches) = (rates.blocks(), rates.blocks() * a.plan.matches_a_block());
        return Ok(comparison);
    }
    let (ours, other) = (shares(a, game)?, shares(b, game)?);
    let common: Vec<&Opponents> = ours.keys().filter(|table| other.contains_key(*table)).collect();
    if common.is_empty() {
        return Err(StoredError::NobodyInCommon { a: name(a), b: name(b) });
    }
    comparison.against = names(a, &common);
    let (mut x, mut y) = (by_block(&ours, &common), by_block(&other, &common));
    let together = |table: &&&Opponents| ours[**table].begins == other[**table].begins;
    let paired = a.plan.ground.seed == b.plan.ground.seed && common.iter().all(|table| together(&table));
    if paired {
        x.retain(|block, _| y.contains_key(block));
        y.retain(|block, _| x.contains_key(block));
    }
    let played =
        |shares: &ByBlock, plan: &Plan| shares.values().map(|(_, tables)| tables * plan.matches_a_block()).sum::<u64>();
    comparison.matches = played(&x, a.plan) + played(&y, b.plan);
    let (blocks, mut found) = difference(&x, &y, paired, a.plan.ground.confidence);
    let decided = |shares: &Shares| common.iter().all(|table| shares[*table].is_decided());
    if decided(&ours) && decided(&other) {
        found = found.map(|joint| Interval::exactly(joint.value));
    }
    comparison.blocks = blocks;
    comparison.conclude(found, false);
    Ok(comparison)
}

impl Fared {
    /// Whether each of its tables is always the same match.
    fn is_decided(&self) -> bool {
        self.courses.values().all(Course::is_decided)
    }
}

/// Points shares of the first against the second where both met at one table of a study.
fn head_to_head(a: Stored, b: Stored, game: &dyn GameEntry) -> Result<Option<BlockRates>, StoredError> {
    let both = [a.place, b.place];
    let met = |cell: &&Cell| cell.entrants.len() == 2 && both.iter().all(|place| cell.entrants.contains(place));
    let same = a.study.name() == b.study.name();
    let Some(table) = a.plan.cells.iter().find(met).filter(|_| same) else { return Ok(None) };
    let opponent = others(table, a.place, &a.plan.entrants);
    let mut rates = BlockRates::new(2);
    let fared = shares(a, game)?.remove(&opponent).unwrap_or_default();
    fared.blocks.values().for_each(|(sum, count)| rates.push(sum / *count as f64));
    if fared.is_decided() {
        rates.decide();
    }
    Ok(Some(rates))
}

/// Returns the difference of two by block, and the number of blocks: paired, or as two samples.
fn difference(x: &ByBlock, y: &ByBlock, paired: bool, confidence: f64) -> (u64, Option<Interval>) {
    if paired {
        let both = x.iter().filter_map(|(block, (share, _))| Some((*share, y.get(block)?.0)));
        let difference = paired_difference(both, confidence);
        return (difference.map_or(0, |found| found.blocks), difference.map(|found| found.difference));
    }
    let moments = |shares: &ByBlock| {
        let mut moments = Moments::default();
        for (share, _) in shares.values() {
            moments.push(*share);
        }
        moments
    };
    ((x.len() + y.len()) as u64, unpaired_difference(&moments(x), &moments(y), confidence))
}

/// Returns an entrant's identity regardless of its label.
fn identity(entrant: &Entrant) -> String {
    let knobs: Vec<String> = entrant.knobs.iter().map(|(name, value)| format!("{name}={value:?}")).collect();
    format!("{}:{}", entrant.kind, knobs.join(","))
}

fn others(cell: &Cell, place: usize, entrants: &[Entrant]) -> Opponents {
    let mut table: Opponents =
        cell.entrants.iter().filter(|other| **other != place).map(|other| identity(&entrants[*other])).collect();
    table.sort();
    table
}

/// Labels of all that sat at these tables.
fn names(side: Stored, tables: &[&Opponents]) -> Vec<String> {
    let at: BTreeSet<&String> = tables.iter().flat_map(|table| table.iter()).collect();
    let met = side.plan.entrants.iter().filter(|entrant| at.contains(&identity(entrant)));
    met.map(|entrant| entrant.name.clone()).collect()
}

/// Reads the shares of an entrant off the rows.
fn shares(side: Stored, game: &dyn GameEntry) -> Result<Shares, LedgerError> {
    let measures = game.measure_names();
    let mut shares = Shares::new();
    visit_rows(side.study, side.manifest, side.plan, &measures, |rows: &Rows| {
        for block in rows.blocks() {
            let cell = &side.plan.cells[block.cell()];
            if let Some(share) = block.points(side.place).filter(|_| !block.has_void()) {
                let fared = shares.entry(others(cell, side.place, &side.plan.entrants)).or_default();
                fared.begins.insert(cell.first_block);
                let course = || Course::of(side.plan.is_without_chance(cell, game));
                fared.courses.entry(block.cell()).or_insert_with(course).see(|| print_of(block));
                let (sum, count) = fared.blocks.entry(block.number() - cell.first_block).or_default();
                (*sum, *count) = (*sum + share, *count + 1);
            }
        }
        Ok(())
    })?;
    Ok(shares)
}

/// Mean share over these tables by block, of blocks that all of them have, and how many blocks of tables that is.
fn by_block(shares: &Shares, tables: &[&Opponents]) -> ByBlock {
    let mut sums: BTreeMap<u64, (f64, u64, usize)> = BTreeMap::new();
    for (block, (share, count)) in tables.iter().flat_map(|table| &shares[*table].blocks) {
        let sum = sums.entry(*block).or_default();
        *sum = (sum.0 + share / *count as f64, sum.1 + count, sum.2 + 1);
    }
    let all = sums.into_iter().filter(|(_, (.., met))| *met == tables.len());
    all.map(|(block, (sum, count, met))| (block, (sum / met as f64, count))).collect()
}
