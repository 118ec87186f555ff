//! A map of elites: the best candidate of every niche, niches being cells over measures of candidates (MAP-Elites;
//! Mouret & Clune 2015), with children on the line between two elites (Vassiliades & Mouret 2018). Measures come from a
//! few noisy matches, so elites are tried again and move to the niche of their mean (after Justesen, Risi & Mouret
//! 2019, "MAP-Elites for noisy domains by adaptive sampling").

use std::collections::BTreeMap;

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

use crate::{Fitness, Judged, Space, Spread};

/// Settings of MAP-Elites.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct MapElitesSettings {
    /// Candidates a generation.
    pub population: usize,
    /// Cells of each of the two measures.
    pub niches: [usize; 2],
    /// Candidates that are drawn at random before any is bred.
    pub first: usize,
    /// Standard deviation of a change of every gene, as a share of its scale.
    pub mutation_strength: f64,
    /// Standard deviation of a step along the line to another elite, as a share of the way.
    pub line: f64,
    /// Share of the candidates of a generation that are elites which are tried again.
    pub again: f64,
}

/// The best of a niche.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Elite {
    /// The cell, by measure.
    pub niche: [usize; 2],
    /// Its genome.
    pub genome: Vec<f64>,
    /// The mean fitness over its trials.
    #[serde(rename = "worth")]
    pub fitness: Fitness,
    /// The mean traits, in shares of the range of each measure.
    pub traits: Vec<f64>,
    /// The number of trials.
    pub trials: u64,
}

impl Elite {
    /// Takes in one more trial; one in which it did nothing that can be measured says nothing.
    fn tried(&mut self, judged: &Judged) {
        let finite = |values: &[f64]| values.iter().all(|x| x.is_finite() && x.abs() < f64::MAX);
        if !finite(&judged.traits) || !finite(judged.fitness.values()) || !finite(self.fitness.values()) {
            return;
        }
        self.trials += 1;
        let mean = |old: f64, new: f64| old + (new - old) / self.trials as f64;
        let both = |old: &[f64], new: &[f64]| old.iter().zip(new).map(|(old, new)| mean(*old, *new)).collect();
        (self.fitness, self.traits) = (
            Fitness::in_turn(both(self.fitness.values(), judged.fitness.values())),
            both(&self.traits, &judged.traits),
        );
    }
}

/// A map under way.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct MapElites {
    space: Space,
    settings: MapElitesSettings,
    seed: u64,
    generation: u64,
    asked: u64,
    /// The elites in order of their niches.
    elites: Vec<Elite>,
}

impl MapElites {
    /// An empty map.
    pub fn new(space: Space, settings: MapElitesSettings, seed: u64) -> Self {
        Self { space, settings, seed, generation: 0, asked: 0, elites: Vec::new() }
    }

    /// The elites in order of their niches.
    pub fn elites(&self) -> &[Elite] {
        &self.elites
    }

    /// Its settings.
    pub fn settings(&self) -> &MapElitesSettings {
        &self.settings
    }

    /// The elites that are tried again next, by their places: those that were tried least.
    fn again(&self) -> Vec<usize> {
        let most = (self.settings.again * self.settings.population as f64) as usize;
        let mut places: Vec<usize> = (0..self.elites.len()).collect();
        places.sort_by_key(|place| self.elites[*place].trials);
        places.truncate(most.min(self.settings.population - 1));
        places
    }

    pub(crate) fn ask(&self) -> Vec<Vec<f64>> {
        let again = self.again();
        let candidate = |place: usize| {
            let mut chance = Chance::named(self.seed, &[self.generation, place as u64]);
            let random = self.asked + (place as u64) < self.settings.first as u64 || self.elites.is_empty();
            if random { self.space.draw(&mut chance) } else { self.child(&mut chance) }
        };
        let fresh = (again.len()..self.settings.population).map(candidate);
        again.iter().map(|place| self.elites[*place].genome.clone()).chain(fresh).collect()
    }

    fn child(&self, chance: &mut Chance) -> Vec<f64> {
        let [parent, other] = [(), ()].map(|()| &self.elites[chance.below(self.elites.len())].genome);
        let along = self.settings.line * chance.normal();
        let each = self.space.0.iter().zip(parent.iter().zip(other));
        let strength = self.settings.mutation_strength;
        each.map(|(gene, (&value, &other))| match gene {
            crate::Gene::Choice(_) => {
                let pick = if chance.happens(0.5) { value } else { other };
                if chance.happens(strength) { gene.draw(chance) } else { pick }
            }
            _ => gene.held(value + strength * gene.scale() * chance.normal() + along * (other - value)),
        })
        .collect()
    }

