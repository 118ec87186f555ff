//! Evolution of the covariance of the candidates (CMA-ES; Hansen 2016, "The CMA Evolution Strategy: A Tutorial"), with
//! negative weights, and restarts with a growing population (Auger & Hansen 2005).

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

use crate::fitness::ranking;
use crate::linear::{Axes, norm};
use crate::{Fitness, Judged, Space, Spread};

/// The form of the covariance.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Covariance {
    /// All of it.
    #[default]
    Full,
    /// Its diagonal, for very many genes (Ros & Hansen 2008).
    Diagonal,
}

/// Settings of CMA-ES.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct CmaSettings {
    /// Candidates a generation, at least 4; restarts double it.
    pub population: usize,
    /// Standard deviation of a gene at first, as a share of its scale.
    pub spread: f64,
    /// The form of the covariance.
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
    lately: Vec<Fitness>,
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
        let effective =
            |weights: &[f64]| weights.iter().sum::<f64>().powi(2) / weights.iter().map(|w| w * w).sum::<f64>();
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

    /// Returns the distance of this generation's candidates from the mean, in units of the step.
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
            each.map(|((mean, off), gene)| gene.nearest((mean + self.sigma * off) * gene.scale())).collect()
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
        let constants = Constants::of(n, self.population, self.settings.covariance);
        let order = self.ranked(judged, &deviations);
        let sorted: Vec<&Vec<f64>> = order.iter().map(|&place| &deviations[place]).collect();
        self.generation += 1;
        let mut shift = vec![0.0; n];
        for (weight, deviation) in constants.weights.iter().zip(&sorted).filter(|(weight, _)| **weight > 0.0) {
            shift.iter_mut().zip(*deviation).for_each(|(sum, x)| *sum += weight * x);
        }
        self.mean.iter_mut().zip(&shift).for_each(|(mean, x)| *mean += self.sigma * x);
        self.follow(&constants, &shift, &sorted);
        let age = self.generation - self.began;
        if age.is_multiple_of(constants.lag(n)) {
            self.axes = match self.settings.covariance {
                Covariance::Full => Axes::of_matrix(&self.covariance, n),
                Covariance::Diagonal => Axes::of_diagonal(&self.covariance),
            };
        }
        let span = 10 + (30 * n).div_ceil(self.population);
        self.lately.push(judged[order[0]].fitness.clone());
        if self.lately.len() > span {
            self.lately.remove(0);
        }
        let flat = self.lately.len() == span && self.lately.iter().all(|fitness| *fitness == self.lately[0]);
        if self.settings.restarts && (flat || self.has_converged()) {
            self.begin_anew();
        }
    }

    /// The candidates, best first: by the rank of their worth, from 0 for the best to 1, with a penalty for lying
    /// outside the bounds.
    ///
    /// A candidate outside is tried at the nearest point inside, and learned from where it was drawn, with the
    /// quadratic penalty for its distance that Hansen's notes recommend (2016, B.5). The penalty is added to ranks
    /// instead of worths, and the distance is in units of the search's own deviations: so it has no weight to adapt,
    /// and worth may be several numbers.
    fn ranked(&self, judged: &[Judged], deviations: &[Vec<f64>]) -> Vec<usize> {
        let mut order = ranking(judged.iter().map(|judgement| &judgement.fitness));
        let penalties: Vec<f64> = deviations.iter().map(|excess| self.penalty(excess)).collect();
        if penalties.iter().all(|penalty| *penalty == 0.0) {
            return order;
        }
        let last = (order.len() - 1).max(1) as f64;
        let mut lost = vec![0.0; order.len()];
        let mut from = 0;
        for run in order.chunk_by(|&a, &b| judged[a].fitness == judged[b].fitness) {
            let rank = from as f64 + (run.len() as f64 - 1.0) / 2.0;
            for &term in run {
                lost[term] = rank / last + penalties[term];
            }
            from += run.len();
        }
        order.sort_by(|&a, &b| lost[a].total_cmp(&lost[b]));
        order
    }

    /// Mean square of how far a candidate lies outside the bounds, in units of the standard deviation of each gene.
    fn penalty(&self, deviation: &[f64]) -> f64 {
        let n = self.space.len();
        let each = self.mean.iter().zip(deviation).zip(&self.space.0).enumerate();
        let squares = each.map(|(place, ((mean, off), gene))| {
            let wanted = (mean + self.sigma * off) * gene.scale();
            let outside = (wanted - gene.nearest(wanted)) / gene.scale();
            let variance = self.covariance[if self.covariance.len() == n { place } else { place * (n + 1) }];
            outside * outside / (self.sigma * self.sigma * variance)
        });
        squares.sum::<f64>() / n as f64
    }

    /// The paths, the step and the covariance after a shift of the mean; names of constants as in the tutorial.
    fn follow(&mut self, constants: &Constants, shift: &[f64], sorted: &[&Vec<f64>]) {
        let n = shift.len();
        let white = self.axes.whitened(shift);
        let pull = (constants.c_sigma * (2.0 - constants.c_sigma) * constants.mu_eff).sqrt();
        for (path, x) in self.step_path.iter_mut().zip(white) {
            *path = (1.0 - constants.c_sigma) * *path + pull * x;
        }
        let length = norm(&self.step_path);
        let age = (self.generation - self.began) as f64;
        let settled = (1.0 - libm::pow(1.0 - constants.c_sigma, 2.0 * age)).sqrt();
        let moves = length / settled < (1.4 + 2.0 / (n as f64 + 1.0)) * constants.expected_norm;
        let pull = if moves { (constants.c_c * (2.0 - constants.c_c) * constants.mu_eff).sqrt() } else { 0.0 };
        for (path, x) in self.covariance_path.iter_mut().zip(shift) {
            *path = (1.0 - constants.c_c) * *path + pull * x;
        }
        self.sigma *=
            libm::exp((constants.c_sigma / constants.d_sigma * (length / constants.expected_norm - 1.0)).min(1.0));
        let made_up = if moves { 0.0 } else { constants.c_1 * constants.c_c * (2.0 - constants.c_c) };
        let share = 1.0 + made_up - constants.c_1 - constants.c_mu * constants.weights.iter().sum::<f64>();
        self.covariance.iter_mut().for_each(|x| *x *= share);
        added(&mut self.covariance, &self.covariance_path, constants.c_1);
        for (weight, deviation) in constants.weights.iter().zip(sorted) {
            let weight = if *weight >= 0.0 {
                *weight
            } else {
                weight * n as f64 / norm(&self.axes.whitened(deviation)).powi(2).max(f64::MIN_POSITIVE)
            };
            added(&mut self.covariance, deviation, constants.c_mu * weight);
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

    /// The number of restarts.
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
        covariance.iter_mut().zip(vector).for_each(|(x, factor)| *x += weight * factor * factor);
        return;
    }
    for (row, factor) in covariance.chunks_exact_mut(n).zip(vector) {
        row.iter_mut().zip(vector).for_each(|(x, other)| *x += weight * factor * other);
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
        let constants = Constants::of(10, 10, Covariance::Full);
        let good: f64 = constants.weights[..5].iter().sum();
        assert!((good - 1.0).abs() < 1e-12 && constants.weights.is_sorted_by(|a, b| a > b));
        for (value, expected) in [
            (constants.mu_eff, 3.167_3),
            (constants.c_sigma, 0.284_43),
            (constants.c_1, 0.015_284),
            (constants.c_mu, 0.023_552),
        ] {
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

    /// A search over ten bounded genes of unequal weight whose best value is `optimum`, until it comes within 1e-9 of
    /// the best inside the bounds: evaluations, and the largest distance of the mean from the bounds in units of the
    /// step.
    fn climbed(optimum: f64, seed: u64) -> (u64, f64) {
        let genes = 10;
        let settings = CmaSettings { population: 10, spread: 0.3, covariance: Covariance::Full, restarts: false };
        let mut search = Cma::new(Space(vec![Gene::Share; genes]), settings, seed, None);
        let weight = |place: usize| libm::pow(10.0, 2.0 * place as f64 / 9.0);
        let fitness = |genome: &[f64]| {
            let each = genome.iter().enumerate();
            -each.map(|(place, x)| weight(place) * (x - optimum).powi(2)).sum::<f64>()
        };
        let best = fitness(&vec![optimum.clamp(0.0, 1.0); genes]);
        let (mut evaluations, mut outside) = (0, 0.0_f64);
        while evaluations < 100_000 {
            let genomes = search.ask();
            evaluations += genomes.len() as u64;
            let found = genomes.iter().map(|genome| fitness(genome)).fold(f64::NEG_INFINITY, f64::max);
            search.tell(&genomes.iter().map(|genome| Judged::of(fitness(genome))).collect::<Vec<_>>());
            for (place, mean) in search.mean.iter().enumerate() {
                let deviation = search.sigma * search.covariance[place * (genes + 1)].sqrt();
                outside = outside.max((mean - mean.clamp(0.0, 1.0)).abs() / deviation);
            }
            if best - found < 1e-9 {
                break;
            }
        }
        (evaluations, outside)
    }

    #[test]
    fn the_best_is_found_inside_near_at_and_beyond_the_bounds() {
        // Beyond a bound the function still rises where the bound cuts it off.
        for (optimum, most) in [(0.3, 3_000), (0.01, 3_000), (0.0, 3_000), (-0.5, 15_000)] {
            for seed in 0..10 {
                let (evaluations, outside) = climbed(optimum, seed);
                assert!(evaluations < most, "optimum {optimum}, seed {seed}: {evaluations} evaluations");
                assert!(outside < 3.0, "optimum {optimum}, seed {seed}: the mean was {outside} deviations outside");
            }
        }
    }

    #[test]
    fn near_a_bound_noise_leads_to_no_mirror_image() {
        let settings = CmaSettings { population: 10, spread: 0.3, covariance: Covariance::Full, restarts: false };
        for seed in 0..10 {
            let mut search = Cma::new(Space(vec![Gene::Share; 5]), settings, seed, None);
            let mut chance = Chance::from_seed(seed);
            for _ in 0..300 {
                let mut noisy = |genome: &Vec<f64>| {
                    let off: f64 = genome.iter().map(|x| (x - 0.9).powi(2)).sum();
                    Judged::of(0.1 * chance.normal() - off)
                };
                let judged: Vec<Judged> = search.ask().iter().map(&mut noisy).collect();
                search.tell(&judged);
            }
            let off: f64 = search.mean.iter().map(|x| (x - 0.9).powi(2)).sum();
            assert!(off < 0.15, "seed {seed}: the mean is {:?}", search.mean);
            let longest = search.axes.lengths.iter().copied().fold(0.0, f64::max);
            assert!(search.sigma * longest < 0.15, "seed {seed}: the step is {}", search.sigma * longest);
        }
    }
}
