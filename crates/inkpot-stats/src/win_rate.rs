//! Win rates: points shares with an interval that holds near 0 and 1, with draws and with correlated matches.

use crate::Interval;
use crate::interval::beta_quantile;

/// A design effect is not believed below this: few blocks can look more even than they are.
const LEAST_DESIGN_EFFECT: f64 = 0.3;

/// The points shares of blocks of equally many matches, summed as they come.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct BlockRates {
    matches_a_block: f64,
    blocks: f64,
    sum: f64,
    squares: f64,
    decided: bool,
}

impl BlockRates {
    /// No blocks yet, of this many matches each.
    pub fn new(matches_a_block: usize) -> Self {
        Self { matches_a_block: matches_a_block as f64, blocks: 0.0, sum: 0.0, squares: 0.0, decided: false }
    }

    /// Counts a block by its mean points share, 0 to 1.
    pub fn push(&mut self, share: f64) {
        self.blocks += 1.0;
        self.sum += share;
        self.squares += share * share;
    }

    /// Says that no chance is left in the blocks: the share is known without error.
    pub fn decide(&mut self) {
        self.decided = true;
    }

    /// Blocks so far.
    pub fn blocks(&self) -> u64 {
        self.blocks as u64
    }

    /// The points share with its interval; none without a block.
    ///
    /// Two pseudo-blocks, one all lost and one all won, join the blocks for their variance alone. The design effect is
    /// that variance over the binomial one of as many independent matches, kept within 0.3 and the matches a block.
    /// The interval is Jeffreys' beta interval (Brown, Cai & `DasGupta` 2001) on matches divided by the design effect
    /// and by 1 + 2 / blocks, since the design effect itself is estimated; closed at 0 when nothing was scored and at 1
    /// when everything was.
    pub fn interval(&self, confidence: f64) -> Option<Interval> {
        if self.blocks == 0.0 {
            return None;
        }
        let value = (self.sum / self.blocks).clamp(0.0, 1.0);
        if self.decided {
            return Some(Interval::exactly(value));
        }
        let tail = (1.0 - confidence) / 2.0;
        let shrink = self.blocks / (self.blocks + 2.0);
        let matches = shrink * self.blocks * self.matches_a_block / self.design_effect();
        let (won, lost) = (value * matches + 0.5, (1.0 - value) * matches + 0.5);
        let low = if value == 0.0 { 0.0 } else { beta_quantile(tail, won, lost).min(value) };
        let high = if value == 1.0 { 1.0 } else { beta_quantile(1.0 - tail, won, lost).max(value) };
        Some(Interval { value, low, high })
    }

    fn design_effect(&self) -> f64 {
        let n = self.blocks + 2.0;
        let mean = (self.sum + 1.0) / n;
        let variance = ((self.squares + 1.0) - n * mean * mean) / (n - 1.0);
        let binomial = mean * (1.0 - mean) / self.matches_a_block;
        (variance / binomial).clamp(LEAST_DESIGN_EFFECT, self.matches_a_block.max(1.0))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(matches: usize, shares: &[f64]) -> Interval {
        let mut rates = BlockRates::new(matches);
        for &share in shares {
            rates.push(share);
        }
        rates.interval(0.95).unwrap()
    }

    #[test]
    fn all_lost_and_all_won_have_width_and_mirror_each_other() {
        let lost = of(2, &[0.0; 20]);
        let won = of(2, &[1.0; 20]);
        assert_eq!((lost.value, lost.low), (0.0, 0.0));
        assert!(lost.high > 0.01 && lost.high < 0.2, "{lost:?}");
        assert!((won.low - (1.0 - lost.high)).abs() < 1e-12);
    }

    #[test]
    fn many_independent_matches_come_close_to_the_binomial_interval() {
        // 500 blocks of two independent fair matches: shares 0, 1/2, 1 in the ratio 1 : 2 : 1.
        let shares: Vec<f64> = (0..500).map(|block| [0.0, 0.5, 0.5, 1.0][block % 4]).collect();
        let margin = of(2, &shares).half_width();
        let binomial = 1.96 * (0.25f64 / 1000.0).sqrt();
        assert!((margin / binomial - 1.0).abs() < 0.02, "{margin} against {binomial}");
    }

    #[test]
    fn matches_that_repeat_each_other_widen_the_interval() {
        let alike: Vec<f64> = (0..500).map(|block| f64::from(block % 2)).collect();
        let opposed = vec![0.5; 500];
        assert!(of(2, &alike).half_width() > 1.35 * of(2, &opposed).half_width());
    }
}
