//! Rows summed up as they stream by, cell by cell and block by block.

use std::collections::BTreeMap;

use inkpot_core::{Block, DecisionTimes, GameEntry, MatchRows, Outcome, Row, Rows};
use inkpot_stats::{BlockRates, Interval, Moments, People};

use crate::Plan;
use crate::course::{Course, print_of};
use crate::figure::scale_of;
use crate::outcomes::{Outcomes, seated};
use crate::plan::OF_THE_CELL;
use crate::suspense::Courses;

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
    /// The results of the blocks, stored only if cells are compared block by block.
    pub(crate) outcomes: Option<Outcomes>,
    /// Number of its first block.
    pub(crate) first_block: u64,
    course: Course,
    courses: Courses,
    /// The sums of the block at work, kept for their memory.
    sums: Vec<Sums>,
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
    pub(crate) late: u64,
    pub(crate) crashed: u64,
    pub(crate) rates: BlockRates,
    /// Points and score of all matches that are not void, and blocks in which nobody had as many points.
    pub(crate) points: f64,
    pub(crate) score_sum: f64,
    pub(crate) blocks_won: f64,
    pub(crate) score: Moments,
    pub(crate) measures: Vec<Moments>,
    /// States advanced a decision, by block.
    pub(crate) nodes: Moments,
    /// The results by person, if each plays a series.
    pub(crate) people: Option<People>,
}

impl CellTally {
    fn new(plan: &Plan, cell: usize, game: &dyn GameEntry, compared: bool) -> Self {
        let measures: Vec<Moments> =
            game.sheet().measures.iter().map(|measure| Moments::on(scale_of(measure))).collect();
        let matches_a_block = plan.matches_a_block() as usize;
        let entrant = |&place: &usize| EntrantTally {
            place,
            wins: 0,
            draws: 0,
            losses: 0,
            faults: 0,
            late: 0,
            crashed: 0,
            rates: BlockRates::new(matches_a_block),
            points: 0.0,
            score_sum: 0.0,
            blocks_won: 0.0,
            score: Moments::default(),
            measures: measures.clone(),
            nodes: Moments::default(),
            people: plan.ground.series.map(|_| People::default()),
        };
        Self {
            entrants: plan.cells[cell].entrants.iter().map(entrant).collect(),
            first_seat: BlockRates::new(matches_a_block),
            blocks: 0,
            matches: 0,
            ticks: 0,
            voids: 0,
            cut_short: 0,
            endings: BTreeMap::new(),
            outcomes: compared.then(|| Outcomes::new(plan.seats() as usize)),
            first_block: plan.cells[cell].first_block,
            course: Course::of(plan.is_without_chance(&plan.cells[cell], game)),
            courses: Courses::default(),
            sums: vec![Sums::new(measures.len()); plan.cells[cell].entrants.len()],
        }
    }

    fn take(&mut self, block: Block) {
        self.blocks += 1;
        self.course.see(|| print_of(block));
        self.courses.take(block, self.entrants[0].place);
        let mut sums = std::mem::take(&mut self.sums);
        sums.iter_mut().for_each(Sums::clear);
        let (mut first_seat, mut valid) = (0.0, 0.0);
        for played in block.matches() {
            let seats = played.seats();
            self.count_match(&seats[0], played.is_void());
            for (seat, row) in seats.iter().enumerate() {
                let index = self.index(row);
                self.entrants[index].count(row);
                if !played.is_void() {
                    sums[index].add(played.points(seat), row, played.measures(seat));
                }
            }
            if !played.is_void() {
                first_seat += played.points(0);
                valid += 1.0;
            }
        }
        self.count_points(&sums);
        let whole = block.rows().len() == (valid as usize) * self.entrants.len();
        if whole && valid > 0.0 {
            self.first_seat.push(first_seat / valid);
        }
        self.keep_outcome(block, whole && valid > 0.0);
        for (entrant, sums) in self.entrants.iter_mut().zip(&sums).filter(|(_, sums)| whole && sums.matches > 0.0) {
            entrant.close(sums);
        }
        self.sums = sums;
        if whole {
            self.count_people(block);
        }
    }

    /// Counts a match by its first seat's row.
    fn count_match(&mut self, row: &Row, void: bool) {
        self.matches += 1;
        self.ticks += row.ticks;
        match self.endings.get_mut(row.ending.as_ref()) {
            Some(count) => *count += 1,
            None => drop(self.endings.insert(row.ending.to_string(), 1)),
        }
        self.cut_short += u64::from(row.cut_short);
        self.voids += u64::from(void);
    }

    /// Keeps how a block came out, where cells are compared block by block.
    fn keep_outcome(&mut self, block: Block, counts: bool) {
        let Some(mut outcomes) = self.outcomes.take() else { return };
        let places: Vec<usize> = self.entrants.iter().map(|entrant| entrant.place).collect();
        outcomes.push(counts.then(|| seated(block, &places)).as_deref());
        self.outcomes = Some(outcomes);
    }

    /// Counts a series as a person's.
    fn count_people(&mut self, block: Block) {
        for entrant in &mut self.entrants {
            let Some(people) = &mut entrant.people else { continue };
            let points = |played: MatchRows| played.seat_of(entrant.place).map(|seat| played.points(seat));
            people.push(&block.matches().filter_map(points).collect::<Vec<_>>());
        }
    }

