//! Probes: a rung played at a point for some blocks, with samples of its targets.

use inkpot_core::{GameSheet, Rows};
use inkpot_stats::Moments;

use super::{Point, Target, Tune};
use crate::figure::{figure_mean, player_seat};

/// A rung to be played at a point.
#[derive(Clone, Debug, PartialEq)]
pub struct Probe {
    /// The rung.
    pub rung: usize,
    /// Values of the free knobs.
    pub point: Point,
    /// Number of the first block.
    pub first_block: u64,
    /// This many blocks.
    pub blocks: u64,
}

/// A probe that was played.
#[derive(Clone, Debug, PartialEq)]
pub struct Probed {
    /// The round of the search that it belongs to.
    pub round: u64,
    /// The probe that was played.
    pub probe: Probe,
    /// Samples of each target of the rung.
    pub samples: Vec<Sample>,
}

/// A figure over the blocks of a probe.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sample {
    /// Blocks that gave a value.
    pub count: u64,
    /// Mean over blocks.
    pub mean: f64,
    /// Standard deviation of blocks.
    pub sd: f64,
}

impl Sample {
    fn of(moments: &Moments) -> Self {
        Self { count: moments.count(), mean: moments.mean().unwrap_or(f64::NAN), sd: moments.sd().unwrap_or(0.0) }
    }
}

impl Probed {
    /// A probe with the figures of its blocks.
    pub(crate) fn of(round: u64, probe: Probe, targets: usize, blocks: &[Vec<f64>]) -> Self {
        let mut moments = vec![Moments::default(); targets];
        for figures in blocks {
            moments.iter_mut().zip(figures).for_each(|(moments, x)| moments.push(*x));
        }
        Self { round, probe, samples: moments.iter().map(Sample::of).collect() }
    }
}

/// The figures of a block: each the weighted mean over the players of their means over the seat orders; `rows` are
/// those of each player.
pub(crate) fn block_figures(tune: &Tune, rung: usize, rows: &[Rows], sheet: &GameSheet) -> Vec<f64> {
    let rung = &tune.rungs[rung];
    let figure = |target: &Target| {
        let Some(figure) = target.of(sheet) else { return f64::NAN };
        let (mut sum, mut weight) = (0.0, 0.0);
        for (rows, player) in rows.iter().zip(&rung.players) {
            let mean =
                figure_mean(rows.matches(), |played| figure.of(played, player_seat(played), sheet.ticks_per_second));
            if mean.is_finite() {
                (sum, weight) = (sum + player.weight * mean, weight + player.weight);
            }
        }
        sum / weight
    };
    rung.targets.iter().map(figure).collect()
}
