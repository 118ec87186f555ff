//! Suspense: how undecided matches are, over time, by a win-probability model fitted on the study.
//!
//! Some blocks of every cell are played again for their score timelines. At evenly spaced moments of each match the
//! chance that the first entrant wins is modelled as `logit p = a + (b + c t) d`: `d` its lead there over the standard
//! deviation of leads, `t` the moment as a share of the cell's mean length (Clauset, Kogan & Redner 2015 find leads to
//! be much of what there is to know). Suspense of a match is the mean of `4 p (1 - p)` over its moments: 1 is an even
//! chance throughout, 0 decided from the start.

use inkpot_core::{GameEntry, Moment, Rows, Telling};
use inkpot_stats::{Interval, Logit, Moments};

use crate::Plan;

/// Moments of a match that are looked at.
const MOMENTS: usize = 20;
/// Blocks of a cell that are played again: a tenth of them, within these numbers.
const SHARE: u64 = 10;
const FEWEST: u64 = 10;
const MOST: u64 = 60;
/// A study of more cells has no suspense: it would take too long.
const MOST_CELLS: usize = 64;

/// Suspense of each cell; none where it cannot be known.
pub(crate) fn suspense(plan: &Plan, game: &dyn GameEntry, blocks: u64) -> Vec<Option<Interval>> {
    let two = plan.seats() == 2;
    if plan.cells.len() > MOST_CELLS || !two {
        return vec![None; plan.cells.len()];
    }
    (0..plan.cells.len()).map(|cell| of_cell(plan, cell, game, blocks)).collect()
}

/// One match as it was told: its length, the first entrant's leads as they change, and whether it won.
struct Course {
    ticks: u64,
    leads: Vec<(u64, f64)>,
    won: f64,
}

impl Course {
    /// The lead at a share of the match.
    fn at(&self, share: f64) -> f64 {
        let tick = (share * self.ticks as f64) as u64;
        let before = self.leads.iter().take_while(|(when, _)| *when <= tick);
        before.last().map_or(0.0, |(_, lead)| *lead)
    }
}

fn of_cell(plan: &Plan, cell: usize, game: &dyn GameEntry, blocks: u64) -> Option<Interval> {
    if plan.by_the_clock(&plan.cells[cell]) {
        return None;
    }
    let sample = (blocks / SHARE).clamp(FEWEST, MOST).min(blocks);
    let told: Vec<Vec<Course>> = (0..sample).map(|block| tell(plan, cell, game, block)).collect();
    let all = || told.iter().flatten();
    let mean_ticks = all().map(|told| told.ticks as f64).sum::<f64>() / all().count().max(1) as f64;
    let moments = || (0..MOMENTS).map(|i| (i as f64 + 0.5) / MOMENTS as f64);
    let square = all().flat_map(|told| moments().map(|share| told.at(share).powi(2))).sum::<f64>();
    let sd = (square / (all().count() * MOMENTS).max(1) as f64).sqrt();
    if sd <= 0.0 {
        return None;
    }
    let features = |told: &Course, share: f64| {
        let (lead, time) = (told.at(share) / sd, share * told.ticks as f64 / mean_ticks);
        [1.0, lead, lead * time]
    };
    let rows = all().flat_map(|told| moments().map(|share| (features(told, share), told.won)));
    let model = Logit::fit(rows)?;
    let mut seen = Moments::default();
    for block in &told {
        let of_match = |told: &Course| {
            let undecided = moments().map(|share| {
                let p = model.at(&features(told, share));
                4.0 * p * (1.0 - p)
            });
            undecided.sum::<f64>() / MOMENTS as f64
        };
        seen.push(block.iter().map(of_match).sum::<f64>() / block.len() as f64);
    }
    seen.interval(plan.ground.confidence)
}

/// Plays a block of a cell again for its timelines; void matches are left out.
fn tell(plan: &Plan, cell: usize, game: &dyn GameEntry, block: u64) -> Vec<Course> {
    let own = &plan.cells[cell];
    let Ok(stage) = game.stage(&plan.setting(own)) else { return Vec::new() };
    let mut rows = Rows::new(game.sheet().measures.len());
    let mut told = Vec::new();
    for rotation in 0..stage.rotations() {
        rows.clear();
        let mut changes: Vec<(u64, Vec<f64>)> = Vec::new();
        let spot = inkpot_core::Spot { cell: cell as u32, block: own.first_block + block, rotation, match_index: 0 };
        let mut listener = |moment| {
            if let Moment::Score { tick, scores } = moment {
                changes.push((tick, scores));
            }
        };
        inkpot_core::tell(stage.open(spot), Telling::Scores, &mut listener, &mut rows);
        let first = own.entrants[0];
        let Some(played) = rows.matches().next().filter(|played| !played.is_void()) else { continue };
        let Some(seat) = played.seat_of(first) else { continue };
        told.push(Course {
            ticks: played.seats()[seat].ticks,
            leads: changes.iter().map(|(tick, scores)| (*tick, scores[seat] - scores[1 - seat])).collect(),
            won: played.points(seat),
        });
    }
    told
}
