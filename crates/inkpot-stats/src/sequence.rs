//! Intervals that hold however often they are looked at.

use std::collections::BTreeMap;

use crate::Interval;
use crate::interval::normal_quantile;

/// Stakes that are bet side by side, as shares of the largest that cannot ruin: the first, and how each is to the one
/// before.
const LARGEST_STAKE: f64 = 0.8;
const RATIO: f64 = 0.6;
const STAKES: usize = 14;
const BISECTIONS: usize = 60;

/// A confidence sequence for the mean of numbers in [0, 1], one a block.
///
/// For each candidate mean `m` a gambler starts with 1 and bets on every number `x` against `m`. Were `m` the mean, no
/// strategy could expect to gain, and the chance that the wealth ever reaches `1 / alpha` is at most `alpha` (Ville
/// 1939); so the candidates whose gambler stays poorer hold the mean at all times at once with probability `1 - alpha`.
/// Half the wealth bets upwards, `1 + c (x / m - 1)`, half downwards, `1 + c ((1 - x) / (1 - m) - 1)`, spread over
/// fixed stakes `c` in a geometric row (Waudby-Smith & Ramdas 2024, betting on a grid). Each half is convex in `m`, so
/// what is left is an interval. Numbers of one value are counted together: the order does not matter.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Sequence {
    /// The count of each number, by its bits; numbers are not negative, so these are in order.
    counts: BTreeMap<u64, f64>,
    blocks: u64,
    sum: f64,
    squares: f64,
}

impl Sequence {
    /// Counts the number of one block, within [0, 1].
    pub fn push(&mut self, x: f64) {
        let x = x.clamp(0.0, 1.0);
        *self.counts.entry(x.to_bits()).or_default() += 1.0;
        self.blocks += 1;
        self.sum += x;
        self.squares += x * x;
    }

    /// Blocks so far.
    pub fn blocks(&self) -> u64 {
        self.blocks
    }

    /// Every number that came, and how often, in order of size.
    pub fn counts(&self) -> impl Iterator<Item = (f64, u64)> {
        self.counts.iter().map(|(bits, times)| (f64::from_bits(*bits), *times as u64))
    }

    /// The mean so far; one half without a block.
    pub fn mean(&self) -> f64 {
        if self.blocks == 0 { 0.5 } else { self.sum / self.blocks as f64 }
    }

    /// Standard deviation of the numbers, with half a 0 and half a 1 added: never 0.
    pub fn sd(&self) -> f64 {
        let n = self.blocks as f64 + 1.0;
        let mean = (self.sum + 0.5) / n;
        ((self.squares + 0.5) / n - mean * mean).max(0.0).sqrt()
    }

    /// Whether `m` is excluded as the mean.
    pub fn excludes(&self, m: f64, confidence: f64) -> bool {
        self.log_wealth(m) >= -(1.0 - confidence).ln()
    }

    /// The means that are not excluded. It holds the true one at all times at once.
    pub fn interval(&self, confidence: f64) -> Interval {
        let value = self.mean();
        Interval { value, low: self.end(value, 0.0, confidence), high: self.end(value, 1.0, confidence) }
    }

    /// Logarithm of the wealth of the gambler against `m`.
    pub fn log_wealth(&self, m: f64) -> f64 {
        let (mut logs, mut most) = ([0.0; 2 * STAKES], f64::NEG_INFINITY);
        for (index, log) in logs.iter_mut().enumerate() {
            let stake = LARGEST_STAKE * RATIO.powi((index / 2) as i32);
            for (bits, count) in &self.counts {
                let x = f64::from_bits(*bits);
                let (got, fair) = if index % 2 == 0 { (x, m) } else { (1.0 - x, 1.0 - m) };
                // Against a mean of 0 a number of 0 is no gain and no loss, and any other wins without end.
                let odds = if got == fair { 1.0 } else { got / fair };
                *log += count * (stake * (odds - 1.0)).ln_1p();
            }
            most = most.max(*log);
        }
        if most.is_infinite() {
            return most;
        }
        most + (logs.iter().map(|log| (log - most).exp()).sum::<f64>() / (2 * STAKES) as f64).ln()
    }

    /// The last mean between `inside` and `outside` that is not excluded.
    fn end(&self, inside: f64, outside: f64, confidence: f64) -> f64 {
        if !self.excludes(outside, confidence) || inside == outside {
            return outside;
        }
        let (mut bounds, mut out) = (inside, outside);
        for _ in 0..BISECTIONS {
            let middle = f64::midpoint(bounds, out);
            if self.excludes(middle, confidence) {
                out = middle;
            } else {
                bounds = middle;
            }
        }
        out
    }
}

/// Blocks that a design of fixed size needs to find a mean that lies `distance` from the value in question, at this
/// confidence (two-sided) and with this power: `((z1 + z2) sd / distance)^2`, the normal approximation.
pub fn fixed_blocks(sd: f64, distance: f64, confidence: f64, power: f64) -> f64 {
    let z = normal_quantile(f64::midpoint(1.0, confidence)) + normal_quantile(power);
    (z * sd / distance).powi(2).ceil()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(shares: &[(f64, usize)]) -> Sequence {
        let mut sequence = Sequence::default();
        for &(x, times) in shares {
            (0..times).for_each(|_| sequence.push(x));
        }
        sequence
    }

    #[test]
    fn nothing_is_excluded_before_the_first_block() {
        assert_eq!(Sequence::default().interval(0.95), Interval { value: 0.5, low: 0.0, high: 1.0 });
    }

    #[test]
    fn the_ends_are_where_the_wealth_reaches_the_bound() {
        let sequence = of(&[(0.0, 10), (0.5, 40), (1.0, 50)]);
        let interval = sequence.interval(0.95);
        assert!(interval.low < 0.7 && 0.7 < interval.high, "{interval:?}");
        for end in [interval.low, interval.high] {
            assert!((sequence.log_wealth(end) - 20f64.ln()).abs() < 1e-6, "{end}");
        }
        assert!(sequence.excludes(0.5, 0.95) && !sequence.excludes(0.7, 0.95));
    }

    #[test]
    fn wealth_is_the_mean_of_the_bets_multiplied_out() {
        // One block of 1 against m = 1/2: up 1 + c, down 1 - c: on average nothing gained or lost.
        assert!(of(&[(1.0, 1)]).log_wealth(0.5).abs() < 1e-12);
        // Two: the mean of (1 + c)^2 and (1 - c)^2 is 1 + c^2 over the stakes.
        let stakes = (0..STAKES as i32).map(|k| LARGEST_STAKE * RATIO.powi(k));
        let expected = 1.0 + stakes.map(|c| c * c).sum::<f64>() / STAKES as f64;
        assert!((of(&[(1.0, 2)]).log_wealth(0.5).exp() - expected).abs() < 1e-12);
    }

    #[test]
    fn all_won_and_all_lost_mirror_each_other_and_reach_the_end() {
        let (won, lost) = (of(&[(1.0, 30)]).interval(0.95), of(&[(0.0, 30)]).interval(0.95));
        assert_eq!((won.high, lost.low), (1.0, 0.0));
        assert!((won.low - (1.0 - lost.high)).abs() < 1e-9 && won.low > 0.7, "{won:?}");
    }

    #[test]
    fn a_fixed_design_for_a_textbook_case() {
        // sd 0.5, difference 0.05, 95 % and 90 %: (3.24152 * 10)^2 = 1050.7.
        assert_eq!(fixed_blocks(0.5, 0.05, 0.95, 0.9), 1051.0);
    }
}
