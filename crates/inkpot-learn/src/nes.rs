//! Natural evolution strategies with mirrored samples and rank shaping (Salimans, Ho, Chen, Sidor & Sutskever 2017).

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

use crate::fitness::ranking;
use crate::{Fitness, Gene, Judged, Space, Spread};

/// Settings of natural evolution strategies.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct NesSettings {
    /// Samples a generation, in mirrored pairs: even, at least 2. The mean is a candidate beside them.
    pub population: usize,
    /// Standard deviation of a sample, as a share of the gene's scale.
    pub spread: f64,
    /// Step of the mean, as a share of the gene's scale.
    pub rate: f64,
}

/// A search under way. The mean steps by Adam (Kingma & Ba 2015) along the estimated gradient, and stays within the
/// bounds (projection: Biedrzycki 2020 compares it with others).
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Nes {
    space: Space,
    settings: NesSettings,
    seed: u64,
    generation: u64,
    /// The mean, each gene in units of its scale.
    mean: Vec<f64>,
    first: Vec<f64>,
    second: Vec<f64>,
}

const FIRST_KEPT: f64 = 0.9;
const SECOND_KEPT: f64 = 0.999;
const LEAST: f64 = 1e-8;

impl Nes {
    /// A search that begins at a random genome, or at this one.
    pub fn new(space: Space, settings: NesSettings, seed: u64, start: Option<&[f64]>) -> Self {
        let drawn = start.map_or_else(|| space.draw(&mut Chance::named(seed, &[0])), <[f64]>::to_vec);
        let mean = drawn.iter().zip(&space.0).map(|(x, gene)| x / gene.scale()).collect();
        let zeros = vec![0.0; space.len()];
        Self { space, settings, seed, generation: 0, mean, first: zeros.clone(), second: zeros }
    }

    /// The deviations of the samples of this generation; the mirrored ones are left out.
    fn deviations(&self) -> Vec<Vec<f64>> {
        let deviation = |pair: usize| {
            let mut chance = Chance::named(self.seed, &[self.generation + 1, pair as u64]);
            (0..self.space.len()).map(|_| chance.normal()).collect()
        };
        (0..self.settings.population / 2).map(deviation).collect()
    }

    /// Returns the genome at this deviation from the mean, moved to the nearest bound.
    fn at(&self, deviation: impl Iterator<Item = f64>) -> Vec<f64> {
        let each = self.mean.iter().zip(deviation).zip(&self.space.0);
        each.map(|((mean, off), gene)| gene.nearest((mean + self.settings.spread * off) * gene.scale())).collect()
    }

    /// Returns half the distance between the two of a mirrored pair, in deviations: the deviation itself, unless a
    /// bound cut one of them short.
    fn apart(&self, deviation: &[f64]) -> Vec<f64> {
        let (up, down) = (self.at(deviation.iter().copied()), self.at(deviation.iter().map(|x| -x)));
        let each = deviation.iter().zip(&self.space.0).zip(up.into_iter().zip(down));
        each.map(|((off, gene), (up, down))| match gene {
            Gene::Free(_) => *off,
            _ => (up - down) / (2.0 * self.settings.spread * gene.scale()),
        })
        .collect()
    }

    /// The mean, and then each pair.
    pub(crate) fn ask(&self) -> Vec<Vec<f64>> {
        let mut all = vec![self.at(std::iter::repeat(0.0))];
        for deviation in self.deviations() {
            all.push(self.at(deviation.iter().copied()));
            all.push(self.at(deviation.iter().map(|x| -x)));
        }
        all
    }

    pub(crate) fn asks(&self) -> usize {
        self.settings.population / 2 * 2 + 1
    }

