//! Evolution of the covariance of the candidates (CMA-ES; Hansen 2016, "The CMA Evolution Strategy: A Tutorial"), with
//! negative weights, and restarts with a growing population (Auger & Hansen 2005).

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

use crate::linear::{Axes, norm};
use crate::worth::ranking;
use crate::{Judged, Space, Spread, Worth};

/// Which covariance is evolved.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Covariance {
    /// All of it.
    #[default]
    Full,
    /// Its diagonal, for very many genes (Ros & Hansen 2008).
    Diagonal,
}

/// What such a search is set to.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct CmaSettings {
    /// Candidates a generation, at least 4; restarts double it.
    pub population: usize,
    /// Standard deviation of a gene at first, as a share of its scale.
    pub spread: f64,
    /// Which covariance is evolved.
    pub covariance: Covariance,
    /// Whether it begins anew, with twice the population, where it has converged.
    pub restarts: bool,
}

impl CmaSettings {
    /// The population that the tutorial recommends for this many genes.
    pub fn population_for(genes: usize) -> usize {
        4 + (3.0 * (genes as f64).ln()).floor().max(0.0) as usize
    }
}

/// A search under way. Vectors are in units of the scale of each gene.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Cma {
    space: Space,
    settings: CmaSettings,
    seed: u64,
    generation: u64,
    restarts: u64,
    /// The generation in which the present run began.
    began: u64,
    population: usize,
    mean: Vec<f64>,
    sigma: f64,
    /// Row by row, or the diagonal alone.
    covariance: Vec<f64>,
    axes: Axes,
    step_path: Vec<f64>,
    covariance_path: Vec<f64>,
    /// The best of the last generations.
    lately: Vec<Worth>,
}

/// Axes shorter than this, in units of the first spread, say that a run has converged.
const LEAST_STEP: f64 = 1e-12;
/// A covariance of a larger condition cannot be computed with.
const MOST_CONDITION: f64 = 1e14;

/// The constants that follow from the number of genes and the population; names as in the tutorial.
struct Constants {
    weights: Vec<f64>,
    mu_eff: f64,
    c_sigma: f64,
    d_sigma: f64,
    c_c: f64,
    c_1: f64,
    c_mu: f64,
    expected_norm: f64,
}

impl Constants {
    fn of(genes: usize, population: usize, covariance: Covariance) -> Self {
        let (n, lambda) = (genes as f64, population as f64);
        let raw: Vec<f64> =
            (1..=population).map(|i| libm::log(f64::midpoint(lambda, 1.0)) - libm::log(i as f64)).collect();
        let (good, bad) = raw.split_at(population / 2);
        let effective = |own: &[f64]| own.iter().sum::<f64>().powi(2) / own.iter().map(|w| w * w).sum::<f64>();
        let (mu_eff, mu_eff_bad) = (effective(good), effective(bad));
        let mut c_1 = 2.0 / ((n + 1.3).powi(2) + mu_eff);
        let mut c_mu = (2.0 * (0.25 + mu_eff + 1.0 / mu_eff - 2.0) / ((n + 2.0).powi(2) + mu_eff)).min(1.0 - c_1);
        if covariance == Covariance::Diagonal {
            // Fewer numbers are learned, so they may be learned faster.
            let faster = (n + 2.0) / 3.0;
            c_1 = (c_1 * faster).min(0.5);
            c_mu = (c_mu * faster).min(1.0 - c_1);
        }
        let limits = [1.0 + c_1 / c_mu, 1.0 + 2.0 * mu_eff_bad / (mu_eff + 2.0), (1.0 - c_1 - c_mu) / (n * c_mu)];
        let limit = limits.into_iter().fold(f64::INFINITY, f64::min);
        let (up, down): (f64, f64) = (good.iter().sum(), raw.iter().filter(|w| **w < 0.0).map(|w| -w).sum());
        let weights = raw.iter().map(|w| if *w >= 0.0 { w / up } else { limit * w / down }).collect();
        let c_sigma = (mu_eff + 2.0) / (n + mu_eff + 5.0);
        Self {
            weights,
            mu_eff,
            c_sigma,
            d_sigma: 1.0 + 2.0 * (((mu_eff - 1.0) / (n + 1.0)).sqrt() - 1.0).max(0.0) + c_sigma,
            c_c: (4.0 + mu_eff / n) / (n + 4.0 + 2.0 * mu_eff / n),
            c_1,
            c_mu,
            expected_norm: n.sqrt() * (1.0 - 1.0 / (4.0 * n) + 1.0 / (21.0 * n * n)),
        }
    }

