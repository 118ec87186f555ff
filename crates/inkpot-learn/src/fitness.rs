//! Fitness of candidates.

use std::cmp::Ordering;

use serde::{Deserialize, Serialize};

/// The fitness of a candidate: more is better. Several numbers are compared one after the other, the first that differs
/// decides.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Fitness(Vec<f64>);

impl Fitness {
    /// Worth as one number.
    pub fn of(value: f64) -> Self {
        Self(vec![value])
    }

    /// Worth as several numbers, the most important first.
    pub fn in_turn(values: Vec<f64>) -> Self {
        Self(values)
    }

    /// The first of its numbers.
    pub fn first(&self) -> f64 {
        self.0.first().copied().unwrap_or(f64::NEG_INFINITY)
    }

    /// All of its numbers.
    pub fn values(&self) -> &[f64] {
        &self.0
    }
}

impl Ord for Fitness {
    fn cmp(&self, other: &Self) -> Ordering {
        let each = self.0.iter().zip(&other.0).map(|(a, b)| a.total_cmp(b));
        each.into_iter().find(|order| order.is_ne()).unwrap_or_else(|| self.0.len().cmp(&other.0.len()))
    }
}

impl PartialOrd for Fitness {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl PartialEq for Fitness {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other).is_eq()
    }
}

impl Eq for Fitness {}

/// The candidates from the best to the worst; equals in the order in which they were asked.
pub(crate) fn ranking<'a>(fitness: impl Iterator<Item = &'a Fitness>) -> Vec<usize> {
    let fitness: Vec<&Fitness> = fitness.collect();
    let mut order: Vec<usize> = (0..fitness.len()).collect();
    order.sort_by(|&a, &b| fitness[b].cmp(fitness[a]));
    order
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_number_that_differs_decides() {
        let turn = |values: &[f64]| Fitness::in_turn(values.to_vec());
        assert!(turn(&[1.0, -9.0]) > turn(&[0.9, 100.0]));
        assert!(turn(&[1.0, 2.0]) > turn(&[1.0, 1.0]));
        assert_eq!(turn(&[1.0, 2.0]), turn(&[1.0, 2.0]));
        let all = [turn(&[0.0]), turn(&[2.0]), turn(&[1.0]), turn(&[2.0])];
        assert_eq!(ranking(all.iter()), [1, 3, 2, 0]);
    }
}
