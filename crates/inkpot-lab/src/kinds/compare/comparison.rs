//! The finding of a comparison: verdict, cost, and the cost of a fixed design.

use inkpot_stats::{BlockRates, FEWEST_BLOCKS, Interval, fixed_blocks, paired_difference};
use serde::{Deserialize, Serialize};

use super::asked::{Compare, Requirement};
use super::watch::{Scale, Verdict, Watch, verdict};
use crate::Plan;

/// The power of a design of fixed size: its chance to find the difference.
pub const POWER: f64 = 0.9;

/// The finding of a comparison, beside the summary that all studies share.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct CompareFinding {
    /// The comparison of the two.
    pub comparison: ComparisonSummary,
}

/// The summary of a comparison. Figures are those of `a`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct ComparisonSummary {
    /// The first.
    pub a: String,
    /// The second.
    pub b: String,
    /// Whom both met; nobody if they met each other.
    pub against: Vec<String>,
    /// Win rate of the first against the second; none if both met others.
    pub win_rate: Option<Interval>,
    /// Win rate of the first less that of the second, paired by block; none if they met each other.
    pub difference: Option<Interval>,
    /// The verdict.
    pub verdict: Verdict,
    /// Within how much, in win rate, the two count as equal.
    pub equal_within: Option<f64>,
    /// The requirement, and whether it is met.
    pub require: Option<Requirement>,
    /// Whether the requirement is met.
    pub met: Option<bool>,
    /// Whether it was looked at after every block, and could stop: the interval then holds at all looks at once.
    pub until_clear: bool,
    /// Blocks that count, and matches that were played for all.
    pub blocks: u64,
    /// Matches played.
    pub matches: u64,
    /// The block after which it was clear.
    pub clear_at: Option<u64>,
    /// Matches that a design of fixed size would need to find a difference as large as the one seen (or, of two found
    /// equal, to show it) nine times in ten, at the same confidence; none where nothing is established, or too few
    /// blocks say how large it is.
    pub fixed_matches: Option<u64>,
    /// The smallest difference, in win rate, that matters, and the matches that a design of fixed size would need to
    /// find it nine times in ten, at the same confidence; none where too few blocks say how much they vary.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub smallest: Option<SmallestDifference>,
    /// The running interval: block, value, lower and upper end, each holding at all looks at once.
    pub running: Vec<(u64, f64, f64, f64)>,
}

/// The smallest difference that matters, with the cost of finding it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct SmallestDifference {
    /// The difference in win rate.
    pub difference: f64,
    /// Matches of a design of fixed size that finds it nine times in ten.
    pub fixed_matches: u64,
}

impl ComparisonSummary {
    /// One of which nothing is known yet.
    pub(super) fn begun(a: String, b: String, equal_within: Option<f64>, require: Option<Requirement>) -> Self {
        Self {
            a,
            b,
            against: Vec::new(),
            win_rate: None,
            difference: None,
            verdict: Verdict::Open,
            equal_within,
            require,
            met: None,
            until_clear: false,
            blocks: 0,
            matches: 0,
            clear_at: None,
            fixed_matches: None,
            smallest: None,
            running: Vec::new(),
        }
    }

    /// Sets the figure and its consequences.
    pub(super) fn conclude(&mut self, figure: Option<Interval>, head_to_head: bool) {
        let even = if head_to_head { 0.5 } else { 0.0 };
        let within = self.equal_within;
        self.win_rate = figure.filter(|_| head_to_head);
        self.difference = figure.filter(|_| !head_to_head);
        self.verdict = figure.as_ref().map_or(Verdict::Open, |figure| verdict(figure, even, within));
        self.met = self.require.map(|require| match (require, &figure) {
            (_, None) => false,
            (Requirement::Better, Some(interval)) => interval.low > even,
            (Requirement::NotWorse, Some(interval)) => interval.low > even - within.unwrap_or(0.0),
        });
    }