    /// Returns the cell of a candidate's measures; none if a measure has no value.
    fn niche(&self, traits: &[f64]) -> Option<[usize; 2]> {
        let cell = |axis: usize| {
            let share = traits.get(axis).filter(|share| share.is_finite())?;
            let cells = self.settings.niches[axis];
            Some(((share * cells as f64).floor().max(0.0) as usize).min(cells - 1))
        };
        Some([cell(0)?, cell(1)?])
    }

    pub(crate) fn asks(&self) -> usize {
        self.settings.population
    }

    pub(crate) fn tell(&mut self, judged: &[Judged]) {
        let (again, genomes) = (self.again(), self.ask());
        assert_eq!(judged.len(), genomes.len(), "every candidate that was asked for is judged");
        for (place, judgement) in again.iter().zip(judged) {
            self.elites[*place].tried(judgement);
        }
        let fresh = genomes.into_iter().zip(judged).skip(again.len());
        let fresh = fresh.map(|(genome, judgement)| Elite {
            niche: [0, 0],
            genome,
            fitness: judgement.fitness.clone(),
            traits: judgement.traits.clone(),
            trials: 1,
        });
        let mut map: BTreeMap<[usize; 2], Elite> = BTreeMap::new();
        for elite in std::mem::take(&mut self.elites).into_iter().chain(fresh) {
            let Some(niche) = self.niche(&elite.traits) else { continue };
            if map.get(&niche).is_none_or(|held| elite.fitness > held.fitness) {
                map.insert(niche, Elite { niche, ..elite });
            }
        }
        self.elites = map.into_values().collect();
        self.asked += judged.len() as u64;
        self.generation += 1;
    }

    pub(crate) fn generation(&self) -> u64 {
        self.generation
    }

    pub(crate) fn spread(&self) -> Spread {
        let genomes: Vec<&[f64]> = self.elites.iter().map(|elite| elite.genome.as_slice()).collect();
        Spread { diversity: self.space.diversity(&genomes), groups: self.elites.len() }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Gene;

    fn generation(search: &mut MapElites) {
        // It does what its first two genes say, and is worth more the nearer its third is to 1/2.
        let judge =
            |genome: &Vec<f64>| Judged { fitness: Fitness::of(-(genome[2] - 0.5).abs()), traits: genome[..2].to_vec() };
        let judged: Vec<Judged> = search.ask().iter().map(judge).collect();
        search.tell(&judged);
    }

    fn search() -> MapElites {
        let settings = MapElitesSettings {
            population: 40,
            niches: [8, 6],
            first: 80,
            mutation_strength: 0.1,
            line: 0.2,
            again: 0.2,
        };
        MapElites::new(Space(vec![Gene::Share; 3]), settings, 3)
    }

    #[test]
    fn every_niche_is_filled_and_its_elite_only_gets_better() {
        let mut search = search();
        let mut before: BTreeMap<[usize; 2], Fitness> = BTreeMap::new();
        for _ in 0..100 {
            generation(&mut search);
            for elite in search.elites() {
                let cell = [0, 1].map(|axis| (elite.traits[axis] * [8.0, 6.0][axis]).floor() as usize);
                assert_eq!(elite.niche, cell);
                assert!(before.get(&elite.niche).is_none_or(|fitness| elite.fitness >= *fitness));
                before.insert(elite.niche, elite.fitness.clone());
            }
        }
        assert_eq!(search.elites().len(), 48);
        assert!(search.elites().iter().all(|elite| elite.fitness.first() > -0.1));
    }

    /// Candidates with noisy measures that were tried again are in their true niches.
    #[test]
    fn elites_that_are_tried_again_are_what_their_niches_say() {
        let in_place = |again: f64| {
            let mut search = search();
            search.settings.again = again;
            let mut noise = Chance::from_seed(5);
            for _ in 0..200 {
                let judge = |genome: &Vec<f64>| {
                    let traits = genome[..2].iter().map(|x| (x + 0.15 * noise.normal()).clamp(0.0, 1.0)).collect();
                    Judged { fitness: Fitness::of(-(genome[2] - 0.5).abs()), traits }
                };
                let judged: Vec<Judged> = search.ask().iter().map(judge).collect();
                search.tell(&judged);
            }
            let near = |elite: &&Elite| (0..2).all(|axis| (elite.traits[axis] - elite.genome[axis]).abs() < 0.1);
            search.elites().iter().filter(near).count() as f64 / search.elites().len() as f64
        };
        let (once, again) = (in_place(0.0), in_place(0.5));
        assert!(again > once + 0.2, "{once} {again}");
    }

    #[test]
    fn what_did_nothing_that_can_be_measured_takes_no_niche() {
        let mut search = search();
        let judged = vec![Judged { fitness: Fitness::of(1.0), traits: vec![f64::NAN, 0.5] }; 40];
        search.tell(&judged);
        assert!(search.elites().is_empty());
    }
}