    /// Generations from one computation of the axes to the next.
    fn lag(&self, genes: usize) -> u64 {
        ((1.0 / (10.0 * genes as f64 * (self.c_1 + self.c_mu))).floor() as u64).max(1)
    }
}

impl Cma {
    /// A search that begins at a random genome, or at this one.
    pub fn new(space: Space, settings: CmaSettings, seed: u64, start: Option<&[f64]>) -> Self {
        let n = space.len();
        let covariance = match settings.covariance {
            Covariance::Full => (0..n * n).map(|place| if place % (n + 1) == 0 { 1.0 } else { 0.0 }).collect(),
            Covariance::Diagonal => vec![1.0; n],
        };
        let mut search = Self {
            settings,
            seed,
            generation: 0,
            restarts: 0,
            began: 0,
            population: settings.population,
            mean: Vec::new(),
            sigma: settings.spread,
            covariance,
            axes: Axes::ball(n),
            step_path: vec![0.0; n],
            covariance_path: vec![0.0; n],
            lately: Vec::new(),
            space,
        };
        search.mean = search.scaled(start);
        search
    }

    /// A genome in units of the scales: this one, or one that is drawn.
    fn scaled(&self, start: Option<&[f64]>) -> Vec<f64> {
        let drawn = || self.space.draw(&mut Chance::named(self.seed, &[0, self.restarts]));
        let genome = start.map_or_else(drawn, <[f64]>::to_vec);
        genome.iter().zip(&self.space.0).map(|(x, gene)| x / gene.scale()).collect()
    }

    /// How far each candidate of this generation lies from the mean, in units of the step.
    fn deviations(&self) -> Vec<Vec<f64>> {
        let deviation = |place: usize| {
            let mut chance = Chance::named(self.seed, &[self.generation + 1, place as u64]);
            let ball: Vec<f64> = (0..self.space.len()).map(|_| chance.normal()).collect();
            self.axes.stretched(&ball)
        };
        (0..self.population).map(deviation).collect()
    }

    pub(crate) fn ask(&self) -> Vec<Vec<f64>> {
        let genome = |deviation: Vec<f64>| {
            let each = self.mean.iter().zip(deviation).zip(&self.space.0);
            each.map(|((mean, off), gene)| gene.held((mean + self.sigma * off) * gene.scale())).collect()
        };
        self.deviations().into_iter().map(genome).collect()
    }

    pub(crate) fn asks(&self) -> usize {
        self.population
    }

    pub(crate) fn tell(&mut self, judged: &[Judged]) {
        let deviations = self.deviations();
        assert_eq!(judged.len(), deviations.len(), "every candidate that was asked for is judged");
        let n = self.space.len();
        let own = Constants::of(n, self.population, self.settings.covariance);
        let order = ranking(judged.iter().map(|one| &one.worth));
        let sorted: Vec<&Vec<f64>> = order.iter().map(|&place| &deviations[place]).collect();
        self.generation += 1;
        let mut shift = vec![0.0; n];
        for (weight, deviation) in own.weights.iter().zip(&sorted).filter(|(weight, _)| **weight > 0.0) {
            shift.iter_mut().zip(*deviation).for_each(|(sum, x)| *sum += weight * x);
        }
        self.mean.iter_mut().zip(&shift).for_each(|(mean, x)| *mean += self.sigma * x);
        self.follow(&own, &shift, &sorted);
        let age = self.generation - self.began;
        if age.is_multiple_of(own.lag(n)) {
            self.axes = match self.settings.covariance {
                Covariance::Full => Axes::of_matrix(&self.covariance, n),
                Covariance::Diagonal => Axes::of_diagonal(&self.covariance),
            };
        }
        let kept = 10 + (30 * n).div_ceil(self.population);
        self.lately.push(judged[order[0]].worth.clone());
        if self.lately.len() > kept {
            self.lately.remove(0);
        }
        let flat = self.lately.len() == kept && self.lately.iter().all(|worth| *worth == self.lately[0]);
        if self.settings.restarts && (flat || self.has_converged()) {
            self.begin_anew();
        }
    }

