//! One free knob and a wanted win rate: matches go where they narrow the answer.
//!
//! A first even look over the knob's range fits a logistic curve with lapse rates; from then on matches are played on
//! both sides of the value that the curve gives, a few points of win rate away, where they say nearly as much of it as
//! matches at the value itself and tell the steepness too. It ends when the answer is exact enough in win rate, or the
//! budget is spent.

use inkpot_stats::{CurvePoint, LapseLogistic, Threshold};

use super::{Free, Probed, Seen, Target};

/// Values of the first look, and blocks at each.
const FIRST_VALUES: usize = 7;
const FIRST_BLOCKS: u64 = 12;
/// How far from the target, in win rate, the later matches are played.
const ASTRIDE: f64 = 0.07;
/// Each round plays so large a share of what was played, within these numbers of blocks at a value.
const GROWTH: f64 = 0.35;
const LEAST_BLOCKS: u64 = 16;
const MOST_BLOCKS: u64 = 1000;
/// A design effect is not believed below this.
const LEAST_DESIGN_EFFECT: f64 = 0.3;

/// What is known of a rung's curve.
#[derive(Clone, Debug)]
pub struct CurveSeen {
    /// The curve.
    pub curve: LapseLogistic,
    /// The value that gives the wanted rate; none if the curve never does.
    pub threshold: Option<Threshold>,
    /// Independent matches that a block is worth, over all probes.
    pub block_worth: f64,
}

impl CurveSeen {
    /// Fits what was seen, as knob value and figure; none before anything was.
    ///
    /// A block counts as so many independent matches as its variance says: the binomial variance under the curve over
    /// that of blocks, pooled over all probes.
    pub fn fit(seen: &[(f64, Seen)], wanted: f64) -> Option<Self> {
        let usable: Vec<&(f64, Seen)> = seen.iter().filter(|(_, seen)| seen.count > 1).collect();
        if usable.len() < 2 {
            return None;
        }
        let points = |worth: f64| -> Vec<CurvePoint> {
            let each = usable.iter();
            each.map(|(x, seen)| CurvePoint { x: *x, share: seen.mean, weight: seen.count as f64 * worth }).collect()
        };
        let first = LapseLogistic::fit(&points(2.0), None);
        let (mut binomial, mut blocks) = (0.0, 0.0);
        for (x, seen) in &usable {
            let p = first.at(*x).clamp(0.01, 0.99);
            let degrees = seen.count as f64 - 1.0;
            binomial += degrees * p * (1.0 - p);
            blocks += degrees * seen.sd * seen.sd;
        }
        let block_worth = (binomial / blocks.max(1e-12)).min(2.0 / LEAST_DESIGN_EFFECT);
        let points = points(block_worth);
        let curve = LapseLogistic::fit(&points, Some(&first));
        let threshold = Threshold::of(&curve, &points, wanted);
        Some(Self { curve, threshold, block_worth })
    }

    /// Standard error of the win rate at the answer.
    fn share_sd(&self) -> Option<f64> {
        self.threshold.map(|found| found.share_sd())
    }
}

/// Where to play next.
#[derive(Clone, Debug, PartialEq)]
pub enum Next {
    /// At these values, so many blocks each.
    Play(Vec<(f64, u64)>),
    /// Nowhere: the answer is exact enough, or the end of the range misses the target for certain.
    Done,
}

/// What a search may spend on a rung, and what is exact enough.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sizes {
    /// Matches of a block.
    pub matches_a_block: u64,
    /// Blocks that the budget still allows.
    pub blocks_left: u64,
    /// The standard error in win rate that is exact enough.
    pub exact: f64,
}

impl Sizes {
    /// So many blocks of two matches in blocks of this size, at least a few.
    fn blocks(&self, of_two: u64) -> u64 {
        (2 * of_two / self.matches_a_block).max(4)
    }
}

