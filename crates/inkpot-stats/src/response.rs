//! A response curve: how a win rate changes with a knob, and the knob value that gives a wanted rate.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ChiSquared, ContinuousCDF};
use thiserror::Error;

use crate::interval::{normal_quantile, t_quantile};
use crate::resample::{BlockTable, Draws};
use crate::{CurvePoint, Interval, LapseLogistic, isotonic};

/// Samples of the bootstrap.
const SAMPLES: usize = 1000;
/// A fit whose misfit has a smaller p-value than this is not believed.
const MISFIT: f64 = 0.01;

/// Which curve describes the points.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Model {
    /// The logistic curve with lapse rates.
    LapseLogistic,
    /// Straight lines between the points after isotonic regression, where the logistic curve does not fit.
    Isotonic,
}

/// Why there is no curve.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum ResponseError {
    /// Fewer than four points.
    #[error("a curve needs at least four points")]
    FewPoints,
    /// Fewer than five blocks a point.
    #[error("a curve needs at least five blocks a point")]
    FewBlocks,
}

/// A fitted response curve with what the bootstrap says of it.
#[derive(Clone, Debug)]
pub struct Response {
    /// Which curve it is.
    pub model: Model,
    /// The logistic curve's parameters, whether it is used or not.
    pub curve: LapseLogistic,
    /// P-value of the logistic curve's misfit: small where it does not describe the points.
    pub fit_p: f64,
    /// P-value of no effect: large where the points differ no more than chance makes them.
    pub effect_p: f64,
    xs: Vec<f64>,
    confidence: f64,
    best: Shape,
    samples: Vec<Shape>,
}

/// The knob value that gives a wanted rate.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Solved {
    /// The value.
    pub value: f64,
    /// Lower end; none if it lies outside the values that were measured.
    pub low: Option<f64>,
    /// Upper end; none if it lies outside the values that were measured.
    pub high: Option<f64>,
}

#[derive(Clone, Debug)]
enum Shape {
    Logistic(LapseLogistic),
    Steps(Vec<f64>),
}

impl Response {
    /// Fits the points at `xs` (rising) from their shares by block, a column of `table` each; `matches_a_block` weighs
    /// them.
    ///
    /// Uncertainty is by resampling blocks jointly over all points, since these share their chance; deviations are
    /// stretched by Student's t over the normal quantile and by sqrt(n / (n - 1)) for few blocks. Misfit is judged by
    /// Pearson's chi-square with the binomial variance under the curve times one design effect for all points.
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
        let weight = (table.blocks() * matches_a_block) as f64;
        let fit = |shares: &[f64], start: Option<&LapseLogistic>| {
            let points: Vec<CurvePoint> =
                xs.iter().zip(shares).map(|(&x, &share)| CurvePoint { x, share, weight }).collect();
            LapseLogistic::fit(&points, start)
        };
        let curve = fit(&means, None);
        let deviations = deviations(table, &means, confidence, draws);
        let fit_p = fit_p(&curve, xs, &means, &table.variances());
        let effect_p = effect_p(&means, &deviations);
        let rising = curve.slope > 0.0;
        let model = if fit_p >= MISFIT { Model::LapseLogistic } else { Model::Isotonic };
        let shape = |shares: &[f64], start: Option<&LapseLogistic>| match model {
            Model::LapseLogistic => Shape::Logistic(fit(shares, start)),
            Model::Isotonic => Shape::Steps(isotonic(shares, rising)),
        };
        let best = shape(&means, Some(&curve));
        let samples = deviations.iter().map(|deviation| shape(&shifted(&means, deviation), Some(&curve))).collect();
        Ok(Self { model, curve, fit_p, effect_p, xs: xs.to_vec(), confidence, best, samples })
    }

    /// The curve at `x` with its pointwise band.
    pub fn at(&self, x: f64) -> Interval {
        let mut values: Vec<f64> = self.samples.iter().map(|shape| shape.at(&self.xs, x)).collect();
        values.sort_by(f64::total_cmp);
        let value = self.best.at(&self.xs, x);
        let tail = (1.0 - self.confidence) / 2.0;
        Interval { value, low: quantile(&values, tail).min(value), high: quantile(&values, 1.0 - tail).max(value) }
    }

    /// The knob value at which the rate is `share`; none if the curve does not take it between the first point and the
    /// last. Its interval are the quantiles of the values that the bootstrap's curves give.
    pub fn solve(&self, share: f64) -> Option<Solved> {
        let (first, last) = (*self.xs.first()?, *self.xs.last()?);
        let value = self.best.solve(&self.xs, share).filter(|x| (first..=last).contains(x))?;
        let rising = self.at(last).value > self.at(first).value;
        let mut values: Vec<f64> = self
            .samples
            .iter()
            .map(|shape| {
                let below = |at: f64| if rising { at < share } else { at > share };
                match shape.solve(&self.xs, share) {
                    Some(x) => x,
                    None if below(shape.at(&self.xs, last)) => f64::INFINITY,
                    None => f64::NEG_INFINITY,
                }
            })
            .collect();
        values.sort_by(f64::total_cmp);
        let tail = (1.0 - self.confidence) / 2.0;
        let measured = |x: f64| (first..=last).contains(&x).then_some(x);
        Some(Solved {
            value,
            low: measured(quantile(&values, tail).min(value)),
            high: measured(quantile(&values, 1.0 - tail).max(value)),
        })
    }
}

