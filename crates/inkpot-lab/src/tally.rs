//! Rows summed up as they stream by, cell by cell and block by block.

use std::collections::hash_map::DefaultHasher;
use std::collections::{BTreeMap, BTreeSet};
use std::hash::{Hash, Hasher};

use inkpot_core::{DecisionTimes, GameEntry, Outcome, Row, Rows, points_shares};
use inkpot_stats::{BlockRates, Moments};

use crate::Plan;
use crate::plan::agent_sheet;

/// A block that counts for nobody in `EntrantTally::shares`.
const VOID: u16 = u16::MAX;

/// The sums of one cell.
#[derive(Clone, Debug)]
pub(crate) struct CellTally {
    pub(crate) entrants: Vec<EntrantTally>,
    pub(crate) first_seat: BlockRates,
    pub(crate) blocks: u64,
    pub(crate) matches: u64,
    pub(crate) ticks: u64,
    pub(crate) voids: u64,
    pub(crate) cut_short: u64,
    pub(crate) endings: BTreeMap<String, u64>,
    /// Blocks that repeat an earlier one; they count for nothing but the plain counts.
    pub(crate) repeats: u64,
    prints: Prints,
}

/// How blocks went, for telling those that repeat an earlier one.
#[derive(Clone, Debug)]
enum Prints {
    /// Nobody leaves anything to chance: blocks that go alike are one.
    All(BTreeSet<u64>),
    /// There may be chance: only if every block goes like the first are they one.
    First(Option<u64>),
    /// There is chance: none is a repeat.
    Off,
}

/// The sums of one entrant in one cell.
#[derive(Clone, Debug)]
pub(crate) struct EntrantTally {
    /// The entrant's place in the plan.
    pub(crate) place: usize,
    pub(crate) wins: u64,
    pub(crate) draws: u64,
    pub(crate) losses: u64,
    pub(crate) faults: u64,
    pub(crate) rates: BlockRates,
    pub(crate) score: Moments,
    pub(crate) measures: Vec<Moments>,
    /// States advanced a decision, by block.
    pub(crate) nodes: Moments,
    pub(crate) times: Times,
    /// Points by block in units of half an opponent, kept only where cells are compared block by block: two bytes a
    /// block are all that grows with a study.
    shares: Option<Vec<u16>>,
    unit: f64,
}

impl EntrantTally {
    /// The points share of a block, NaN if it is void.
    pub(crate) fn share(&self, block: usize) -> f64 {
        match self.shares.as_ref().and_then(|shares| shares.get(block)) {
            Some(&halves) if halves != VOID => f64::from(halves) * self.unit,
            _ => f64::NAN,
        }
    }

    /// Points shares of all blocks; none in a study of one cell.
    pub(crate) fn shares(&self) -> impl Iterator<Item = f64> {
        (0..self.shares.as_ref().map_or(0, Vec::len)).map(|block| self.share(block))
    }
}

impl CellTally {
    fn new(plan: &Plan, cell: usize, game: &dyn GameEntry) -> Self {
        let measures = game.sheet().measures.len();
        let seats = plan.cells[cell].entrants.len();
        let unit = 1.0 / (2.0 * (seats.max(2) - 1) as f64 * seats as f64);
        let compared = plan.cells.len() > 1;
        let entrant = |&place: &usize| EntrantTally {
            place,
            wins: 0,
            draws: 0,
            losses: 0,
            faults: 0,
            rates: BlockRates::new(seats),
            score: Moments::default(),
            measures: vec![Moments::default(); measures],
            nodes: Moments::default(),
            times: Times::default(),
            shares: compared.then(Vec::new),
            unit,
        };
        Self {
            entrants: plan.cells[cell].entrants.iter().map(entrant).collect(),
            first_seat: BlockRates::new(seats),
            blocks: 0,
            matches: 0,
            ticks: 0,
            voids: 0,
            cut_short: 0,
            endings: BTreeMap::new(),
            repeats: 0,
            prints: if chanceless(plan, cell, game) { Prints::All(BTreeSet::new()) } else { Prints::First(None) },
        }
    }