    /// Counts the points for a tournament's draw.
    fn count_points(&mut self, sums: &[Sums]) {
        let most = sums.iter().map(|sum| sum.points).fold(0.0, f64::max);
        let alone = sums.iter().filter(|sum| sum.points == most).count() == 1;
        for (entrant, sum) in self.entrants.iter_mut().zip(sums) {
            entrant.points += sum.points;
            entrant.score_sum += sum.score;
            entrant.blocks_won += f64::from(u8::from(alone && sum.points == most));
        }
    }

    /// Points shares by block of one of the cell; none in a study of one cell.
    pub(crate) fn shares(&self, who: usize) -> impl Iterator<Item = f64> {
        self.outcomes.iter().flat_map(move |outcomes| outcomes.shares(who))
    }

    fn index(&self, row: &Row) -> usize {
        self.entrants.iter().position(|entrant| entrant.place == usize::from(row.entrant)).expect(OF_THE_CELL)
    }

    /// Whether it is always the same match.
    pub(crate) fn is_decided(&self) -> bool {
        self.voids == 0 && self.course.is_decided()
    }

    /// Whether all its blocks went alike so far.
    pub(crate) fn is_alike(&self) -> bool {
        self.voids == 0 && self.course.is_alike()
    }

    /// Returns the suspense of its matches, if known; a match that is always the same has none.
    pub(crate) fn suspense(&self, confidence: f64) -> Option<Interval> {
        self.courses.suspense(confidence).filter(|_| !self.is_decided())
    }

    /// Ends it: of a match that is always the same all figures are known without error.
    fn finish(mut self) -> Self {
        if self.is_decided() {
            self.first_seat.decide();
            self.entrants.iter_mut().for_each(EntrantTally::decide);
        }
        self
    }
}

/// Decision times.
#[derive(Clone, Debug, Default)]
pub(crate) struct Times {
    /// The times, if all decisions were timed.
    pub(crate) each: DecisionTimes,
    /// Sum of means in microseconds, weighted by decisions where these are known, and the weights.
    sum: f64,
    weights: f64,
}

impl Times {
    fn take(&mut self, row: &Row) {
        let mut decisions = 0;
        if let Some(bytes) = &row.decision_times {
            let mut times = DecisionTimes::default();
            times.absorb(bytes);
            decisions = times.count();
            self.each.absorb(bytes);
        }
        if row.decision_us.is_finite() {
            let weight = decisions.max(1) as f64;
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
    /// Matches that are not void.
    pub(crate) fn matches(&self) -> f64 {
        (self.wins + self.draws + self.losses) as f64
    }

    fn count(&mut self, row: &Row) {
        match row.outcome {
            Outcome::Win => self.wins += 1,
            Outcome::Draw => self.draws += 1,
            Outcome::Loss => self.losses += 1,
            Outcome::Void => {}
        }
        self.faults += u64::from(row.faults);
        self.late += u64::from(row.late);
        self.crashed += u64::from(row.crashed);
    }

    /// Says that no chance is left.
    fn decide(&mut self) {
        self.rates.decide();
        self.score.decide();
        self.nodes.decide();
        self.measures.iter_mut().for_each(Moments::decide);
    }

    /// Ends a block that counts.
    fn close(&mut self, sums: &Sums) {
        self.rates.push(sums.points / sums.matches);
        self.score.push(sums.score / sums.matches);
        self.nodes.push(sums.nodes / sums.matches);
        for (moments, (sum, count)) in self.measures.iter_mut().zip(&sums.measures) {
            moments.push(sum / count);
        }
    }
}

/// The sums of one entrant in one block.
#[derive(Clone, Debug)]
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

    fn clear(&mut self) {
        (self.matches, self.points, self.score, self.nodes) = (0.0, 0.0, 0.0, 0.0);
        self.measures.fill((0.0, 0.0));
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

/// Times of decisions by cell and entrant; of all cells together (0) unless the cells are points of a sweep.
pub(crate) type TimesBy = BTreeMap<(usize, usize), Times>;

/// The optional sums of a study.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Keeping {
    /// The outcome of every block.
    pub(crate) outcomes: bool,
    /// Decision times by cell.
    pub(crate) times_by_cell: bool,
}

/// The sums of a whole study.
pub(crate) struct Tally {
    cells: Vec<CellTally>,
    times: TimesBy,
    by_cell: bool,
}

impl Tally {
    pub(crate) fn new(plan: &Plan, game: &dyn GameEntry, keeping: Keeping) -> Self {
        Self {
            cells: (0..plan.cells.len()).map(|cell| CellTally::new(plan, cell, game, keeping.outcomes)).collect(),
            times: TimesBy::new(),
            by_cell: keeping.times_by_cell,
        }
    }

    /// Takes whole blocks in order of cell and block.
    pub(crate) fn take(&mut self, rows: &Rows) {
        for block in rows.blocks() {
            if let Some(cell) = self.cells.get_mut(block.cell()) {
                cell.take(block);
            }
            let point = if self.by_cell { block.cell() } else { 0 };
            for row in block.rows() {
                self.times.entry((point, usize::from(row.entrant))).or_default().take(row);
            }
        }
    }

    pub(crate) fn finish(self) -> (Vec<CellTally>, TimesBy) {
        (self.cells.into_iter().map(CellTally::finish).collect(), self.times)
    }
}
