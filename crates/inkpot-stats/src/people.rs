//! Differences between people, from a series of matches of each.

use std::f64::consts::FRAC_PI_2;

use serde::{Deserialize, Serialize};
use statrs::function::beta::beta_reg;

use crate::interval::t_quantile;
use crate::mean::{FEWEST_BLOCKS, unseen};
use crate::resample::Draws;
use crate::{BlockRates, Interval, Mean, Moments, Scale};

/// Below this chance to win, a player has no hope.
pub const HOPELESS: f64 = 0.15;
/// Above this chance to win, a player has nothing to do.
pub const IDLE: f64 = 0.9;
/// Samples of the bootstrap.
const SAMPLES: usize = 400;

/// Series of people, summed up as they come.
#[derive(Clone, Debug, PartialEq)]
pub struct People {
    matches: usize,
    shares: Vec<f64>,
    first_win: Moments,
    longest_losses: Moments,
    never: BlockRates,
}

/// The spread of people: how differently they fare.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct PeopleFigures {
    /// Share of people whose chance to win is below [`HOPELESS`].
    pub hopeless: Interval,
    /// Share of people whose chance to win is above [`IDLE`].
    pub idle: Interval,
    /// Standard deviation of people's chances to win.
    pub spread: f64,
    /// Mean number of matches until the first win; a person without a win counts with the length of the series.
    pub first_win: Mean,
    /// Share of people without a win in their series.
    pub never: Interval,
    /// Mean length of the longest run of losses.
    pub longest_losses: Mean,
}

impl Default for People {
    fn default() -> Self {
        let lengths = Moments::on(Scale::Count);
        Self { matches: 0, shares: Vec::new(), first_win: lengths, longest_losses: lengths, never: BlockRates::new(1) }
    }
}

impl People {
    /// Counts a person by the points of each match in the order played: 1 won, 0 lost, between them drawn.
    pub fn push(&mut self, points: &[f64]) {
        if points.is_empty() {
            return;
        }
        self.matches = points.len();
        self.shares.push(points.iter().sum::<f64>() / points.len() as f64);
        let won = points.iter().position(|points| *points >= 1.0);
        self.first_win.push(won.map_or(points.len(), |place| place + 1) as f64);
        self.never.push(f64::from(u8::from(won.is_none())));
        let runs = points.split(|points| *points > 0.0).map(<[f64]>::len);
        self.longest_losses.push(runs.max().unwrap_or(0) as f64);
    }

    /// People so far.
    pub fn count(&self) -> usize {
        self.shares.len()
    }

    /// The spread of people; none of fewer than twenty people or series of fewer than four matches.
    ///
    /// People's chances to win are taken for beta-distributed; the distribution has the mean of the shares seen and
    /// their variance less that which luck in this many matches makes (the method of moments of the beta-binomial law;
    /// Kleinman 1973). Intervals: Student's t on the error that resampling people gives.
    pub fn figures(&self, confidence: f64, draws: &mut impl Draws) -> Option<PeopleFigures> {
        if self.shares.len() < FEWEST_BLOCKS as usize || self.matches < 4 {
            return None;
        }
        let fit = Law::of(&self.shares, self.matches);
        let mut samples: Vec<Law> = Vec::with_capacity(SAMPLES);
        let mut drawn = vec![0.0; self.shares.len()];
        for _ in 0..SAMPLES {
            for share in &mut drawn {
                *share = self.shares[draws.below(self.shares.len())];
            }
            samples.push(Law::of(&drawn, self.matches));
        }
        let tail = (1.0 - confidence) / 2.0;
        let people = self.shares.len() as f64;
        let stretch = t_quantile(1.0 - tail, people - 1.0) * (people / (people - 1.0)).sqrt();
        let interval = |figure: &dyn Fn(&Law) -> f64| {
            // As an angle, which is spread more evenly around its value than a share near an end is.
            let angle = |law: &Law| figure(law).clamp(0.0, 1.0).sqrt().asin();
            let angles: Vec<f64> = samples.iter().map(angle).collect();
            let mean = angles.iter().sum::<f64>() / SAMPLES as f64;
            let sd = (angles.iter().map(|x| (x - mean).powi(2)).sum::<f64>() / (SAMPLES as f64 - 1.0)).sqrt();
            let share = |angle: f64| angle.clamp(0.0, FRAC_PI_2).sin().powi(2);
            let value = figure(&fit);
            let (low, high) = (share(angle(&fit) - stretch * sd), share(angle(&fit) + stretch * sd));
            // Where the law leaves nobody beyond a line, people beyond it can be as frequent as this many without one
            // still allow.
            let rare = unseen(people, tail);
            Interval {
                value,
                low: if value > 1.0 - rare { low.min(1.0 - rare) } else { low },
                high: if value < rare { high.max(rare) } else { high },
            }
        };
        Some(PeopleFigures {
            hopeless: interval(&|law| law.below(HOPELESS)),
            idle: interval(&|law| 1.0 - law.below(IDLE)),
            spread: fit.variance.sqrt(),
            first_win: self.first_win.estimate(confidence)?,
            never: self.never.interval(confidence)?,
            longest_losses: self.longest_losses.estimate(confidence)?,
        })
    }
}

