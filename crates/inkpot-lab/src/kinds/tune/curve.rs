//! One free knob and a wanted win rate: matches go where they narrow the answer.
//!
//! A first even look over the knob's range gives a curve that presumes no shape; from then on matches are played at the
//! value that it gives, and to both sides of it, where they tell how steep it is. It ends when the answer is exact
//! enough in win rate, or the budget is spent.

use inkpot_stats::{LocalCurve, Measured, Solved};
use nalgebra::{DMatrix, DVector};

use super::{Free, Probed, Sample, Target};

/// Values of the first look, and blocks at each.
const FIRST_VALUES: usize = 7;
const FIRST_BLOCKS: u64 = 12;
/// The distance from the target, in win rate, of the matches to its sides, and each side's share of a round.
const ASTRIDE: f64 = 0.1;
const TO_A_SIDE: f64 = 0.15;
/// Growth of a round relative to the matches played, within these numbers of blocks at a value.
const GROWTH: f64 = 0.35;
const LEAST_BLOCKS: u64 = 16;
const MOST_BLOCKS: u64 = 1000;
/// A design effect is not believed below this.
const LEAST_DESIGN_EFFECT: f64 = 0.3;
/// A search gives up where the band leaves the target out everywhere at this confidence: it looks many times.
const GIVEN_UP: f64 = 0.999;

/// The curve of a rung, as far as its probes show it.
#[derive(Clone, Debug)]
pub struct ProbeCurve {
    /// The curve.
    pub curve: LocalCurve,
    /// The values that give the wanted rate, each with its interval.
    pub solved: Vec<Solved>,
    /// Independent matches that a block is worth, over all probes.
    pub block_worth: f64,
    /// Whether the rate is out of reach for certain.
    never: bool,
}

impl ProbeCurve {
    /// Fits the samples, as knob value and figure; none before the first look is complete.
    ///
    /// A block counts as this many independent matches as its variance says: the binomial variance at the means over
    /// that of blocks, pooled over all probes. Probes are on blocks of their own, so that their means are independent.
    pub fn fit(free: &Free, samples: &[(f64, Sample)], wanted: f64, confidence: f64) -> Option<Self> {
        let usable: Vec<&(f64, Sample)> = samples.iter().filter(|(_, sample)| sample.count > 1).collect();
        let (mut binomial, mut blocks, mut degrees) = (0.0, 0.0, 0.0);
        for (_, sample) in &usable {
            let (count, freedom) = (sample.count as f64, sample.count as f64 - 1.0);
            let p = (sample.mean * count + 0.5) / (count + 1.0);
            binomial += freedom * p * (1.0 - p);
            blocks += freedom * sample.sd * sample.sd;
            degrees += freedom;
        }
        let block_worth = (binomial / blocks.max(1e-12)).min(2.0 / LEAST_DESIGN_EFFECT);
        let matches: Vec<f64> = usable.iter().map(|(_, sample)| sample.count as f64 * block_worth).collect();
        let means: Vec<f64> = usable.iter().map(|(_, sample)| sample.mean).collect();
        let xs: Vec<f64> = usable.iter().map(|(x, _)| *x).collect();
        let variance = means.iter().zip(&matches).map(|(mean, matches)| {
            let p = (mean * matches + 0.5) / (matches + 1.0);
            p * (1.0 - p) / matches
        });
        let measured = Measured {
            nodes: &first_values(free),
            xs: &xs,
            means: &means,
            matches: &matches,
            covariance: &DMatrix::from_diagonal(&DVector::from_iterator(means.len(), variance)),
            blocks: degrees + 1.0,
        };
        let curve = LocalCurve::fit(&measured, confidence)?;
        let surely = LocalCurve::fit(&measured, GIVEN_UP)?.solve(wanted);
        let solved = curve.solve(wanted).solved;
        let never = surely.solved.is_empty() && surely.possible.is_empty();
        Some(Self { curve, solved, block_worth, never })
    }

    /// The answer next to a value, or the one that is known best.
    pub fn answer(&self, near: Option<f64>) -> Option<&Solved> {
        let preference = |solved: &&Solved| match near {
            Some(near) => (solved.value - near).abs(),
            None => self.curve.share_sd(solved.value) / self.curve.slope(solved.value).abs().max(1e-9),
        };
        self.solved.iter().min_by(|a, b| preference(a).total_cmp(&preference(b)))
    }
}

