//! A generational genetic algorithm (Holland 1975; Goldberg 1989; Eiben & Smith 2015).

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

use crate::fitness::ranking;
use crate::{Fitness, Gene, Judged, Space, Spread};

/// The way parents are chosen.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Selection {
    /// The best of this many drawn at random.
    Tournament(usize),
    /// With a probability that grows evenly with worth above the worst; for worth that is one number.
    Roulette,
    /// Evenly among the best, this share of all.
    Truncation(f64),
    /// With a probability that falls evenly from the best to the worst; the best is drawn this many times as often as
    /// an average one, from 1 to 2 (Baker 1985).
    Rank(f64),
}

/// The way two parents make a child.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Crossover {
    /// Genes up to a random place from one, the rest from the other.
    OnePoint,
    /// Every gene from either.
    Uniform,
    /// Every number drawn between both, and beyond them by this share of their distance (BLX-alpha, Eshelman & Schaffer
    /// 1993); a choice from either.
    Blend(f64),
}

/// Settings of a genetic algorithm.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct GeneticSettings {
    /// Candidates a generation, at least 2.
    pub population: usize,
    /// The way parents are chosen.
    pub selection: Selection,
    /// The way two parents make a child.
    pub crossover: Crossover,
    /// Share of the children that two parents make, 0 to 1; the others are copies of one.
    pub crossover_rate: f64,
    /// Probability that a gene of a child is changed, 0 to 1.
    pub mutation_rate: f64,
    /// Standard deviation of a change, as a share of the gene's scale.
    pub mutation_strength: f64,
    /// Whether each candidate has a strength of its own, which is inherited and changed too.
    pub adaptive: bool,
    /// The best that stay as they are; below the population.
    pub elites: usize,
}

/// One member of a population.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
struct Member {
    genome: Vec<f64>,
    /// Strength of the mutation that made it, which its children inherit.
    strength: f64,
}

/// A genetic algorithm under way.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Genetic {
    space: Space,
    settings: GeneticSettings,
    seed: u64,
    generation: u64,
    members: Vec<Member>,
}

/// A strength that adapts stays above this share of the one to begin with, so that it cannot die out.
const LEAST_STRENGTH: f64 = 0.01;

impl Genetic {
    /// A random population. `start` are genomes that it holds from the beginning, as many as fit.
    pub fn new(space: Space, settings: GeneticSettings, seed: u64, start: &[Vec<f64>]) -> Self {
        let strength = settings.mutation_strength;
        let member = |place: usize| {
            let drawn = || space.draw(&mut Chance::named(seed, &[0, place as u64]));
            Member { genome: start.get(place).cloned().unwrap_or_else(drawn), strength }
        };
        let members = (0..settings.population).map(member).collect();
        Self { space, settings, seed, generation: 0, members }
    }

    pub(crate) fn ask(&self) -> Vec<Vec<f64>> {
        self.members.iter().map(|member| member.genome.clone()).collect()
    }

    pub(crate) fn asks(&self) -> usize {
        self.settings.population
    }

    pub(crate) fn tell(&mut self, judged: &[Judged]) {
        assert_eq!(judged.len(), self.members.len(), "every candidate that was asked for is judged");
        self.generation += 1;
        let fitness: Vec<&Fitness> = judged.iter().map(|judgement| &judgement.fitness).collect();
        let order = ranking(fitness.iter().copied());
        let draw = Draw::of(self.settings.selection, &fitness, &order);
        let elites = order.iter().take(self.settings.elites).map(|&best| self.members[best].clone());
        let children = (self.settings.elites..self.settings.population).map(|place| {
            let mut chance = Chance::named(self.seed, &[self.generation, place as u64]);
            self.child(&draw, &mut chance)
        });
        self.members = elites.chain(children).collect();
    }

    fn child(&self, draw: &Draw, chance: &mut Chance) -> Member {
        let settings = &self.settings;
        let first = &self.members[draw.parent(chance)];
        let mut child = first.clone();
        if chance.happens(settings.crossover_rate) {
            let second = &self.members[draw.parent(chance)];
            child.genome = crossed(settings.crossover, &self.space, &first.genome, &second.genome, chance);
            child.strength = (first.strength * second.strength).sqrt();
        }
        if settings.adaptive {
            // Self-adaptation by a log-normal step (Schwefel 1981), with his learning rate.
            let rate = 1.0 / (2.0 * self.space.len() as f64).sqrt().max(1.0);
            let least = LEAST_STRENGTH * settings.mutation_strength;
            child.strength = (child.strength * libm::exp(rate * chance.normal())).clamp(least, 1.0);
        }
        for (gene, value) in self.space.0.iter().zip(&mut child.genome) {
            if chance.happens(settings.mutation_rate) {
                *value = gene.mutated(*value, child.strength, chance);
            }
        }
        child
    }