    fn take(&mut self, rows: &Rows, start: usize, block: &[Row]) {
        self.blocks += 1;
        let repeat = self.is_repeat(rows, start, block);
        self.repeats += u64::from(repeat);
        let mut sums = vec![Sums::new(rows.width); self.entrants.len()];
        let (mut first_seat, mut valid) = (0.0, 0.0);
        let mut at = start;
        for seats in block.chunk_by(|a, b| a.match_index == b.match_index) {
            self.matches += 1;
            self.ticks += seats[0].ticks;
            *self.endings.entry(seats[0].ending.to_string()).or_default() += 1;
            self.cut_short += u64::from(seats[0].cut_short);
            let void = seats[0].outcome == Outcome::Void;
            self.voids += u64::from(void);
            let placements: Vec<u16> = seats.iter().map(|row| row.placement).collect();
            let points = points_shares(&placements);
            for (seat, row) in seats.iter().enumerate() {
                let index = self.index(row);
                self.entrants[index].count(row);
                if !void {
                    sums[index].add(points[seat], row, rows.measures_of(at + seat));
                }
            }
            if !void {
                first_seat += points[0];
                valid += 1.0;
            }
            at += seats.len();
        }
        let whole = block.len() == (valid as usize) * self.entrants.len() && !repeat;
        if whole && valid > 0.0 {
            self.first_seat.push(first_seat / valid);
        }
        for (entrant, sums) in self.entrants.iter_mut().zip(&sums) {
            entrant.close(sums, whole);
        }
    }

    fn index(&self, row: &Row) -> usize {
        self.entrants.iter().position(|entrant| entrant.place == usize::from(row.entrant)).unwrap_or(0)
    }

    /// Whether this block repeats an earlier one. Without a declared lack of chance that is only believed as long as all
    /// blocks go alike: between agents that draw, two that go alike are two.
    fn is_repeat(&mut self, rows: &Rows, start: usize, block: &[Row]) -> bool {
        if matches!(self.prints, Prints::Off) {
            return false;
        }
        let mut hasher = DefaultHasher::new();
        for (index, row) in block.iter().enumerate() {
            (row.rotation, row.seat, row.entrant, row.placement, row.ticks, row.score.to_bits()).hash(&mut hasher);
            rows.measures_of(start + index).iter().for_each(|measure| measure.to_bits().hash(&mut hasher));
        }
        let print = hasher.finish();
        match &mut self.prints {
            Prints::All(seen) => !seen.insert(print),
            Prints::First(first @ None) => {
                *first = Some(print);
                false
            }
            Prints::First(Some(first)) if *first == print => true,
            Prints::First(_) => {
                self.reconsider();
                false
            }
            Prints::Off => false,
        }
    }

    /// A block went otherwise: those that went alike until now were not repeats, and count after all.
    fn reconsider(&mut self) {
        self.prints = Prints::Off;
        let again = std::mem::take(&mut self.repeats);
        self.first_seat.again(again);
        for entrant in &mut self.entrants {
            entrant.again(again);
        }
    }

    /// Whether it is one match over and over.
    pub(crate) fn all_alike(&self) -> bool {
        self.blocks > 1 && self.repeats + 1 == self.blocks
    }
}

/// Whether none of the entrants of a cell leaves anything to chance.
fn chanceless(plan: &Plan, cell: usize, game: &dyn GameEntry) -> bool {
    let mut cast = plan.cells[cell].setting.cast.iter();
    cast.all(|casting| agent_sheet(game, &casting.kind).is_some_and(|sheet| (sheet.chanceless)(&casting.knobs)))
}

/// How long decisions took.
#[derive(Clone, Debug, Default)]
pub(crate) struct Times {
    /// Where each was timed.
    pub(crate) each: DecisionTimes,
    /// Sum of means in microseconds, weighted by decisions where these are known, and the weights.
    sum: f64,
    weights: f64,
}