/// The law of people's chances to win.
struct Law {
    mean: f64,
    variance: f64,
}

impl Law {
    fn of(shares: &[f64], matches: usize) -> Self {
        let n = shares.len() as f64;
        let mean = shares.iter().sum::<f64>() / n;
        let total = shares.iter().map(|share| (share - mean).powi(2)).sum::<f64>() / (n - 1.0);
        let m = matches as f64;
        let luck = mean * (1.0 - mean) / m;
        Self { mean, variance: ((total - luck) * m / (m - 1.0)).max(0.0) }
    }

    /// Share of people with a lower chance than this.
    fn below(&self, chance: f64) -> f64 {
        let most = self.mean * (1.0 - self.mean);
        // Without spread everybody has the mean; with more than a beta law can have everybody wins all or nothing.
        if self.variance < 1e-9 * most.max(1e-9) {
            return f64::from(u8::from(self.mean < chance));
        }
        let size = (most / self.variance - 1.0).max(1e-3);
        beta_reg(self.mean * size, (1.0 - self.mean) * size, chance)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Weyl's sequence, as a source of its own.
    struct Source(f64);

    impl Source {
        fn unit(&mut self) -> f64 {
            self.0 = (self.0 * 997.0 + 0.618_033_988_749_895).fract();
            self.0
        }
    }

    impl Draws for Source {
        fn below(&mut self, n: usize) -> usize {
            (self.unit() * n as f64) as usize
        }
    }

    #[test]
    fn tries_and_runs_are_counted_in_order() {
        let mut people = People::default();
        for _ in 0..10 {
            people.push(&[0.0, 0.0, 1.0, 0.0, 0.5]);
            people.push(&[0.0, 0.0, 0.0, 0.0, 0.0]);
        }
        let figures = people.figures(0.95, &mut Source(0.3)).unwrap();
        assert_eq!(figures.first_win.value, 4.0); // third match, and five without a win
        assert_eq!(figures.never.value, 0.5);
        assert_eq!(figures.longest_losses.value, 3.5); // two, and five
    }

    #[test]
    fn shares_of_people_agree_with_the_law_they_were_made_from() {
        // Uniform chances: 15 of 100 below 0.15, 10 of 100 above 0.9.
        let mut source = Source(0.1);
        let mut people = People::default();
        for _ in 0..4000 {
            let chance = source.unit();
            let points: Vec<f64> = (0..20).map(|_| f64::from(u8::from(source.unit() < chance))).collect();
            people.push(&points);
        }
        let figures = people.figures(0.95, &mut source).unwrap();
        assert!((figures.hopeless.value - 0.15).abs() < 0.02, "{:?}", figures.hopeless);
        assert!((figures.idle.value - 0.10).abs() < 0.02, "{:?}", figures.idle);
        assert!((figures.spread - (1.0f64 / 12.0).sqrt()).abs() < 0.01, "{}", figures.spread);
    }

    #[test]
    fn people_who_are_alike_are_all_on_one_side() {
        let mut source = Source(0.2);
        let mut people = People::default();
        for _ in 0..2000 {
            let points: Vec<f64> = (0..10).map(|_| f64::from(u8::from(source.unit() < 0.5))).collect();
            people.push(&points);
        }
        let figures = people.figures(0.95, &mut source).unwrap();
        assert!(figures.hopeless.value < 0.02 && figures.idle.value < 0.02, "{figures:?}");
    }

    #[test]
    fn few_people_or_short_series_say_nothing() {
        let mut people = People::default();
        (0..50).for_each(|_| people.push(&[1.0, 0.0]));
        assert_eq!(people.figures(0.95, &mut Source(0.2)), None);
    }
}