    /// The paths, the step and the covariance after a shift of the mean; names of constants as in the tutorial.
    fn follow(&mut self, own: &Constants, shift: &[f64], sorted: &[&Vec<f64>]) {
        let n = shift.len();
        let white = self.axes.whitened(shift);
        let pull = (own.c_sigma * (2.0 - own.c_sigma) * own.mu_eff).sqrt();
        for (path, x) in self.step_path.iter_mut().zip(white) {
            *path = (1.0 - own.c_sigma) * *path + pull * x;
        }
        let length = norm(&self.step_path);
        let age = (self.generation - self.began) as f64;
        let settled = (1.0 - libm::pow(1.0 - own.c_sigma, 2.0 * age)).sqrt();
        let moves = length / settled < (1.4 + 2.0 / (n as f64 + 1.0)) * own.expected_norm;
        let pull = if moves { (own.c_c * (2.0 - own.c_c) * own.mu_eff).sqrt() } else { 0.0 };
        for (path, x) in self.covariance_path.iter_mut().zip(shift) {
            *path = (1.0 - own.c_c) * *path + pull * x;
        }
        self.sigma *= libm::exp((own.c_sigma / own.d_sigma * (length / own.expected_norm - 1.0)).min(1.0));
        let made_up = if moves { 0.0 } else { own.c_1 * own.c_c * (2.0 - own.c_c) };
        let kept = 1.0 + made_up - own.c_1 - own.c_mu * own.weights.iter().sum::<f64>();
        self.covariance.iter_mut().for_each(|x| *x *= kept);
        added(&mut self.covariance, &self.covariance_path, own.c_1);
        for (weight, deviation) in own.weights.iter().zip(sorted) {
            let weight = if *weight >= 0.0 {
                *weight
            } else {
                weight * n as f64 / norm(&self.axes.whitened(deviation)).powi(2).max(f64::MIN_POSITIVE)
            };
            added(&mut self.covariance, deviation, own.c_mu * weight);
        }
    }

    fn has_converged(&self) -> bool {
        let longest = self.axes.lengths.iter().copied().fold(0.0_f64, f64::max);
        self.sigma * longest < LEAST_STEP * self.settings.spread
            || self.axes.condition() > MOST_CONDITION
            || !self.sigma.is_finite()
    }

    fn begin_anew(&mut self) {
        let (generation, restarts, population) = (self.generation, self.restarts + 1, 2 * self.population);
        let fresh = Self::new(self.space.clone(), self.settings, self.seed, None);
        *self = Self { generation, began: generation, restarts, population, ..fresh };
        self.mean = self.scaled(None);
    }

    /// How often it began anew.
    pub fn restarts(&self) -> u64 {
        self.restarts
    }

    pub(crate) fn generation(&self) -> u64 {
        self.generation
    }

    pub(crate) fn spread(&self) -> Spread {
        let mean = self.axes.lengths.iter().sum::<f64>() / self.axes.lengths.len().max(1) as f64;
        Spread { diversity: self.sigma * mean, groups: 1 }
    }
}

/// Adds a vector's square, weighted, to a covariance, whole or by its diagonal.
fn added(covariance: &mut [f64], vector: &[f64], weight: f64) {
    let n = vector.len();
    if covariance.len() == n {
        covariance.iter_mut().zip(vector).for_each(|(x, own)| *x += weight * own * own);
        return;
    }
    for (row, own) in covariance.chunks_exact_mut(n).zip(vector) {
        row.iter_mut().zip(vector).for_each(|(x, other)| *x += weight * own * other);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Gene;

    #[test]
    fn constants_are_those_of_the_tutorial() {
        // Its table of defaults for ten genes: ten candidates, 3.17 effective parents.
        assert_eq!([2, 10, 100].map(CmaSettings::population_for), [6, 10, 17]);
        let own = Constants::of(10, 10, Covariance::Full);
        let good: f64 = own.weights[..5].iter().sum();
        assert!((good - 1.0).abs() < 1e-12 && own.weights.is_sorted_by(|a, b| a > b));
        for (value, expected) in
            [(own.mu_eff, 3.167_3), (own.c_sigma, 0.284_43), (own.c_1, 0.015_284), (own.c_mu, 0.023_552)]
        {
            assert!((value - expected).abs() < 1e-4 * expected, "{value}, expected {expected}");
        }
    }

    #[test]
    fn a_search_that_has_converged_begins_anew_with_twice_the_candidates() {
        let settings = CmaSettings { population: 6, spread: 0.3, covariance: Covariance::Full, restarts: true };
        let mut search = Cma::new(Space(vec![Gene::Share; 2]), settings, 1, None);
        // Nothing it does makes a difference.
        for _ in 0..60 {
            let judged = vec![Judged::of(1.0); search.ask().len()];
            search.tell(&judged);
        }
        assert!(search.restarts() >= 1);
        assert_eq!(search.ask().len(), 6 << search.restarts());
    }
}
