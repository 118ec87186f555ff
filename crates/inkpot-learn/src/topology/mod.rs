//! Evolution of nodes and links together (Stanley & Miikkulainen 2002): genes carry historical markings that align
//! parents, species protect innovation, and networks start small and grow.
//!
//! It departs from the paper in these points. Offspring are shared out by a power of the ranks of a species' members, not
//! by raw fitness, so that worth may be of any scale, or several numbers. The threshold of distance moves so that there
//! are about as many species as asked for. Excess and disjoint genes count alike. A search may be set to renew itself:
//! then the champion of a species stays only while the species improves.

mod breed;
mod genome;
mod innovation;
mod settings;
mod species;

pub use self::settings::TopologySettings;

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

use self::genome::GraphGenome;
use self::innovation::Innovations;
use self::species::Species;
use crate::fitness::ranking;
use crate::{Fitness, Graph, Judged, Spread};

/// A search under way.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Topology {
    settings: TopologySettings,
    seed: u64,
    generation: u64,
    innovations: Innovations,
    members: Vec<GraphGenome>,
    species: Vec<Species>,
    /// Genomes farther apart than this are of different species.
    threshold: f64,
    best: Option<Fitness>,
}

/// The threshold to begin with, and how often another is tried in a generation.
const THRESHOLD: f64 = 3.0;
const TRIES: usize = 8;
/// Share of a species that may have children.
const SURVIVORS: f64 = 0.2;
/// Generations without improvement after which a species dies out, unless it is one of the best two; the second number is
/// for a search that renews itself, which spares the best two only where every species would die out.
const PATIENCE: [u64; 2] = [15, 8];
const BEST: usize = 2;
/// The champion of a species of more than this many stays as it is.
const CHAMPION_FROM: usize = 5;

impl Topology {
    /// A population of networks in which every input leads to every output.
    pub fn new(settings: TopologySettings, seed: u64) -> Self {
        let mut innovations = Innovations::new(settings.inputs, settings.outputs);
        let member = |place: usize| {
            let mut chance = Chance::named(seed, &[0, place as u64]);
            GraphGenome::minimal(&settings, &mut innovations, &mut chance)
        };
        let members: Vec<GraphGenome> = (0..settings.population).map(member).collect();
        let mut search = Self {
            settings,
            seed,
            generation: 0,
            innovations,
            members,
            species: Vec::new(),
            threshold: THRESHOLD,
            best: None,
        };
        search.sort_into_species();
        search
    }

    pub(crate) fn ask(&self) -> Vec<Graph> {
        self.members.iter().map(|member| member.graph(&self.settings)).collect()
    }

    pub(crate) fn asks(&self) -> usize {
        self.settings.population
    }

    pub(crate) fn tell(&mut self, judged: &[Judged]) {
        assert_eq!(judged.len(), self.members.len(), "every candidate that was asked for is judged");
        self.generation += 1;
        let order = ranking(judged.iter().map(|judgement| &judgement.fitness));
        let mut points = vec![0.0; order.len()];
        let from_last = |rank: usize| (order.len() - rank) as f64 / order.len() as f64;
        order
            .iter()
            .enumerate()
            .for_each(|(rank, &index)| points[index] = libm::pow(from_last(rank), self.settings.pressure));
        for species in &mut self.species {
            species.look(judged, &points, self.generation);
        }
        self.best = Some(judged[order[0]].fitness.clone());
        self.forget_who_stands_still();
        self.breed(&points);
        self.sort_into_species();
    }

    fn forget_who_stands_still(&mut self) {
        let renew = self.settings.renew;
        let stands_still = |species: &Species| self.generation - species.improved > PATIENCE[usize::from(renew)];
        self.species.sort_by(|a, b| b.best_now.cmp(&a.best_now).then(a.founded.cmp(&b.founded)));
        let elites = if renew && !self.species.iter().all(stands_still) { 0 } else { BEST };
        let mut place = 0;
        self.species.retain(|species| {
            place += 1;
            place <= elites || !stands_still(species)
        });
    }

    /// The next generation: each species has children by the mean points of its members.
    fn breed(&mut self, points: &[f64]) {
        let shares: Vec<f64> = self.species.iter().map(|species| species.mean_points).collect();
        let counts = species::shared_out(self.settings.population, &shares);
        let pools: Vec<Vec<usize>> = self.species.iter().map(|species| species.ranked(points)).collect();
        let mut next = Vec::with_capacity(self.settings.population);
        for (number, &count) in counts.iter().enumerate() {
            let pool = &pools[number];
            let parents = &pool[..((pool.len() as f64 * SURVIVORS).ceil() as usize).clamp(1, pool.len())];
            let is_new = self.species[number].improved == self.generation;
            let stays = pool.len() > CHAMPION_FROM && (is_new || !self.settings.renew);
            for child in 0..count {
                if child == 0 && stays {
                    next.push(self.members[pool[0]].clone());
                    continue;
                }
                let mut chance = Chance::named(self.seed, &[self.generation, next.len() as u64]);
                let mate = breed::mate(parents, &pools, &mut chance);
                let first = parents[chance.below(parents.len())];
                let pair = mate.map(|mate| (mate, points[mate].total_cmp(&points[first])));
                let second = pair.map(|(mate, order)| (&self.members[mate], order));
                let mut genome = breed::child(&self.members[first], second, &mut chance);
                genome.mutate(&self.settings, &mut self.innovations, &mut chance);
                next.push(genome);
            }
        }
        self.members = next;
    }

