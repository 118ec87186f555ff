//! A response curve: how a win rate changes with a knob, and the knob values that give a wanted rate.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ChiSquared, ContinuousCDF};
use thiserror::Error;

use crate::interval::{normal_quantile, t_quantile};
use crate::local::{LocalCurve, Measured, Solved, least_design_effect};
use crate::resample::{BlockTable, Draws};
use crate::{CurvePoint, Interval, LapseLogistic};

/// Samples of the bootstrap.
const SAMPLES: usize = 1000;
/// A fit whose misfit has a smaller p-value than this is not believed.
const MISFIT: f64 = 0.01;

/// The model that describes the points.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Model {
    /// The logistic curve with lapse rates: no misfit is seen.
    LapseLogistic,
    /// None but the curve that presumes no shape.
    Local,
}

/// The way a curve goes on, where that is clear.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[expect(missing_docs, reason = "the names say it")]
pub enum Turn {
    Rises,
    Falls,
}

/// An error: there is no curve.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum ResponseError {
    /// Fewer than four points.
    #[error("a curve needs at least four points")]
    FewPoints,
    /// Fewer than five blocks a point.
    #[error("a curve needs at least five blocks a point")]
    FewBlocks,
}

/// A response curve without a presumed shape, with its band and its clear rises and falls.
#[derive(Clone, Debug)]
pub struct Response {
    /// The model that describes it.
    pub model: Model,
    /// The logistic curve's parameters, whether it describes the points or not.
    pub logistic: LapseLogistic,
    /// P-value of the logistic curve's misfit: small where it does not describe the points.
    pub fit_p: f64,
    /// P-value of no effect: large where the points differ no more than chance makes them.
    pub effect_p: f64,
    /// The rises and falls that are clear, in order; none where no change is.
    pub turns: Vec<Turn>,
    confidence: f64,
    blocks: f64,
    /// The mean of all points.
    overall: Interval,
    curve: LocalCurve,
}

/// Whether a knob gives a wanted rate.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Outcome {
    /// Some value does.
    Found,
    /// No effect is seen, and the mean of all points is the rate as far as is known: every value may give it.
    Flat,
    /// The band neither shows nor excludes that some value does.
    Open,
    /// The band excludes the rate at every value.
    Never,
}

/// The knob values that give a wanted rate.
#[derive(Clone, Debug, PartialEq)]
pub struct Solution {
    /// Whether there are any.
    pub outcome: Outcome,
    /// Each, with its interval.
    pub solved: Vec<Solved>,
    /// Stretches in which the band does not exclude one, though the curve does not take the rate there.
    pub possible: Vec<(Option<f64>, Option<f64>)>,
    /// Blocks a point with which the band, were the curve where it is, would show whether some value does; none unless
    /// that is open.
    pub blocks_needed: Option<u64>,
    /// The points between which more points would make the interval of the first solved value smaller; none where more
    /// blocks would.
    pub gap: Option<[f64; 2]>,
}

impl Response {
    /// Fits the points at `xs` (rising) from their shares by block, a column of `table` each; `matches_a_block` weighs
    /// them.
    ///
    /// Blocks are shared by the points: whatever is said of the curve goes by the covariance of their means over
    /// blocks, with Student's t. Misfit of the logistic curve is judged by Pearson's chi-square with the binomial
    /// variance under it times one design effect for all points; no effect by resampling blocks jointly (Efron 1979).
    pub fn fit(
        xs: &[f64],
        table: &BlockTable,
        matches_a_block: usize,
        confidence: f64,
        draws: &mut impl Draws,
    ) -> Result<Self, ResponseError> {
        if xs.len() < 4 {
            return Err(ResponseError::FewPoints);
        }
        if table.blocks() < 5 {
            return Err(ResponseError::FewBlocks);
        }
        let means = table.means();
        let blocks = table.blocks() as f64;
        let matches = vec![blocks * matches_a_block as f64; xs.len()];
        let points: Vec<CurvePoint> = xs
            .iter()
            .zip(&means)
            .zip(&matches)
            .map(|((&x, &share), &weight)| CurvePoint { x, share, weight })
            .collect();
        let logistic = LapseLogistic::fit(&points, None);
        let covariance = table.covariance();
        let measured = Measured { nodes: xs, xs, means: &means, matches: &matches, covariance: &covariance, blocks };
        let curve = LocalCurve::fit(&measured, confidence).ok_or(ResponseError::FewPoints)?;
        let fit_p = fit_p(&logistic, xs, &means, &table.variances());
        Ok(Self {
            model: if fit_p >= MISFIT { Model::LapseLogistic } else { Model::Local },
            logistic,
            fit_p,
            effect_p: effect_p(&means, &deviations(table, &means, confidence, draws)),
            turns: turns(&measured, confidence),
            confidence,
            blocks,
            overall: overall(&measured, confidence),
            curve,
        })
    }

