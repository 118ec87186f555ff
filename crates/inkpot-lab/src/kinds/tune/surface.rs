//! Several free knobs or several targets: a surrogate of every figure.
//!
//! Each figure of a rung has a Gaussian process over the free knobs that knows how noisy each probe was.

use inkpot_stats::Surrogate;

use super::{Point, Probed, Tune};

/// The surrogates of a rung's targets.
pub(crate) struct ProbeSurface {
    pub(crate) figures: Vec<Option<Surrogate>>,
}

impl ProbeSurface {
    /// Fits the probes of a rung. Probes at one point are pooled.
    pub(crate) fn fit(tune: &Tune, history: &[Probed], rung: usize) -> Self {
        let targets = tune.rungs[rung].targets.len();
        Self { figures: (0..targets).map(|target| fit(tune, history, rung, target)).collect() }
    }

    /// Mean and variance of each target's figure at a point given as shares of the ranges.
    pub(crate) fn at(&self, shares: &[f64]) -> Vec<(f64, f64)> {
        self.figures.iter().map(|figure| figure.as_ref().map_or((f64::NAN, 0.0), |fit| fit.at(shares))).collect()
    }
}

fn fit(tune: &Tune, history: &[Probed], rung: usize, target: usize) -> Option<Surrogate> {
    // A figure has one spread of blocks, wherever it is measured: that of a single probe is too uncertain.
    let probes: Vec<&Probed> = history.iter().filter(|tried| tried.probe.rung == rung).collect();
    let sampled = || probes.iter().map(|tried| (tried, tried.samples[target])).filter(|(_, sample)| sample.count > 1);
    let (squares, degrees) = sampled().fold((0.0, 0.0), |(squares, degrees), (_, sample)| {
        let d = sample.count as f64 - 1.0;
        (squares + d * sample.sd * sample.sd, degrees + d)
    });
    let pooled = squares / degrees;
    let mut merged: Vec<(Point, f64, f64)> = Vec::new();
    for (tried, sample) in sampled() {
        let shares = tune.shares_of(&tried.probe.point);
        let count = sample.count as f64;
        match merged.iter_mut().find(|(known, ..)| *known == shares) {
            Some((_, sum, blocks)) => (*sum, *blocks) = (*sum + sample.mean * count, *blocks + count),
            None => merged.push((shares, sample.mean * count, count)),
        }
    }
    let xs: Vec<Point> = merged.iter().map(|(x, ..)| x.clone()).collect();
    let ys: Vec<f64> = merged.iter().map(|(_, sum, blocks)| sum / blocks).collect();
    let noise: Vec<f64> = merged.iter().map(|(.., blocks)| pooled.max(1e-9) / blocks).collect();
    Surrogate::fit(&xs, &ys, &noise)
}

/// The `i`-th of points that fill the unit cube evenly: steps by the powers of the root of `x^(d + 1) = x + 1` (the
/// additive recurrence of Korobov's kind, for which this root generalises the golden section).
pub(crate) fn spread(i: usize, dimensions: usize) -> Point {
    let mut root = 1.5f64;
    for _ in 0..60 {
        root = (1.0 + root).powf(1.0 / (dimensions as f64 + 1.0));
    }
    (1..=dimensions).map(|axis| (0.5 + (i as f64 + 1.0) / root.powi(axis as i32)).fract()).collect()
}