    pub(crate) fn generation(&self) -> u64 {
        self.generation
    }

    pub(crate) fn spread(&self) -> Spread {
        let genomes: Vec<&[f64]> = self.members.iter().map(|member| member.genome.as_slice()).collect();
        Spread { diversity: self.space.diversity(&genomes), groups: 1 }
    }
}

/// A child of two genomes.
fn crossed(how: Crossover, space: &Space, a: &[f64], b: &[f64], chance: &mut Chance) -> Vec<f64> {
    match how {
        Crossover::OnePoint => {
            let place = chance.below(a.len().max(2) - 1) + 1;
            a[..place.min(a.len())].iter().chain(b.iter().skip(place)).copied().collect()
        }
        Crossover::Uniform => a.iter().zip(b).map(|(&a, &b)| if chance.happens(0.5) { a } else { b }).collect(),
        Crossover::Blend(beyond) => {
            let each = space.0.iter().zip(a.iter().zip(b));
            let gene = |(gene, (&a, &b)): (&Gene, (&f64, &f64))| match gene {
                Gene::Choice(_) => {
                    if chance.happens(0.5) {
                        a
                    } else {
                        b
                    }
                }
                _ => gene.held(chance.between(-beyond, 1.0 + beyond) * (b - a) + a),
            };
            each.map(gene).collect()
        }
    }
}

/// The selection of parents from one generation.
enum Draw {
    /// The best of a few, by their places in the ranking.
    Tournament { size: usize, place: Vec<usize> },
    /// By the running sum of their probabilities.
    Wheel(Vec<f64>),
}

impl Draw {
    fn of(how: Selection, fitness: &[&Fitness], order: &[usize]) -> Self {
        let count = fitness.len();
        if let Selection::Tournament(size) = how {
            let mut place = vec![0; count];
            order.iter().enumerate().for_each(|(rank, &index)| place[index] = rank);
            return Self::Tournament { size, place };
        }
        let mut running = 0.0;
        let wheel = probabilities(how, fitness, order).into_iter().map(|share| {
            running += share;
            running
        });
        Self::Wheel(wheel.collect())
    }

    fn parent(&self, chance: &mut Chance) -> usize {
        match self {
            Self::Tournament { size, place } => {
                let drawn = (0..*size).map(|_| chance.below(place.len()));
                drawn.min_by_key(|&index| place[index]).unwrap_or(0)
            }
            Self::Wheel(running) => {
                let at = chance.unit() * running.last().copied().unwrap_or(1.0);
                running.partition_point(|sum| *sum <= at).min(running.len() - 1)
            }
        }
    }
}

