//! Values of alpha-beta search as one whole number: the value first, then how soon it comes.

use std::ops::Neg;

/// Values are kept to one part in this many.
const PARTS: f64 = 65_536.0;
/// Bits for the turns until the end.
const TURN_BITS: u32 = 16;
/// The turns of a value that is not the end of the game: it counts as far away.
const FAR: i64 = 20_000;
/// Values beyond this are cut off: about a thousand million.
const MOST_PARTS: i64 = 1 << 46;

/// A value for the seat to move. Among equal values sooner wins and later losses are greater; the value itself is not
/// touched by that.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct Score(i64);

impl Score {
    pub(crate) const LEAST: Self = Self(-i64::MAX);
    pub(crate) const MOST: Self = Self(i64::MAX);

    /// The end of the game, this many turns from the root.
    #[inline]
    pub(crate) fn end(value: f64, turns: usize) -> Self {
        Self::new(parts(value), (turns as i64).min(FAR - 1))
    }

    /// An estimate.
    #[inline]
    pub(crate) fn estimate(value: f64) -> Self {
        Self::new(parts(value), FAR)
    }

    #[inline]
    fn new(parts: i64, turns: i64) -> Self {
        Self((parts << TURN_BITS) - parts.signum() * turns)
    }

    #[inline]
    fn split(self) -> (i64, i64) {
        let parts = self.0.saturating_add(1 << (TURN_BITS - 1)) >> TURN_BITS;
        (parts, ((parts << TURN_BITS) - self.0) * parts.signum())
    }

    /// The value, to the four decimals that it is good for.
    pub(crate) fn value(self) -> f64 {
        (self.split().0 as f64 / PARTS * 1e4).round() / 1e4
    }

    /// A window around all scores of this value, however soon they come, and of values up to `off` away.
    pub(crate) fn window(self, off: f64) -> (Self, Self) {
        let (exact, off) = (self.split().0, parts(off).max(0));
        let edge = |parts: i64, half: i64| Self((parts.clamp(-MOST_PARTS, MOST_PARTS) << TURN_BITS) + half);
        (edge(exact - off, -(1 << (TURN_BITS - 1))), edge(exact + off, 1 << (TURN_BITS - 1)))
    }

    /// Whether both are the same value, however soon it comes.
    pub(crate) fn same_value(self, other: Self) -> bool {
        self.split().0 == other.split().0
    }

    /// The next smaller score.
    #[inline]
    pub(crate) fn less(self) -> Self {
        Self(self.0.saturating_sub(1).max(Self::LEAST.0))
    }

    /// Turns counted from the root, as counted from the node `ply` turns below it.
    #[inline]
    pub(crate) fn seen_from_node(self, ply: usize) -> Self {
        let (parts, turns) = self.split();
        if turns >= FAR { self } else { Self::new(parts, turns - ply as i64) }
    }

    /// The inverse of `seen_from_node`.
    #[inline]
    pub(crate) fn seen_from_root(self, ply: usize) -> Self {
        let (parts, turns) = self.split();
        if turns >= FAR { self } else { Self::new(parts, (turns + ply as i64).min(FAR - 1)) }
    }
}

#[inline]
fn parts(value: f64) -> i64 {
    // A cast saturates, and takes NaN for 0: no heuristic can overflow the bounds. Rounded by hand: `round` is a call.
    ((value * PARTS + 0.5f64.copysign(value)) as i64).clamp(-MOST_PARTS, MOST_PARTS)
}

impl Neg for Score {
    type Output = Self;

    #[inline]
    fn neg(self) -> Self {
        Self(-self.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sooner_wins_and_later_losses_are_better_and_values_come_first() {
        assert!(Score::end(3.0, 2) > Score::end(3.0, 5));
        assert!(Score::end(-3.0, 5) > Score::end(-3.0, 2));
        assert!(Score::end(3.0, 900) > Score::end(2.5, 1));
        assert!(Score::end(3.0, 900) > Score::estimate(3.0));
        assert!(Score::estimate(-3.0) > Score::end(-3.0, 900));
        assert_eq!(Score::end(0.0, 2), Score::end(0.0, 7));
    }

    #[test]
    fn a_window_holds_all_scores_of_its_value_and_no_other() {
        for value in [-24.0, 0.0, 0.5, 7.0] {
            let (low, high) = Score::end(value, 3).window(0.0);
            for inside in [Score::end(value, 0), Score::end(value, 19_000), Score::estimate(value)] {
                assert!(low < inside && inside < high && inside.same_value(Score::estimate(value)));
            }
            let step = 1.0 / PARTS;
            assert!(Score::estimate(value + step) >= high && Score::estimate(value - step) <= low);
            let (low, high) = Score::end(value, 3).window(2.0);
            assert!(low < Score::end(value - 2.0, 1) && Score::end(value + 2.0, 1) < high);
            assert!(low > Score::end(value - 2.1, 1) && Score::end(value + 2.1, 1) > high);
        }
    }

    #[test]
    fn values_turns_and_signs_survive() {
        for value in [-1e6, -24.0, -0.5, 0.0, 0.25, 7.0, 1e6] {
            for turns in [0, 1, 77, 5000] {
                let score = Score::end(value, turns);
                assert_eq!(score.value(), value);
                assert_eq!(-score, Score::end(-value, turns));
                assert_eq!(score.seen_from_root(9), Score::end(value, turns + 9));
                assert_eq!(score.seen_from_root(9).seen_from_node(9), score);
            }
            assert_eq!(Score::estimate(value).seen_from_root(9), Score::estimate(value));
        }
        assert!(Score::end(f64::MAX, 0) < Score::MOST && Score::end(f64::MIN, 0) > Score::LEAST);
    }
}
