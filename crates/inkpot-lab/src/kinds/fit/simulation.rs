//! Simulated people, who play what the people of the log played.

use std::ops::ControlFlow;

use inkpot_core::{Casting, GameEntry, Knobs, Setting};
use nalgebra::{DMatrix, DVector};

use super::FitPlan;
use crate::Free;
use crate::figure::Figure;
use crate::in_order::in_order;
use crate::stages::StageSet;

/// Added to the diagonal of the covariance, as a share of it, so that columns that say the same do no harm.
const RIDGE: f64 = 0.01;

/// One simulated person: sum and count of every column over the matches.
pub(super) type PersonSums = Vec<(f64, f64)>;

/// The means of every column over all people.
pub(super) fn means(run: &[PersonSums]) -> Vec<f64> {
    let width = run.first().map_or(0, Vec::len);
    let total = |column: usize| run.iter().fold((0.0, 0.0), |sum, own| (sum.0 + own[column].0, sum.1 + own[column].1));
    (0..width).map(total).map(|(sum, count)| sum / count).collect()
}

/// The inverse of the covariance of column means over so many people like those simulated, with a ridge.
pub(super) fn weight_of(run: &[PersonSums], people: usize) -> Option<DMatrix<f64>> {
    let (means, n) = (means(run), run.len() as f64);
    let width = means.len();
    let counts: Vec<f64> = (0..width).map(|column| run.iter().map(|own| own[column].1).sum::<f64>() / n).collect();
    let mut covariance = DMatrix::zeros(width, width);
    for own in run {
        let off = DVector::from_fn(width, |i, _| (own[i].0 - own[i].1 * means[i]) / counts[i]);
        covariance.ger(1.0 / (n - 1.0) / people as f64, &off, &off, 1.0);
    }
    for i in 0..width {
        covariance[(i, i)] *= 1.0 + RIDGE;
    }
    covariance.cholesky().map(|factor| factor.inverse())
}

/// What simulated people play.
pub(super) struct Simulation<'a> {
    pub(super) plan: &'a FitPlan,
    pub(super) figures: &'a [Figure],
    /// How often each opponent was met.
    pub(super) shares: &'a [f64],
    /// Matches of each person.
    pub(super) series: u64,
    pub(super) game: &'a dyn GameEntry,
    pub(super) threads: usize,
}

impl Simulation<'_> {
    /// Opponents that were met at all, each with how often.
    fn met(&self) -> impl Iterator<Item = (usize, f64)> {
        self.shares.iter().copied().enumerate().filter(|(_, share)| *share > 0.0)
    }

    pub(super) fn met_count(&self) -> u64 {
        self.met().count() as u64
    }

    /// So many people at each point, from the block given with it on.
    pub(super) fn people(&self, runs: &[(Vec<f64>, u64)], people: u64) -> Vec<Vec<PersonSums>> {
        let mut all = Vec::with_capacity(runs.len());
        in_order(
            self.threads,
            runs.iter(),
            || (),
            |(), (x, first_block)| {
                let settings: Vec<Setting> =
                    self.met().map(|(met, _)| setting(self.plan, x, met, self.series, self.game)).collect();
                let mut stages = StageSet::of(&settings, self.game);
                (*first_block..first_block + people).map(|block| self.person(&mut stages, block)).collect()
            },
            |_, own| {
                all.push(own);
                ControlFlow::Continue(())
            },
        );
        all
    }

    /// One person against every opponent, each counted as often as it was met.
    fn person(&self, stages: &mut StageSet, block: u64) -> PersonSums {
        let sheet = self.game.sheet();
        let mut sums = vec![(0.0, 0.0); self.figures.len()];
        for (rows, (_, share)) in stages.play(block).iter().zip(self.met()) {
            for played in rows.matches().filter(|played| !played.is_void()) {
                let own = played.seat_of(0).unwrap_or(0);
                for (figure, sum) in self.figures.iter().zip(&mut sums) {
                    let x = figure.of(played, own, sheet.ticks_per_second);
                    if x.is_finite() {
                        *sum = (sum.0 + share * x, sum.1 + share);
                    }
                }
            }
        }
        sums
    }
}

fn setting(plan: &FitPlan, shares: &[f64], opponent: usize, series: u64, game: &dyn GameEntry) -> Setting {
    let free: Knobs = plan
        .free
        .iter()
        .zip(shares)
        .map(|(free, share)| (free.knob.clone(), free.value(value(free, *share))))
        .collect();
    let sheet = game.agents().iter().find(|sheet| sheet.name == plan.standin.kind);
    let given = free.over(&plan.standin.given);
    let knobs = sheet.and_then(|sheet| given.resolve(&sheet.knobs).ok()).unwrap_or_else(|| plan.standin.knobs.clone());
    let other = &plan.opponents[opponent];
    Setting {
        rules: plan.ground.rules.clone(),
        level: plan.ground.level.clone(),
        cast: vec![
            Casting { entrant: 0, kind: plan.standin.kind.clone(), knobs },
            Casting { entrant: 1, kind: other.kind.clone(), knobs: other.knobs.clone() },
        ],
        series: (series / 2) as u32,
        study_seed: plan.ground.seed,
    }
}

fn value(free: &Free, share: f64) -> f64 {
    let (low, high) = free.bounds();
    free.held(low + share * (high - low))
}