    /// The curve at `x`, between the first point and the last, with its pointwise band.
    pub fn at(&self, x: f64) -> Interval {
        self.curve.at(x)
    }

    /// The knob values at which the rate is `share`: every crossing, each with the stretch around it in which the band
    /// holds the rate.
    pub fn solve(&self, share: f64) -> Solution {
        let found = self.curve.solve(share);
        let everywhere = |(low, high): (Option<f64>, Option<f64>)| low.is_none() && high.is_none();
        let ends = found.solved.iter().map(|zero| (zero.low, zero.high));
        let unseen = self.turns.is_empty() && self.effect_p > 1.0 - self.confidence;
        let outcome = if unseen && self.overall.holds(share) {
            Outcome::Flat
        } else if ends.chain(found.possible.iter().copied()).any(everywhere) {
            Outcome::Open
        } else if !found.solved.is_empty() {
            Outcome::Found
        } else if found.possible.is_empty() {
            Outcome::Never
        } else {
            Outcome::Open
        };
        let nearness = match outcome {
            Outcome::Open => Some(self.curve.nearness(share)).filter(|near| *near > 0.0),
            _ => None,
        };
        let blocks_needed = nearness.map(|near| (self.blocks / (near * near)).ceil() as u64);
        let gap = found.solved.first().and_then(|first| self.curve.gap_around(share, first));
        Solution { gap, outcome, solved: found.solved, possible: found.possible, blocks_needed }
    }
}

/// The mean of all points, which share their blocks.
fn overall(measured: &Measured, confidence: f64) -> Interval {
    let points = measured.means.len() as f64;
    let value = measured.means.iter().sum::<f64>() / points;
    let error = (measured.covariance.sum().max(0.0)).sqrt() / points;
    let margin = t_quantile(f64::midpoint(1.0, confidence), measured.blocks - 1.0) * error;
    Interval { value, low: value - margin, high: value + margin }
}

/// The rises and falls of the points that are clear: from the lowest point so far, or the highest, by Student's t on
/// the difference of means, corrected for the number of pairs (Bonferroni).
fn turns(measured: &Measured, confidence: f64) -> Vec<Turn> {
    let Measured { means, matches, covariance, blocks, .. } = measured;
    let pairs = (means.len() * (means.len() - 1)) as f64 / 2.0;
    let margin = t_quantile(1.0 - (1.0 - confidence) / 2.0 / pairs, blocks - 1.0);
    let clear = |low: usize, high: usize| {
        let least = |at: usize| {
            let p = (means[at] * matches[at] + 0.5) / (matches[at] + 1.0);
            least_design_effect(*blocks) * p * (1.0 - p) / matches[at]
        };
        let spread = |at: usize| covariance[(at, at)].max(least(at));
        let variance = spread(low) + spread(high) - 2.0 * covariance[(low, high)];
        means[high] - means[low] > margin * variance.max(least(low) + least(high)).sqrt()
    };
    let mut turns: Vec<Turn> = Vec::new();
    let (mut low, mut high) = (0, 0);
    for at in 1..means.len() {
        let (rose, fell) = (clear(low, at), clear(at, high));
        let turn = match turns.last() {
            Some(Turn::Falls) => rose.then_some(Turn::Rises),
            None if rose => Some(Turn::Rises),
            None | Some(Turn::Rises) => fell.then_some(Turn::Falls),
        };
        if turn.is_some() {
            turns.extend(turn);
            (low, high) = (at, at);
        }
        low = if means[at] < means[low] { at } else { low };
        high = if means[at] > means[high] { at } else { high };
    }
    turns
}