/// The probability of each candidate to be drawn as a parent; of a tournament, where nobody is drawn alike.
fn probabilities(how: Selection, fitness: &[&Fitness], order: &[usize]) -> Vec<f64> {
    let count = order.len();
    let by_rank = |share: &dyn Fn(usize) -> f64| {
        let mut all = vec![0.0; count];
        order.iter().enumerate().for_each(|(rank, &index)| all[index] = share(rank));
        all
    };
    match how {
        Selection::Tournament(size) => {
            let beaten = |rank: usize| ((count - rank) as f64 / count as f64).powi(size as i32);
            by_rank(&|rank| beaten(rank) - beaten(rank + 1))
        }
        Selection::Truncation(share) => {
            let parents = ((share * count as f64).round() as usize).clamp(1, count);
            by_rank(&|rank| if rank < parents { 1.0 / parents as f64 } else { 0.0 })
        }
        Selection::Rank(most) => {
            let steps = (count as f64 - 1.0).max(1.0);
            by_rank(&|rank| (most - (2.0 * most - 2.0) * rank as f64 / steps) / count as f64)
        }
        Selection::Roulette => {
            let least = fitness.iter().map(|each| each.first()).fold(f64::INFINITY, f64::min);
            let above: Vec<f64> = fitness.iter().map(|each| each.first() - least).collect();
            let sum: f64 = above.iter().sum();
            if sum > 0.0 {
                above.into_iter().map(|above| above / sum).collect()
            } else {
                vec![1.0 / count as f64; count]
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const EACH: [Selection; 4] =
        [Selection::Tournament(3), Selection::Roulette, Selection::Truncation(0.3), Selection::Rank(1.7)];

    fn settings() -> GeneticSettings {
        GeneticSettings {
            population: 30,
            selection: Selection::Tournament(3),
            crossover: Crossover::Uniform,
            crossover_rate: 0.7,
            mutation_rate: 0.2,
            mutation_strength: 0.1,
            adaptive: false,
            elites: 2,
        }
    }

    fn fitnesses() -> Vec<Fitness> {
        (0..20).map(|number| Fitness::of(f64::from((number * 7) % 20))).collect()
    }

    #[test]
    fn probabilities_add_up_and_rise_with_worth() {
        let fitnesses = fitnesses();
        let fitness: Vec<&Fitness> = fitnesses.iter().collect();
        let order = ranking(fitness.iter().copied());
        for how in EACH {
            let shares = probabilities(how, &fitness, &order);
            assert!((shares.iter().sum::<f64>() - 1.0).abs() < 1e-12, "{how:?}");
            assert!(order.windows(2).all(|pair| shares[pair[0]] >= shares[pair[1]]), "{how:?}: {shares:?}");
        }
    }

    #[test]
    fn parents_are_drawn_as_often_as_their_probability_says() {
        let fitnesses = fitnesses();
        let fitness: Vec<&Fitness> = fitnesses.iter().collect();
        let order = ranking(fitness.iter().copied());
        let draws = 100_000;
        for how in EACH {
            let shares = probabilities(how, &fitness, &order);
            let draw = Draw::of(how, &fitness, &order);
            let mut chance = Chance::from_seed(4);
            let mut counts = vec![0.0; fitness.len()];
            (0..draws).for_each(|_| counts[draw.parent(&mut chance)] += 1.0);
            for (number, share) in shares.iter().enumerate() {
                let (expected, count) = (share * f64::from(draws), counts[number]);
                assert!((count - expected).abs() <= 5.0 * expected.sqrt() + 1e-9, "{how:?}: {count} of {expected}");
            }
        }
    }

    #[test]
    fn worth_that_is_all_alike_gives_everybody_the_same_chance() {
        let fitnesses = vec![Fitness::of(3.0); 4];
        let fitness: Vec<&Fitness> = fitnesses.iter().collect();
        let order = ranking(fitness.iter().copied());
        assert_eq!(probabilities(Selection::Roulette, &fitness, &order), [0.25; 4]);
    }

    #[test]
    fn children_take_every_gene_from_a_parent_or_from_between() {
        let space = Space(vec![Gene::Free(1.0); 6]);
        let (a, b) = (vec![0.0; 6], vec![1.0; 6]);
        let mut chance = Chance::from_seed(2);
        for _ in 0..500 {
            let child = crossed(Crossover::OnePoint, &space, &a, &b, &mut chance);
            assert!(child.is_sorted() && child[0] == 0.0 && child[5] == 1.0, "{child:?}");
            let uniform = crossed(Crossover::Uniform, &space, &a, &b, &mut chance);
            assert!(uniform.iter().all(|x| *x == 0.0 || *x == 1.0));
            let blend = crossed(Crossover::Blend(0.5), &space, &a, &b, &mut chance);
            assert!(blend.iter().all(|x| (-0.5..=1.5).contains(x)));
        }
        assert_eq!(crossed(Crossover::OnePoint, &Space(vec![Gene::Share]), &[0.2], &[0.9], &mut chance).len(), 1);
    }

    #[test]
    fn elites_are_never_lost() {
        let space = Space(vec![Gene::Share; 4]);
        for adaptive in [false, true] {
            let mut search = Genetic::new(space.clone(), GeneticSettings { adaptive, ..settings() }, 9, &[]);
            let mut best = f64::NEG_INFINITY;
            for _ in 0..40 {
                let fitness: Vec<f64> =
                    search.ask().iter().map(|genome| -genome.iter().map(|x| (x - 0.3).powi(2)).sum::<f64>()).collect();
                let now = fitness.iter().copied().fold(f64::NEG_INFINITY, f64::max);
                assert!(now >= best, "{now} after {best}");
                best = now;
                search.tell(&fitness.into_iter().map(Judged::of).collect::<Vec<_>>());
            }
            assert!(best > -1e-3, "{best}");
        }
    }

    #[test]
    fn a_child_is_a_copy_and_leaves_its_parents_as_they_were() {
        let space = Space(vec![Gene::Share; 3]);
        let strict = GeneticSettings { mutation_rate: 1.0, mutation_strength: 0.5, elites: 1, ..settings() };
        let mut search = Genetic::new(space, strict, 1, &[]);
        let before = search.ask();
        let judged: Vec<Judged> = (0..before.len()).map(|number| Judged::of(number as f64)).collect();
        search.tell(&judged);
        // The elite, which was a parent of many, is what it was.
        assert_eq!(search.ask()[0], before[before.len() - 1]);
    }

    #[test]
    fn what_it_begins_with_is_in_the_first_generation() {
        let start = vec![vec![0.5, 0.25]];
        let search = Genetic::new(Space(vec![Gene::Share; 2]), settings(), 1, &start);
        assert_eq!(search.ask()[0], start[0]);
    }
}
