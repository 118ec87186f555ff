//! Trials: a rung played at a point for some blocks, and what was seen of its targets.

use std::ops::ControlFlow;
use std::sync::atomic::{AtomicBool, Ordering};

use inkpot_core::{GameEntry, Outcome, Rows, Spot, Stage};
use inkpot_stats::Moments;

use super::{Point, Tune};
use crate::in_order::in_order;

/// Blocks that a thread is given at once.
const RUN: u64 = 8;

/// A rung to be played at a point.
#[derive(Clone, Debug, PartialEq)]
pub struct Trial {
    /// The rung.
    pub rung: usize,
    /// Values of the free knobs.
    pub point: Point,
    /// Number of the first block.
    pub first_block: u64,
    /// So many blocks.
    pub blocks: u64,
}

/// A trial that was played.
#[derive(Clone, Debug, PartialEq)]
pub struct Tried {
    /// The round of the search that it belongs to.
    pub round: u64,
    /// What was played.
    pub trial: Trial,
    /// What was seen of each target of the rung.
    pub seen: Vec<Seen>,
}

/// A figure over the blocks of a trial.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Seen {
    /// Blocks that gave a value.
    pub count: u64,
    /// Mean over blocks.
    pub mean: f64,
    /// Standard deviation of blocks.
    pub sd: f64,
}

impl Seen {
    fn of(moments: &Moments) -> Self {
        Self { count: moments.count(), mean: moments.mean().unwrap_or(f64::NAN), sd: moments.sd().unwrap_or(0.0) }
    }
}

/// Plays trials; none once it was asked to stop.
pub(crate) fn play(
    tune: &Tune,
    trials: &[Trial],
    round: u64,
    game: &dyn GameEntry,
    threads: usize,
    stop: &AtomicBool,
) -> Option<Vec<Tried>> {
    let settings: Vec<_> = trials.iter().map(|trial| tune.settings(trial.rung, &trial.point, game)).collect();
    let tasks = trials.iter().enumerate().flat_map(|(index, trial)| {
        let end = trial.first_block + trial.blocks;
        (trial.first_block..end).step_by(RUN as usize).map(move |start| (index, start, (start + RUN).min(end)))
    });
    let mut seen: Vec<Vec<Moments>> =
        trials.iter().map(|trial| vec![Moments::default(); tune.rungs[trial.rung].targets.len()]).collect();
    let mut left: u64 = trials.iter().map(|trial| trial.blocks).sum();
    in_order(
        threads,
        tasks.take_while(|_| !stop.load(Ordering::Relaxed)),
        |&(index, start, end)| {
            let stages: Vec<Box<dyn Stage>> = settings[index]
                .iter()
                .map(|setting| game.stage(setting).expect("a tuning names agents of its game, as many as it has seats"))
                .collect();
            let rung = trials[index].rung;
            (start..end).map(|block| block_figures(tune, rung, &stages, block, game)).collect::<Vec<_>>()
        },
        |(index, start, end), blocks| {
            left -= end - start;
            for figures in blocks {
                seen[index].iter_mut().zip(figures).for_each(|(moments, x)| moments.push(x));
            }
            ControlFlow::Continue(())
        },
    );
    (left == 0).then(|| {
        let each = trials.iter().zip(seen);
        each.map(|(trial, seen)| Tried { round, trial: trial.clone(), seen: seen.iter().map(Seen::of).collect() })
            .collect()
    })
}

/// The figures of a block: each the weighted mean over the players of their means over the seat orders.
pub(crate) fn block_figures(
    tune: &Tune,
    rung: usize,
    stages: &[Box<dyn Stage>],
    block: u64,
    game: &dyn GameEntry,
) -> Vec<f64> {
    let sheet = game.sheet();
    let rung = &tune.rungs[rung];
    let mut rows = Rows::new(sheet.measures.len());
    let mut sums = vec![(0.0, 0.0); rung.targets.len()];
    for (stage, player) in stages.iter().zip(&rung.players) {
        rows.clear();
        for rotation in 0..stage.rotations() {
            stage.play(Spot { cell: 0, block, rotation, match_index: rotation as u64 }, &mut rows);
        }
        for (target, sum) in rung.targets.iter().zip(&mut sums) {
            let mean = figure_mean(&rows, |start, seats| {
                let own = seats.iter().position(|row| row.entrant == 0).unwrap_or(0);
                target.figure.of(seats, own, |seat| rows.measures_of(start + seat), sheet.ticks_per_second)
            });
            if mean.is_finite() {
                *sum = (sum.0 + player.weight * mean, sum.1 + player.weight);
            }
        }
    }
    sums.iter().map(|(sum, weight)| sum / weight).collect()
}

/// The mean of a figure over the matches in these rows that have it and are not void.
pub(crate) fn figure_mean(rows: &Rows, mut figure: impl FnMut(usize, &[inkpot_core::Row]) -> f64) -> f64 {
    let (mut sum, mut count) = (0.0, 0.0);
    for (start, seats) in rows.matches().filter(|(_, seats)| seats[0].outcome != Outcome::Void) {
        let x = figure(start, seats);
        if x.is_finite() {
            sum += x;
            count += 1.0;
        }
    }
    sum / count
}