    pub(crate) fn tell(&mut self, judged: &[Judged]) {
        let deviations = self.deviations();
        assert_eq!(judged.len(), 2 * deviations.len() + 1, "every candidate that was asked for is judged");
        let shaped = shaped(&judged[1..].iter().map(|judgement| &judgement.fitness).collect::<Vec<_>>());
        let mut slope = vec![0.0; self.mean.len()];
        for (pair, deviation) in deviations.iter().enumerate() {
            let weight = (shaped[2 * pair] - shaped[2 * pair + 1]) / (2.0 * deviations.len() as f64);
            slope.iter_mut().zip(self.apart(deviation)).for_each(|(sum, x)| *sum += weight * x / self.settings.spread);
        }
        self.generation += 1;
        let step = self.generation as f64;
        let (first, second) = (1.0 - libm::pow(FIRST_KEPT, step), 1.0 - libm::pow(SECOND_KEPT, step));
        for (place, slope) in slope.into_iter().enumerate() {
            self.first[place] = FIRST_KEPT * self.first[place] + (1.0 - FIRST_KEPT) * slope;
            self.second[place] = SECOND_KEPT * self.second[place] + (1.0 - SECOND_KEPT) * slope * slope;
            let root = (self.second[place] / second).sqrt() + LEAST;
            let mean = self.mean[place] + self.settings.rate * (self.first[place] / first) / root;
            let gene = self.space.0[place];
            self.mean[place] =
                if let Gene::Free(_) = gene { mean } else { gene.nearest(mean * gene.scale()) / gene.scale() };
        }
    }

    pub(crate) fn generation(&self) -> u64 {
        self.generation
    }

    pub(crate) fn spread(&self) -> Spread {
        Spread { diversity: self.settings.spread, groups: 1 }
    }
}

/// Ranks spread evenly from -1/2, the worst, to 1/2; equals share the mean of their ranks, so that candidates of the
/// same worth pull nowhere.
fn shaped(fitness: &[&Fitness]) -> Vec<f64> {
    let order = ranking(fitness.iter().copied());
    let steps = (fitness.len() as f64 - 1.0).max(1.0);
    let mut all = vec![0.0; fitness.len()];
    let mut from = 0;
    for run in order.chunk_by(|&a, &b| fitness[a] == fitness[b]) {
        let rank = from as f64 + (run.len() as f64 - 1.0) / 2.0;
        for &noise in run {
            all[noise] = 0.5 - rank / steps;
        }
        from += run.len();
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ranks_are_spread_evenly_and_equals_share_theirs() {
        let worths = [2.0, 5.0, 2.0, 1.0, 9.0].map(Fitness::of);
        assert_eq!(shaped(&worths.iter().collect::<Vec<_>>()), [-0.125, 0.25, -0.125, -0.5, 0.5]);
    }

    #[test]
    fn samples_come_in_mirrored_pairs_around_the_mean() {
        let settings = NesSettings { population: 8, spread: 0.3, rate: 0.1 };
        let search = Nes::new(Space(vec![Gene::Free(2.0); 3]), settings, 5, None);
        let genomes = search.ask();
        assert_eq!(genomes.len(), 9);
        for pair in genomes[1..].chunks(2) {
            for place in 0..3 {
                assert!((f64::midpoint(pair[0][place], pair[1][place]) - genomes[0][place]).abs() < 1e-12);
            }
        }
    }

    #[test]
    fn it_climbs_to_the_top_of_a_hill() {
        let settings = NesSettings { population: 20, spread: 0.1, rate: 0.05 };
        let mut search = Nes::new(Space(vec![Gene::Free(1.0); 5]), settings, 1, Some(&[1.0; 5]));
        for _ in 0..200 {
            let fitness = |genome: &Vec<f64>| Judged::of(-genome.iter().map(|x| (x - 0.3).powi(2)).sum::<f64>());
            let judged: Vec<Judged> = search.ask().iter().map(fitness).collect();
            search.tell(&judged);
        }
        assert!(search.ask()[0].iter().all(|x| (x - 0.3).abs() < 0.1), "{:?}", search.ask()[0]);
    }

    #[test]
    fn the_best_is_found_inside_near_at_and_beyond_the_bounds() {
        let settings = NesSettings { population: 20, spread: 0.1, rate: 0.02 };
        for optimum in [0.3, 0.05, 0.0, -0.5] {
            for seed in 0..5 {
                let mut search = Nes::new(Space(vec![Gene::Share; 5]), settings, seed, None);
                for _ in 0..400 {
                    let fitness =
                        |genome: &Vec<f64>| Judged::of(-genome.iter().map(|x| (x - optimum).powi(2)).sum::<f64>());
                    let judged: Vec<Judged> = search.ask().iter().map(fitness).collect();
                    search.tell(&judged);
                    assert!(search.mean.iter().all(|x| (0.0..=1.0).contains(x)), "{:?}", search.mean);
                }
                let best = f64::max(optimum, 0.0);
                let found = &search.ask()[0];
                assert!(found.iter().all(|x| (x - best).abs() < 0.1), "optimum {optimum}, seed {seed}: {found:?}");
            }
        }
    }
}
