//! Species: genomes near to each other, which share their fitness.

use serde::{Deserialize, Serialize};

use super::genome::GraphGenome;
use crate::{Fitness, Judged};

/// A species.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Species {
    /// Genomes near to this one belong to the species.
    pub(super) representative: GraphGenome,
    /// Its members by their place in the population.
    pub(super) members: Vec<usize>,
    /// The generation in which it was founded, and a number among those of that generation.
    pub(super) founded: u64,
    /// The best worth it ever had.
    best: Fitness,
    /// The best worth of the last generation.
    pub(super) best_now: Fitness,
    /// The generation in which that was reached.
    pub(super) improved: u64,
    /// Mean points of its members, by rank among all.
    pub(super) mean_points: f64,
}

impl Species {
    pub(super) fn founded(representative: GraphGenome, member: usize, generation: u64) -> Self {
        let founded = generation * 1_000_000 + member as u64;
        let (best, best_now) = (Fitness::default(), Fitness::default());
        Self { representative, members: vec![member], founded, best, best_now, improved: generation, mean_points: 0.0 }
    }

    /// Takes its members' evaluations.
    pub(super) fn look(&mut self, judged: &[Judged], points: &[f64], generation: u64) {
        let best = self.members.iter().map(|&index| &judged[index].fitness).max();
        self.best_now = best.cloned().unwrap_or_default();
        if self.best_now > self.best {
            self.best = self.best_now.clone();
            self.improved = generation;
        }
        let sum: f64 = self.members.iter().map(|&index| points[index]).sum();
        self.mean_points = sum / self.members.len() as f64;
    }

    /// Its members from the best to the worst.
    pub(super) fn ranked(&self, points: &[f64]) -> Vec<usize> {
        let mut members = self.members.clone();
        members.sort_by(|&a, &b| points[b].total_cmp(&points[a]).then(a.cmp(&b)));
        members
    }
}

/// A number of children shared out by these shares, the rest to the largest remainders.
pub(super) fn shared_out(children: usize, shares: &[f64]) -> Vec<usize> {
    let sum: f64 = shares.iter().sum();
    let exact: Vec<f64> = shares.iter().map(|share| children as f64 * share / sum).collect();
    let mut counts: Vec<usize> = exact.iter().map(|x| x.floor() as usize).collect();
    let mut order: Vec<usize> = (0..shares.len()).collect();
    order.sort_by(|&a, &b| exact[b].fract().total_cmp(&exact[a].fract()).then(a.cmp(&b)));
    let left = children - counts.iter().sum::<usize>();
    order.into_iter().cycle().take(left).for_each(|index| counts[index] += 1);
    counts
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn all_children_are_shared_out() {
        assert_eq!(shared_out(10, &[1.0, 1.0, 1.0]), [4, 3, 3]);
        assert_eq!(shared_out(150, &[75.0, 25.0]), [113, 37]);
        assert_eq!(shared_out(2, &[1.0, 1.0, 1.0]).iter().sum::<usize>(), 2);
    }
}
