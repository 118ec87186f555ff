//! The map of elites of an evolution, read off its repetitions.

use inkpot_core::Knobs;
use inkpot_learn::{Evolver, Genome};

use super::asked::Evolve;
use super::repetition::Repetition;
use crate::kinds::found::{MapAxis, MapFound, NicheFound, named};

impl MapFound {
    /// Builds the map of a repetition, with the set knobs of each elite and their files; none if it has no map.
    pub(super) fn of(evolve: &Evolve, repetitions: &[Repetition], number: usize) -> Option<(Self, Vec<Knobs>)> {
        let elites = |repetition: &Repetition| match &repetition.population.evolver {
            Evolver::MapElites(map) => Some(map.elites().to_vec()),
            _ => None,
        };
        let mut reached: Vec<[usize; 2]> =
            repetitions.iter().filter_map(elites).flatten().map(|elite| elite.niche).collect();
        reached.sort_unstable();
        reached.dedup();
        let axis = |place: usize| {
            let niche = &evolve.method.niches[place];
            MapAxis { measure: niche.measure.clone(), low: niche.low, high: niche.high, count: niche.count }
        };
        let elites = elites(&repetitions[number])?.into_iter().map(|elite| {
            let (first, second) = (elite.niche[0] + 1, elite.niche[1] + 1);
            let weights = format!("niche-{first}-{second}.safetensors");
            let knobs = named(&evolve.aim.candidate.turned(&Genome::Numbers(elite.genome)), &weights);
            let found = NicheFound {
                niche: elite.niche,
                training_fitness: elite.fitness.first(),
                proved: None,
                measured: [None, None],
                knobs: knobs.without_bytes(),
            };
            (found, knobs)
        });
        let (niches, knobs) = elites.unzip();
        Some((Self { measures: [axis(0), axis(1)], reached: reached.len(), niches }, knobs))
    }
}
