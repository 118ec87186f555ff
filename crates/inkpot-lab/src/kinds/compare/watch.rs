//! Watching a comparison block by block, and stopping it once it is clear.

use inkpot_core::{Block, GameEntry, Rows};
use inkpot_stats::{Interval, Sequence};

use super::asked::{Compare, Requirement};
use crate::Plan;
use crate::course::{Course, print_of};
use crate::kind::Watching;

/// Looks are kept for the figure at every block up to this one, then ever more sparsely.
const KEPT_SINGLY: u64 = 64;
/// Each kept look is then this much later than the one before.
const KEPT_APART: f64 = 1.02;

/// The verdict on the first of two against the second.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Verdict {
    /// It is better.
    Better,
    /// It is worse.
    Worse,
    /// The two differ by no more than counts as equal.
    Equal,
    /// Not clear yet.
    Open,
}

/// The scale of a comparison: each block gives a number from 0 to 1, and 1/2 is even.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Scale {
    /// Whether the two meet each other; else both meet the same others.
    pub(crate) head_to_head: bool,
}

impl Scale {
    pub(crate) fn of(plan: &Plan) -> Self {
        Self { head_to_head: plan.cells.len() < 2 }
    }

    /// A margin in win rate on this scale: a difference of two rates spans twice as much.
    pub(crate) fn margin(self, rate: f64) -> f64 {
        if self.head_to_head { rate } else { rate / 2.0 }
    }

    /// Returns a number of this scale in print: the win rate, or the difference of the two.
    pub(crate) fn reported(self, x: f64) -> f64 {
        if self.head_to_head { x } else { 2.0 * x - 1.0 }
    }

    pub(crate) fn reported_interval(self, interval: &Interval) -> Interval {
        Interval {
            value: self.reported(interval.value),
            low: self.reported(interval.low),
            high: self.reported(interval.high),
        }
    }
}

/// A comparison under way.
pub(crate) struct Watch {
    pub(super) asked: Compare,
    scale: Scale,
    confidence: f64,
    cells: usize,
    course: Course,
    pub(crate) sequence: Sequence,
    /// Sum of points and number of matches of the first and of the second in the block under way, and whether it
    /// counts.
    sums: [(f64, f64); 2],
    print: u64,
    void: bool,
    /// Blocks looked at, counted or not.
    pub(crate) blocks: u64,
    /// Kept looks: block and interval.
    pub(crate) looks: Vec<(u64, Interval)>,
    next_kept: u64,
}

impl Watching for Watch {
    /// Takes the rows of whole cells in order and looks after every block. Once it is clear, and stopping was asked
    /// for, gives the number of rows up to the end of that block.
    fn take(&mut self, rows: &Rows) -> Option<usize> {
        let mut at = 0;
        for block in rows.blocks() {
            self.add(block);
            at += block.rows().len();
            if block.cell() + 1 == self.cells {
                self.close();
                if self.asked.until_clear && self.is_clear() {
                    return Some(at);
                }
            }
        }
        None
    }

    /// The look that was kept last.
    fn latest(&self) -> Option<Interval> {
        self.looks.last().map(|(_, interval)| *interval)
    }
}

impl Watch {
    /// A watch over a comparison.
    pub(super) fn over(settings: Compare, plan: &Plan, game: &dyn GameEntry) -> Self {
        Self {
            asked: settings,
            scale: Scale::of(plan),
            confidence: plan.ground.confidence,
            cells: plan.cells.len(),
            course: Course::of(plan.cells.iter().all(|cell| plan.is_without_chance(cell, game))),
            sequence: Sequence::default(),
            sums: [(0.0, 0.0); 2],
            print: 0,
            void: false,
            blocks: 0,
            looks: Vec::new(),
            next_kept: 1,
        }
    }

    fn add(&mut self, block: Block) {
        let side = if self.scale.head_to_head { 0 } else { block.cell() % 2 };
        for played in block.matches() {
            self.void |= played.is_void();
            self.sums[side].0 += played.seat_of(side).map_or(0.0, |seat| played.points(seat));
            self.sums[side].1 += 1.0;
        }
        self.print = self.print.rotate_left(7) ^ print_of(block);
    }

    fn close(&mut self) {
        let [first, second] = std::mem::take(&mut self.sums).map(|(points, matches)| points / matches);
        let x = if self.scale.head_to_head { first } else { f64::midpoint(first - second, 1.0) };
        let (print, void) = (std::mem::take(&mut self.print), std::mem::take(&mut self.void));
        self.blocks += 1;
        self.course.see(|| print);
        if !void {
            self.sequence.push(x);
        }
        if self.blocks >= self.next_kept {
            self.next_kept = if self.blocks < KEPT_SINGLY {
                self.blocks + 1
            } else {
                (self.blocks as f64 * KEPT_APART).ceil() as u64
            };
            self.keep();
        }
    }

    /// Keeps the present look, unless it was kept.
    pub(crate) fn keep(&mut self) {
        if self.looks.last().is_none_or(|(block, _)| *block < self.blocks) {
            self.looks.push((self.blocks, self.so_far()));
        }
    }

    /// The figure so far, as people read it.
    pub(crate) fn so_far(&self) -> Interval {
        let latest = if self.is_decided() {
            Interval::exactly(self.sequence.mean())
        } else {
            self.sequence.interval(self.confidence)
        };
        self.scale.reported_interval(&latest)
    }

    /// Whether it is always the same match.
    pub(super) fn is_decided(&self) -> bool {
        self.sequence.blocks() == self.blocks && self.course.is_decided()
    }

    /// Whether the question is answered.
    pub(crate) fn is_clear(&self) -> bool {
        if self.is_decided() {
            return true;
        }
        let out = |x: f64| self.sequence.excludes(x, self.confidence);
        let margin = self.asked.equal_within.map(|within| self.scale.margin(within));
        match (self.asked.require, margin) {
            (Some(Requirement::NotWorse), Some(margin)) => out(0.5 - margin),
            (_, Some(margin)) => {
                out(0.5) || ((self.sequence.mean() - 0.5).abs() < margin && out(0.5 - margin) && out(0.5 + margin))
            }
            (_, None) => out(0.5),
        }
    }
}

/// Returns the verdict of an interval: `even` is one half for a win rate, 0 for a difference.
pub(crate) fn verdict(interval: &Interval, even: f64, equal_within: Option<f64>) -> Verdict {
    if interval.is_exact() && interval.value == even {
        Verdict::Equal
    } else if interval.low > even {
        Verdict::Better
    } else if interval.high < even {
        Verdict::Worse
    } else if equal_within.is_some_and(|w| interval.low > even - w && interval.high < even + w) {
        Verdict::Equal
    } else {
        Verdict::Open
    }
}