impl Shape {
    fn at(&self, xs: &[f64], x: f64) -> f64 {
        match self {
            Shape::Logistic(curve) => curve.at(x),
            Shape::Steps(ys) => {
                let right = xs.partition_point(|&known| known < x).clamp(1, xs.len() - 1);
                let share = ((x - xs[right - 1]) / (xs[right] - xs[right - 1])).clamp(0.0, 1.0);
                ys[right - 1] + share * (ys[right] - ys[right - 1])
            }
        }
    }

    fn solve(&self, xs: &[f64], share: f64) -> Option<f64> {
        match self {
            Shape::Logistic(curve) => curve.solve(share),
            Shape::Steps(ys) => {
                let right = (1..ys.len()).find(|&i| {
                    let (low, high) = (ys[i - 1].min(ys[i]), ys[i - 1].max(ys[i]));
                    low <= share && share <= high && low < high
                })?;
                let part = (share - ys[right - 1]) / (ys[right] - ys[right - 1]);
                Some(xs[right - 1] + part * (xs[right] - xs[right - 1]))
            }
        }
    }
}

/// How far each sample's means lie from the means, stretched for few blocks.
fn deviations(table: &BlockTable, means: &[f64], confidence: f64, draws: &mut impl Draws) -> Vec<Vec<f64>> {
    let n = table.blocks() as f64;
    let p = f64::midpoint(1.0, confidence);
    let stretch = t_quantile(p, n - 1.0) / normal_quantile(p) * (n / (n - 1.0)).sqrt();
    (0..SAMPLES)
        .map(|_| table.resample(draws).iter().zip(means).map(|(sample, mean)| stretch * (sample - mean)).collect())
        .collect()
}

fn shifted(base: &[f64], deviation: &[f64]) -> Vec<f64> {
    base.iter().zip(deviation).map(|(base, by)| (base + by).clamp(0.0, 1.0)).collect()
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

/// How often chance alone spreads the points as widely as they are.
fn effect_p(means: &[f64], deviations: &[Vec<f64>]) -> f64 {
    let spread = |values: &[f64]| {
        let mean = values.iter().sum::<f64>() / values.len() as f64;
        values.iter().map(|value| (value - mean).powi(2)).sum::<f64>()
    };
    let seen = spread(means);
    let wider = deviations.iter().filter(|deviation| spread(deviation) >= seen).count();
    (1 + wider) as f64 / (1 + deviations.len()) as f64
}

/// Quantile of sorted values with linear interpolation (type 7 of Hyndman & Fan 1996); infinite neighbours are not
/// mixed.
fn quantile(sorted: &[f64], p: f64) -> f64 {
    let at = p * (sorted.len() - 1) as f64;
    let (low, high) = (sorted[at.floor() as usize], sorted[at.ceil() as usize]);
    if low == high || !low.is_finite() || !high.is_finite() {
        return if at.fract() < 0.5 { low } else { high };
    }
    low + at.fract() * (high - low)
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
        assert_eq!(response.model, Model::LapseLogistic);
        assert!(response.effect_p < 0.01);
        let solved = response.solve(0.5).unwrap();
        let width = solved.high.unwrap() - solved.low.unwrap();
        // Four standard errors; how often the interval itself holds is simulated in `tests/coverage.rs`.
        assert!(width < 0.5 && (solved.value - 4.0).abs() < width, "{solved:?}");
    }

    #[test]
    fn a_staircase_is_not_taken_for_a_logistic_curve() {
        // Two steps with a long landing: no logistic curve comes near.
        let response = fit(&[0.05, 0.05, 0.5, 0.5, 0.5, 0.5, 0.95, 0.95], 2000).unwrap();
        assert_eq!(response.model, Model::Isotonic);
        assert!(response.at(1.0).holds(0.05) && response.at(3.5).holds(0.5), "{:?}", response.at(3.5));
        let solved = response.solve(0.7).unwrap();
        assert!((5.0..6.0).contains(&solved.value), "{solved:?}");
    }

    #[test]
    fn a_rate_that_no_value_gives_has_no_solution_and_an_open_end_is_said() {
        let response = fit(&[0.2, 0.25, 0.3, 0.35, 0.4], 200).unwrap();
        assert_eq!(response.solve(0.9), None);
        let edge = response.solve(response.at(4.0).value - 0.005).unwrap();
        assert!(edge.low.is_some() && edge.high.is_none(), "{edge:?}");
    }

    #[test]
    fn a_knob_without_effect_shows_none() {
        let response = fit(&[0.5; 8], 100).unwrap();
        assert!(response.effect_p > 0.05, "p = {}", response.effect_p);
    }
}