    /// The figure that was compared: a win rate or a difference of two.
    pub fn figure(&self) -> Option<Interval> {
        self.win_rate.or(self.difference)
    }

    /// Whether it is always the same match, so that the figure is known without error.
    pub fn is_decided(&self) -> bool {
        self.figure().is_some_and(|interval| interval.is_exact())
    }

    /// The figure at which the two are alike.
    pub fn even(&self) -> f64 {
        if self.against.is_empty() { 0.5 } else { 0.0 }
    }
}

/// Sums up a watch that saw every block.
pub(super) fn compared(plan: &Plan, mut watch: Watch, matches: u64) -> ComparisonSummary {
    let settings = watch.asked;
    let scale = Scale::of(plan);
    watch.keep();
    let counted = watch.sequence.blocks();
    let figure =
        if settings.until_clear { (counted > 0).then(|| watch.so_far()) } else { at_the_end(&watch, scale, plan) };
    let name = |place: usize| plan.entrants[place].name.clone();
    let a_block = plan.matches_a_block() * plan.cells.len() as u64;
    let mut comparison = ComparisonSummary {
        against: (2..plan.entrants.len()).map(name).collect(),
        until_clear: settings.until_clear,
        blocks: counted,
        matches,
        clear_at: (settings.until_clear && watch.is_clear()).then_some(watch.blocks),
        running: watch
            .looks
            .iter()
            .map(|(block, interval)| (*block, interval.value, interval.low, interval.high))
            .collect(),
        ..ComparisonSummary::begun(name(0), name(1), settings.equal_within, settings.require)
    };
    comparison.conclude(figure, scale.head_to_head);
    let established = comparison.verdict != Verdict::Open || comparison.met == Some(true);
    if established && !comparison.is_decided() && counted >= FEWEST_BLOCKS {
        let fixed = fixed(&watch, scale, &settings, comparison.verdict, plan.ground.confidence);
        comparison.fixed_matches = fixed.map(|blocks| blocks * a_block);
    }
    if !comparison.is_decided() && counted >= FEWEST_BLOCKS {
        let margin = scale.margin(settings.smallest);
        let blocks = whole_blocks(fixed_blocks(watch.sequence.sd(), margin, plan.ground.confidence, POWER));
        comparison.smallest =
            blocks.map(|blocks| SmallestDifference { difference: settings.smallest, fixed_matches: blocks * a_block });
    }
    comparison
}

/// The interval of a comparison of fixed size, looked at once.
fn at_the_end(watch: &Watch, scale: Scale, plan: &Plan) -> Option<Interval> {
    if watch.is_decided() {
        return Some(watch.so_far());
    }
    let blocks = || watch.sequence.counts().flat_map(|(x, times)| std::iter::repeat_n(x, times as usize));
    if scale.head_to_head {
        let mut rates = BlockRates::new(plan.matches_a_block() as usize);
        blocks().for_each(|x| rates.push(x));
        return rates.interval(plan.ground.confidence);
    }
    paired_difference(blocks().map(|x| (scale.reported(x), 0.0)), plan.ground.confidence).map(|found| found.difference)
}

/// Blocks of a design of fixed size; none where nothing was seen to plan for.
fn fixed(watch: &Watch, scale: Scale, settings: &Compare, verdict: Verdict, confidence: f64) -> Option<u64> {
    let off = watch.sequence.mean() - 0.5;
    let distance = match (settings.require, verdict, settings.equal_within.map(|within| scale.margin(within))) {
        (Some(Requirement::NotWorse), _, Some(margin)) => (off + margin).abs(),
        (_, Verdict::Equal, Some(margin)) => margin - off.abs(),
        _ => off.abs(),
    };
    whole_blocks(fixed_blocks(watch.sequence.sd(), distance, confidence, POWER)).filter(|_| watch.sequence.blocks() > 0)
}

/// A number of blocks that can be played.
fn whole_blocks(blocks: f64) -> Option<u64> {
    (blocks.is_finite() && blocks > 0.0 && blocks < 1e12).then_some(blocks as u64)
}
