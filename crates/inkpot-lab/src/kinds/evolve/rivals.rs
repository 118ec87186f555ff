//! Rivals: candidates that learn against each other.
//!
//! All candidates of a generation meet the same rivals: some of the population that plays now, and some of its hall of
//! fame, the best of the generations before, without which a population forgets what beat its ancestors (Rosin & Belew
//! 1997, "New methods for competitive coevolution").

use inkpot_core::Chance;
use inkpot_learn::{Evolver, Genome, Judged};
use serde::{Deserialize, Serialize};

use super::asked::{Evolve, Rivals};
use crate::kinds::found::{Purpose, best_of};

/// The best of past generations, at even distances: where it is full, every second one goes, and half as many are
/// added from then on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Hall {
    /// One generation in this many is kept.
    stride: u64,
    kept: Vec<Genome>,
}

impl Default for Hall {
    fn default() -> Self {
        Self { stride: 1, kept: Vec::new() }
    }
}

impl Hall {
    /// All that it keeps.
    pub(super) fn all(&self) -> &[Genome] {
        &self.kept
    }

    /// Adds the best of a generation, counted from 0 up.
    pub(super) fn add(&mut self, generation: u64, best: &Genome, most: u64) {
        if !generation.is_multiple_of(self.stride) {
            return;
        }
        self.kept.push(best.clone());
        if self.kept.len() as u64 > most {
            let mut place = 0;
            self.kept.retain(|_| {
                place += 1;
                place % 2 == 1
            });
            self.stride *= 2;
        }
    }
}

/// A population with the best of its past.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Population {
    pub(super) evolver: Evolver,
    pub(super) hall: Hall,
}

impl Population {
    /// At its beginning; `side` tells the populations of a repetition apart.
    pub(super) fn new(evolve: &Evolve, number: usize, side: u64) -> Self {
        let seed = evolve.aim.stream(Purpose::Learning, number);
        let seed = if side == 0 { seed } else { Chance::named(seed, &[side]).bits() };
        let candidate = &evolve.aim.candidate;
        Self { evolver: evolve.method.evolver(candidate.space(), candidate.nodes(), seed), hall: Hall::default() }
    }

    /// Takes the candidates' evaluations; the best joins the hall of fame.
    pub(super) fn tell(&mut self, evolve: &Evolve, judged: &[Judged]) {
        if let Some(rivals) = &evolve.rivals {
            let genomes = self.evolver.ask();
            self.hall.add(self.evolver.generation(), &genomes[best_of(judged)], rivals.hall_of_fame);
        }
        self.evolver.tell(judged);
    }

    /// Returns the rivals that the candidates of a generation meet.
    pub(super) fn met(&self, rivals: &Rivals, seed: u64) -> Vec<Genome> {
        let mut chance = Chance::named(seed, &[self.evolver.generation()]);
        let mut drawn = |from: &[Genome], count: u64| {
            let mut order: Vec<usize> = (0..from.len()).collect();
            chance.shuffle(&mut order);
            order.into_iter().take(count as usize).map(|index| from[index].clone()).collect::<Vec<_>>()
        };
        let current = drawn(&self.evolver.ask(), rivals.current);
        current.into_iter().chain(drawn(&self.hall.kept, rivals.past)).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_hall_of_fame_spans_the_whole_past_at_even_distances() {
        let mut hall = Hall::default();
        for generation in 0..1_000_u64 {
            hall.add(generation, &Genome::Numbers(vec![generation as f64]), 20);
            assert!(hall.kept.len() <= 20);
        }
        let of = |genome: &Genome| match genome {
            Genome::Numbers(numbers) => numbers[0],
            _ => unreachable!("only numbers were added"),
        };
        let strengths: Vec<f64> = hall.kept.iter().map(of).collect();
        assert_eq!(strengths[0], 0.0);
        assert!(strengths.len() >= 10 && strengths.windows(2).all(|two| two[1] - two[0] == hall.stride as f64));
        assert!(strengths[strengths.len() - 1] >= 1_000.0 - hall.stride as f64);
    }
}