/// Where to play next on a rung of which `seen` are the probes so far.
pub fn next_values(free: &Free, target: &Target, seen: &[(f64, Seen)], sizes: Sizes) -> Next {
    let Sizes { blocks_left, exact: sd, .. } = sizes;
    let (first, least, most) = (sizes.blocks(FIRST_BLOCKS), sizes.blocks(LEAST_BLOCKS), sizes.blocks(MOST_BLOCKS));
    let (low, high) = free.bounds();
    if seen.is_empty() {
        let mut values: Vec<f64> =
            (0..FIRST_VALUES).map(|i| free.held(low + (high - low) * i as f64 / (FIRST_VALUES - 1) as f64)).collect();
        values.dedup();
        return Next::Play(values.into_iter().map(|x| (x, first)).collect());
    }
    let wanted = wanted(target);
    let Some(known) = CurveSeen::fit(seen, wanted) else { return Next::Done };
    let played: u64 = seen.iter().map(|(_, seen)| seen.count).sum();
    let inside = known.threshold.filter(|found| (low..=high).contains(&found.value));
    if blocks_left < 2 {
        return Next::Done;
    }
    let Some(found) = inside else {
        let end = if off(&known, low, wanted) <= off(&known, high, wanted) { low } else { high };
        let missed = bound_misses(seen, end, target, least);
        let blocks = ((played as f64 * GROWTH) as u64).clamp(2 * least, most).min(blocks_left);
        return if missed { Next::Done } else { Next::Play(vec![(end, blocks)]) };
    };
    let reached = known.share_sd().unwrap_or(f64::INFINITY);
    if reached <= sd {
        return Next::Done;
    }
    // What is still needed if blocks go on telling as much as they did near the answer.
    let needed =
        (wanted * (1.0 - wanted) / (sd * sd) - wanted * (1.0 - wanted) / (reached * reached)) / known.block_worth;
    let grown = (played as f64 * GROWTH).clamp(2.0 * least as f64, 2.0 * most as f64);
    let blocks = ((grown.min(needed.ceil().max(2.0 * least as f64)) as u64).min(blocks_left) / 2).max(1);
    let astride = [-ASTRIDE, ASTRIDE].map(|by| {
        let reach = (known.curve.floor + 0.02, known.curve.ceiling - 0.02);
        let share = if reach.0 < reach.1 { (wanted + by).clamp(reach.0, reach.1) } else { wanted };
        let x = known.curve.solve(share).filter(|x| x.is_finite()).unwrap_or(found.value);
        free.held(x)
    });
    Next::Play(if astride[0] == astride[1] {
        vec![(astride[0], 2 * blocks)]
    } else {
        vec![(astride[0], blocks), (astride[1], blocks)]
    })
}

/// The rate that is aimed at: the value, or the middle of the range.
pub(crate) fn wanted(target: &Target) -> f64 {
    target.value.unwrap_or_else(|| f64::midpoint(target.low().max(0.0), target.high().min(1.0)))
}

fn off(known: &CurveSeen, x: f64, wanted: f64) -> f64 {
    (known.curve.at(x) - wanted).abs()
}

/// Whether what was played at the end of the range leaves the target out by three standard errors.
fn bound_misses(seen: &[(f64, Seen)], end: f64, target: &Target, least: u64) -> bool {
    let (mut sum, mut squares, mut count) = (0.0, 0.0, 0.0);
    for (_, seen) in seen.iter().filter(|(x, _)| *x == end) {
        sum += seen.mean * seen.count as f64;
        squares += seen.sd * seen.sd * seen.count as f64;
        count += seen.count as f64;
    }
    if count < 3.0 * least as f64 {
        return false;
    }
    let (mean, sd) = (sum / count, (squares / count / count).sqrt().max(0.5 / count));
    mean + 3.0 * sd < target.low() || mean - 3.0 * sd > target.high()
}

/// The probes of a rung as knob value and what was seen of one target.
pub(crate) fn seen_of(history: &[Probed], rung: usize, target: usize) -> Vec<(f64, Seen)> {
    let own = history.iter().filter(|tried| tried.probe.rung == rung);
    own.map(|tried| (tried.probe.point[0], tried.seen[target])).collect()
}