/// The next probes of a rung.
#[derive(Clone, Debug, PartialEq)]
pub enum Next {
    /// At these values, this many blocks each.
    Play(Vec<(f64, u64)>),
    /// Nowhere: the answer is exact enough, or the target is out of reach for certain.
    Done,
}

/// The limits of a search on a rung: budget and wanted precision.
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
    /// This many blocks of two matches in blocks of this size, at least a few.
    fn blocks(&self, of_two: u64) -> u64 {
        (2 * of_two / self.matches_a_block).max(4)
    }
}

/// The values of the first look, between which the curve is drawn.
pub(crate) fn first_values(free: &Free) -> Vec<f64> {
    let (low, high) = free.bounds();
    let value = |i: usize| free.held(low + (high - low) * i as f64 / (FIRST_VALUES - 1) as f64);
    let mut values: Vec<f64> = (0..FIRST_VALUES).map(value).collect();
    values.dedup();
    values
}

/// Chooses where to play next on a rung of which `samples` are the probes so far, and `near` the present choice of all
/// rungs.
pub fn next_values(
    free: &Free,
    target: &Target,
    samples: &[(f64, Sample)],
    sizes: Sizes,
    confidence: f64,
    near: Option<f64>,
) -> Next {
    let Sizes { blocks_left, exact, .. } = sizes;
    let (first, least, most) = (sizes.blocks(FIRST_BLOCKS), sizes.blocks(LEAST_BLOCKS), sizes.blocks(MOST_BLOCKS));
    if samples.is_empty() {
        return Next::Play(first_values(free).into_iter().map(|x| (x, first)).collect());
    }
    let wanted = wanted(target);
    let Some(known) = ProbeCurve::fit(free, samples, wanted, confidence) else { return Next::Done };
    if blocks_left < 2 || known.never {
        return Next::Done;
    }
    let played: u64 = samples.iter().map(|(_, sample)| sample.count).sum();
    let grown = (played as f64 * GROWTH).clamp(2.0 * least as f64, 2.0 * most as f64);
    let Some(answer) = known.answer(near) else {
        let blocks = (grown as u64).min(blocks_left);
        return Next::Play(vec![(free.held(known.curve.likeliest(wanted)), blocks)]);
    };
    let reached = known.curve.share_sd(answer.value);
    if reached <= exact {
        return Next::Done;
    }
    // What is still needed if blocks go on telling as much as they did near the answer.
    let spread = wanted * (1.0 - wanted);
    let needed = (spread / (exact * exact) - spread / (reached * reached)) / known.block_worth;
    let blocks = (grown.min(needed.ceil().max(2.0 * least as f64)) as u64).min(blocks_left);
    let values = around(free, &known, answer.value);
    let side = if values.len() > 1 { ((blocks as f64 * TO_A_SIDE) as u64).max(1) } else { 0 };
    let middle = blocks.saturating_sub(side * (values.len() as u64 - 1)).max(1);
    let each = values.into_iter().enumerate().map(|(place, x)| (x, if place == 0 { middle } else { side }));
    Next::Play(each.collect())
}

/// Returns the answer, and the values to its sides.
fn around(free: &Free, known: &ProbeCurve, value: f64) -> Vec<f64> {
    let (low, high) = free.bounds();
    let widest = (high - low) / (FIRST_VALUES - 1) as f64;
    let reach = (ASTRIDE / known.curve.slope(value).abs().max(1e-9)).min(widest);
    let mut values = vec![free.held(value)];
    for side in [value - reach, value + reach].map(|x| free.held(x)) {
        if !values.contains(&side) {
            values.push(side);
        }
    }
    values
}

/// The rate that is aimed at: the value, or the middle of the range.
pub(crate) fn wanted(target: &Target) -> f64 {
    target.value.unwrap_or_else(|| f64::midpoint(target.low().max(0.0), target.high().min(1.0)))
}

/// Returns the probes of a rung as knob value and sample of one target.
pub(crate) fn samples_of(history: &[Probed], rung: usize, target: usize) -> Vec<(f64, Sample)> {
    let probes = history.iter().filter(|tried| tried.probe.rung == rung);
    probes.map(|tried| (tried.probe.point[0], tried.samples[target])).collect()
}
