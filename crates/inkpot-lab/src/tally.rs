//! Rows summed up as they stream by, cell by cell and block by block.

use std::collections::BTreeMap;
use std::collections::hash_map::DefaultHasher;
use std::hash::{Hash, Hasher};

use inkpot_core::{Outcome, Row, Rows, points_shares};
use inkpot_stats::{BlockRates, Moments};

use crate::Plan;

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
    print: Option<u64>,
    /// Whether every block went exactly like the first.
    pub(crate) all_alike: bool,
    first: Option<Box<CellTally>>,
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
    fn new(plan: &Plan, cell: usize, measures: usize) -> Self {
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
            print: None,
            all_alike: true,
            first: None,
        }
    }

    fn take(&mut self, rows: &Rows, start: usize, block: &[Row]) {
        self.blocks += 1;
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
                    sums[index].add(points[seat], row.score, rows.measures_of(at + seat));
                }
            }
            if !void {
                first_seat += points[0];
                valid += 1.0;
            }
            at += seats.len();
        }
        let whole = block.len() == (valid as usize) * self.entrants.len();
        if whole && valid > 0.0 {
            self.first_seat.push(first_seat / valid);
        }
        for (entrant, sums) in self.entrants.iter_mut().zip(&sums) {
            entrant.close(sums, whole);
        }
        self.compare(rows, start, block);
    }

    fn index(&self, row: &Row) -> usize {
        self.entrants.iter().position(|entrant| entrant.place == usize::from(row.entrant)).unwrap_or(0)
    }

    /// Notices when every block goes exactly like the first: players without chance in a game without chance.
    fn compare(&mut self, rows: &Rows, start: usize, block: &[Row]) {
        if !self.all_alike {
            return;
        }
        let mut hasher = DefaultHasher::new();
        for (index, row) in block.iter().enumerate() {
            (row.rotation, row.seat, row.entrant, row.placement, row.ticks, row.score.to_bits()).hash(&mut hasher);
            rows.measures_of(start + index).iter().for_each(|measure| measure.to_bits().hash(&mut hasher));
        }
        let print = hasher.finish();
        match self.print {
            None => {
                self.print = Some(print);
                self.first = Some(Box::new(self.clone()));
            }
            Some(first) if first != print => {
                self.all_alike = false;
                self.first = None;
            }
            Some(_) => {}
        }
    }

    /// Repeats of one and the same match narrow no interval: the sums of the first block stand for all.
    fn without_repeats(mut self) -> Self {
        if let Some(first) = self.first.take().filter(|_| self.repeats()) {
            self.first_seat = first.first_seat;
            for (entrant, first) in self.entrants.iter_mut().zip(first.entrants) {
                entrant.rates = first.rates;
                entrant.score = first.score;
                entrant.measures = first.measures;
                entrant.shares.iter_mut().for_each(|shares| shares.truncate(1));
            }
        }
        self
    }

    /// Whether it is one match over and over.
    pub(crate) fn repeats(&self) -> bool {
        self.all_alike && self.blocks > 1
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
    measures: Vec<(f64, f64)>,
}

impl Sums {
    fn new(width: usize) -> Self {
        Self { matches: 0.0, points: 0.0, score: 0.0, measures: vec![(0.0, 0.0); width] }
    }

    fn add(&mut self, points: f64, score: f64, measures: &[f64]) {
        self.matches += 1.0;
        self.points += points;
        self.score += score;
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
    pub(crate) fn new(plan: &Plan, measures: usize) -> Self {
        Self { cells: (0..plan.cells.len()).map(|cell| CellTally::new(plan, cell, measures)).collect() }
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
        self.cells.into_iter().map(CellTally::without_repeats).collect()
    }
}