/// Draws the deviations of bootstrap means from the means, widened for few blocks.
fn deviations(table: &BlockTable, means: &[f64], confidence: f64, draws: &mut impl Draws) -> Vec<Vec<f64>> {
    let n = table.blocks() as f64;
    let p = f64::midpoint(1.0, confidence);
    let stretch = t_quantile(p, n - 1.0) / normal_quantile(p) * (n / (n - 1.0)).sqrt();
    (0..SAMPLES)
        .map(|_| table.resample(draws).iter().zip(means).map(|(sample, mean)| stretch * (sample - mean)).collect())
        .collect()
}

/// P-value of misfit: Pearson's chi-square on the points less the parameters that are free (a lapse rate at 0 is not).
/// The variance at a point is that of the curve there, times the design effect pooled over all points; chance that the
/// points share is taken for noise of each, which makes the test err on the side of the curve.
fn fit_p(curve: &LapseLogistic, xs: &[f64], means: &[f64], variances: &[f64]) -> f64 {
    let spread = |x: f64| {
        let p = curve.at(x).clamp(1e-6, 1.0 - 1e-6);
        p * (1.0 - p)
    };
    let total: f64 = xs.iter().map(|&x| spread(x)).sum();
    let effect = variances.iter().sum::<f64>() / total;
    let misfit: f64 = xs.iter().zip(means).map(|(&x, mean)| (mean - curve.at(x)).powi(2) / (effect * spread(x))).sum();
    let free = 2 + usize::from(curve.floor > 1e-6) + usize::from(curve.ceiling < 1.0 - 1e-6);
    if xs.len() <= free {
        return 1.0;
    }
    ChiSquared::new((xs.len() - free) as f64).map_or(f64::NAN, |law| law.sf(misfit))
}

/// Returns the share of draws in which chance alone spreads the points as widely.
fn effect_p(means: &[f64], deviations: &[Vec<f64>]) -> f64 {
    let spread = |values: &[f64]| {
        let mean = values.iter().sum::<f64>() / values.len() as f64;
        values.iter().map(|value| (value - mean).powi(2)).sum::<f64>()
    };
    let observed = spread(means);
    let wider = deviations.iter().filter(|deviation| spread(deviation) >= observed).count();
    (1 + wider) as f64 / (1 + deviations.len()) as f64
}

#[cfg(test)]
mod tests {
    use super::*;

    /// `SplitMix64`, as a source of its own.
    struct Source(u64);

    impl Source {
        fn bits(&mut self) -> u64 {
            self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
            let mut z = self.0;
            z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
            z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
            z ^ (z >> 31)
        }
    }

    impl Draws for Source {
        fn below(&mut self, n: usize) -> usize {
            (self.bits() % n as u64) as usize
        }
    }

    /// A fit to blocks of two independent matches won with these probabilities at 0, 1, 2, ...
    fn fit(rates: &[f64], blocks: usize) -> Result<Response, ResponseError> {
        let mut source = Source(1);
        let mut table = BlockTable::new(rates.len(), blocks);
        for (column, &rate) in rates.iter().enumerate() {
            for block in 0..blocks {
                let won = (0..2).filter(|_| ((source.bits() >> 11) as f64) < rate * (1u64 << 53) as f64).count();
                table.add(column, block, won as f64 / 2.0);
            }
        }
        let xs: Vec<f64> = (0..rates.len()).map(|x| x as f64).collect();
        Response::fit(&xs, &table, 2, 0.95, &mut source)
    }

    #[test]
    fn too_little_data_is_said() {
        assert_eq!(fit(&[0.1, 0.5, 0.9], 50).err(), Some(ResponseError::FewPoints));
        assert_eq!(fit(&[0.1, 0.4, 0.6, 0.9], 4).err(), Some(ResponseError::FewBlocks));
    }