    /// Puts every member into the first species that it is near to, or founds one by it; the threshold is set so that
    /// there are about as many as asked for.
    fn sort_into_species(&mut self) {
        let (mut low, mut high) = (0.0, f64::INFINITY);
        let mut sorted = self.sorted(self.threshold);
        for _ in 0..TRIES {
            match sorted.len() {
                count if 4 * count > 5 * self.settings.species => low = self.threshold,
                count if 5 * count < 4 * self.settings.species => high = self.threshold,
                _ => break,
            }
            self.threshold = if high.is_finite() { f64::midpoint(low, high) } else { 1.5 * low };
            sorted = self.sorted(self.threshold);
        }
        self.species = sorted;
        for species in &mut self.species {
            let mut chance = Chance::named(self.seed, &[self.generation, u64::MAX, species.founded]);
            let chosen = species.members[chance.below(species.members.len())];
            species.representative = self.members[chosen].clone();
        }
    }

    /// The species with their members, if genomes farther apart than this are of different ones.
    fn sorted(&self, threshold: f64) -> Vec<Species> {
        let mut all = self.species.clone();
        for species in &mut all {
            species.members.clear();
        }
        for (place, member) in self.members.iter().enumerate() {
            let near =
                |species: &Species| species.representative.distance(member, self.settings.weight_distance) < threshold;
            match all.iter_mut().find(|species| near(species)) {
                Some(species) => species.members.push(place),
                None => all.push(Species::founded(member.clone(), place, self.generation)),
            }
        }
        all.retain(|species| !species.members.is_empty());
        all
    }

    pub(crate) fn generation(&self) -> u64 {
        self.generation
    }

    pub(crate) fn spread(&self) -> Spread {
        let count = self.members.len();
        // Each to the next is enough to see whether all have become alike.
        let apart = (0..count).map(|index| {
            self.members[index].distance(&self.members[(index + 1) % count], self.settings.weight_distance)
        });
        Spread { diversity: apart.sum::<f64>() / count as f64, groups: self.species.len() }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Memory, Network};

    fn settings(population: usize, inputs: usize, recurrent: bool) -> TopologySettings {
        TopologySettings {
            population,
            inputs,
            outputs: 1,
            recurrent,
            add_node: 0.1,
            add_link: 0.2,
            mutation_rate: 0.8,
            mutation_strength: 0.6,
            species: 8,
            pressure: 1.0,
            weight_distance: 0.4,
            renew: false,
        }
    }

    /// Worth that does not mean anything but differs from network to network.
    fn generation(search: &mut Topology) {
        let fitness = |graph: Graph| {
            let inputs = vec![0.5; search.settings.inputs];
            Judged::of(f64::from(Network::Graph(graph).forward(&inputs, &mut Memory::default())[0]))
        };
        let judged: Vec<Judged> = search.ask().into_iter().map(fitness).collect();
        search.tell(&judged);
    }

    #[test]
    fn populations_keep_their_size_and_networks_grow() {
        for recurrent in [false, true] {
            let mut search = Topology::new(settings(40, 3, recurrent), 2);
            let links = |search: &Topology| search.ask().iter().map(|graph| graph.links.len()).sum::<usize>();
            let before = links(&search);
            for _ in 0..40 {
                generation(&mut search);
                assert_eq!(search.members.len(), 40);
                let sorted: usize = search.species.iter().map(|species| species.members.len()).sum();
                assert_eq!(sorted, 40, "everybody is in one species");
            }
            assert!(links(&search) > before);
        }
    }

    #[test]
    fn a_mark_means_the_same_link_in_every_genome() {
        let mut search = Topology::new(settings(40, 3, true), 5);
        for _ in 0..40 {
            generation(&mut search);
        }
        let mut links = std::collections::BTreeMap::new();
        for gene in search.members.iter().flat_map(|member| &member.links) {
            assert_eq!(*links.entry(gene.mark).or_insert((gene.from, gene.to)), (gene.from, gene.to));
        }
        assert!(links.len() > 10);
        for member in &search.members {
            assert!(member.links.is_sorted_by(|a, b| a.mark < b.mark), "a genome has every gene once");
        }
    }

    #[test]
    fn without_loops_every_link_leads_onward() {
        let mut search = Topology::new(settings(40, 3, false), 7);
        for _ in 0..40 {
            generation(&mut search);
        }
        for graph in search.ask() {
            let mut done: Vec<u32> = (0..graph.inputs as u32).collect();
            let mut links = graph.links.as_slice();
            for node in &graph.order {
                let (links_in, rest) = links.split_at(node.links as usize);
                assert!(links_in.iter().all(|link| done.contains(&link.from)));
                done.push(node.node);
                links = rest;
            }
        }
    }

    #[test]
    fn the_best_of_a_large_species_is_never_lost_unless_the_search_renews_itself() {
        for renew in [false, true] {
            let mut search = Topology::new(TopologySettings { species: 1, renew, ..settings(30, 2, false) }, 3);
            let (mut best, mut lost) = (f64::NEG_INFINITY, 0);
            for _ in 0..30 {
                let fitness: Vec<f64> = search
                    .ask()
                    .into_iter()
                    .map(|graph| f64::from(Network::Graph(graph).forward(&[0.3, -0.2], &mut Memory::default())[0]))
                    .map(|output| -(output - 0.3).abs())
                    .collect();
                let now = fitness.iter().copied().fold(f64::NEG_INFINITY, f64::max);
                let large = search.species.iter().all(|species| species.members.len() > CHAMPION_FROM);
                lost += usize::from(now < best && large);
                best = now;
                search.tell(&fitness.into_iter().map(Judged::of).collect::<Vec<_>>());
            }
            assert_eq!(lost > 0, renew, "lost {lost} times");
        }
    }
}