impl Times {
    fn take(&mut self, row: &Row) {
        let mut own = DecisionTimes::default();
        row.decision_times.iter().for_each(|bytes| own.absorb(bytes));
        row.decision_times.iter().for_each(|bytes| self.each.absorb(bytes));
        if row.decision_us.is_finite() {
            let weight = own.count().max(1) as f64;
            self.sum += f64::from(row.decision_us) * weight;
            self.weights += weight;
        }
    }

    pub(crate) fn merge(&mut self, other: &Self) {
        self.each.absorb(&other.each.to_bytes());
        self.sum += other.sum;
        self.weights += other.weights;
    }

    /// Mean in microseconds, if any decision was timed.
    pub(crate) fn mean_us(&self) -> Option<f64> {
        (self.weights > 0.0).then(|| self.sum / self.weights)
    }
}

impl EntrantTally {
    fn count(&mut self, row: &Row) {
        match row.outcome {
            Outcome::Win => self.wins += 1,
            Outcome::Draw => self.draws += 1,
            Outcome::Loss => self.losses += 1,
            Outcome::Void => {}
        }
        self.faults += u64::from(row.faults);
        self.times.take(row);
    }

    /// Counts the one block so far so many times more.
    fn again(&mut self, times: u64) {
        self.rates.again(times);
        self.score.again(times);
        self.nodes.again(times);
        self.measures.iter_mut().for_each(|moments| moments.again(times));
        if let Some(shares) = &mut self.shares {
            let first = shares.first().copied().unwrap_or(VOID);
            shares.fill(first);
        }
    }

    /// Ends a block; one with a void match counts for nobody.
    fn close(&mut self, sums: &Sums, whole: bool) {
        let counts = whole && sums.matches > 0.0;
        let share = sums.points / sums.matches;
        if let Some(shares) = &mut self.shares {
            shares.push(if counts { (share / self.unit).round() as u16 } else { VOID });
        }
        if !counts {
            return;
        }
        self.rates.push(share);
        self.score.push(sums.score / sums.matches);
        self.nodes.push(sums.nodes / sums.matches);
        for (moments, (sum, count)) in self.measures.iter_mut().zip(&sums.measures) {
            moments.push(sum / count);
        }
    }
}

/// The sums of one entrant in one block.
#[derive(Clone)]
struct Sums {
    matches: f64,
    points: f64,
    score: f64,
    nodes: f64,
    measures: Vec<(f64, f64)>,
}

impl Sums {
    fn new(width: usize) -> Self {
        Self { matches: 0.0, points: 0.0, score: 0.0, nodes: 0.0, measures: vec![(0.0, 0.0); width] }
    }

    fn add(&mut self, points: f64, row: &Row, measures: &[f64]) {
        self.matches += 1.0;
        self.points += points;
        self.score += row.score;
        self.nodes += row.nodes;
        for (sum, measure) in self.measures.iter_mut().zip(measures) {
            if measure.is_finite() {
                sum.0 += measure;
                sum.1 += 1.0;
            }
        }
    }
}

/// The sums of a whole study.
pub(crate) struct Tally {
    cells: Vec<CellTally>,
}

impl Tally {
    pub(crate) fn new(plan: &Plan, game: &dyn GameEntry) -> Self {
        Self { cells: (0..plan.cells.len()).map(|cell| CellTally::new(plan, cell, game)).collect() }
    }

    /// Takes whole blocks in order of cell and block.
    pub(crate) fn take(&mut self, rows: &Rows) {
        let mut start = 0;
        for block in rows.rows.chunk_by(|a, b| (a.cell, a.block) == (b.cell, b.block)) {
            if let Some(cell) = self.cells.get_mut(block[0].cell as usize) {
                cell.take(rows, start, block);
            }
            start += block.len();
        }
    }

    pub(crate) fn finish(self) -> Vec<CellTally> {
        self.cells
    }
}