    #[test]
    fn a_logistic_curve_is_found_and_solved() {
        let rates: Vec<f64> = (0..9).map(|x| 1.0 / (1.0 + (-(f64::from(x) - 4.0)).exp())).collect();
        let response = fit(&rates, 400).unwrap();
        assert_eq!((response.model, response.turns.as_slice()), (Model::LapseLogistic, [Turn::Rises].as_slice()));
        assert!(response.effect_p < 0.01);
        let solution = response.solve(0.5);
        let [solved] = solution.solved.as_slice() else { panic!("{solution:?}") };
        let width = solved.high.unwrap() - solved.low.unwrap();
        // Four standard errors; how often the interval itself holds is simulated in `tests/coverage.rs`.
        assert!(width < 0.6 && (solved.value - 4.0).abs() < width, "{solved:?}");
    }

    #[test]
    fn a_staircase_is_not_taken_for_a_logistic_curve() {
        // Two steps with a long landing: no logistic curve comes near.
        let response = fit(&[0.05, 0.05, 0.5, 0.5, 0.5, 0.5, 0.95, 0.95], 2000).unwrap();
        assert_eq!(response.model, Model::Local);
        assert!(response.at(1.0).holds(0.05) && response.at(4.0).holds(0.5), "{:?}", response.at(4.0));
        let solution = response.solve(0.7);
        assert!(solution.solved.iter().all(|zero| (5.0..6.0).contains(&zero.value)), "{solution:?}");
    }

    #[test]
    fn a_hump_has_a_solution_on_either_side() {
        let response = fit(&[0.1, 0.3, 0.5, 0.7, 0.7, 0.5, 0.3, 0.1], 400).unwrap();
        assert_eq!(response.turns, [Turn::Rises, Turn::Falls]);
        let solution = response.solve(0.4);
        let [up, down] = solution.solved.as_slice() else { panic!("{solution:?}") };
        assert!((up.value - 1.5).abs() < 0.3 && (down.value - 5.5).abs() < 0.3, "{solution:?}");
        assert!(
            up.high.unwrap() < 3.0 && down.low.unwrap() > 4.0,
            "each branch has an interval of its own: {solution:?}"
        );
        assert_eq!(solution.outcome, Outcome::Found);
    }

    #[test]
    fn a_rate_is_out_of_reach_only_where_the_band_excludes_it_everywhere() {
        let response = fit(&[0.2, 0.25, 0.3, 0.35, 0.4], 200).unwrap();
        let never = response.solve(0.9);
        assert_eq!((never.outcome, never.solved.len(), never.blocks_needed), (Outcome::Never, 0, None));
        let edge = response.at(4.0);
        let open = response.solve(f64::midpoint(edge.value, edge.high));
        assert_eq!((open.outcome, open.solved.len()), (Outcome::Open, 0));
        // Half a margin away: four times the blocks.
        let needed = open.blocks_needed.unwrap();
        assert!((600..1000).contains(&needed), "{needed}");
        assert!(matches!(open.possible.as_slice(), [(Some(_), None)]), "{open:?}");
    }

    #[test]
    fn an_end_beyond_what_was_measured_is_open() {
        let response = fit(&[0.2, 0.25, 0.3, 0.35, 0.4], 200).unwrap();
        let solution = response.solve(response.at(4.0).value - 0.005);
        let [edge] = solution.solved.as_slice() else { panic!("{solution:?}") };
        assert!(edge.low.is_some() && edge.high.is_none(), "{edge:?}");
    }

    #[test]
    fn a_knob_without_effect_shows_none_and_is_flat_at_its_rate() {
        let response = fit(&[0.5; 8], 100).unwrap();
        assert!(response.effect_p > 0.05, "p = {}", response.effect_p);
        assert!(response.turns.is_empty());
        assert_eq!(response.solve(0.5).outcome, Outcome::Flat);
        assert_eq!(response.solve(0.8).outcome, Outcome::Never);
    }
}
