//! Search spaces: one gene after the other.

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

/// The range of one number of a genome.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Gene {
    /// A number from 0 to 1: a share of a range.
    Share,
    /// One of this many options, as their number from 0 up.
    Choice(usize),
    /// Any number, at first normal with this standard deviation.
    Free(f64),
}

/// All genes of a genome in order.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Space(pub Vec<Gene>);

impl Gene {
    /// A value to begin with.
    pub(crate) fn draw(self, chance: &mut Chance) -> f64 {
        match self {
            Self::Share => chance.unit(),
            Self::Choice(options) => chance.below(options) as f64,
            Self::Free(spread) => spread * chance.normal(),
        }
    }

    /// A neighbour of a value; `strength` is the standard deviation of the step, as a share of the gene's own scale. A
    /// choice is drawn anew.
    pub(crate) fn mutated(self, value: f64, strength: f64, chance: &mut Chance) -> f64 {
        match self {
            Self::Share => reflected(value + strength * chance.normal()),
            Self::Choice(options) => chance.below(options) as f64,
            Self::Free(spread) => value + strength * spread * chance.normal(),
        }
    }

    /// Makes a value legal without accumulation at the ends: it is reflected there.
    pub(crate) fn held(self, value: f64) -> f64 {
        match self {
            Self::Share => reflected(value),
            Self::Choice(_) | Self::Free(_) => self.nearest(value),
        }
    }

    /// The legal value nearest to this one.
    pub(crate) fn nearest(self, value: f64) -> f64 {
        match self {
            Self::Share => value.clamp(0.0, 1.0),
            Self::Choice(options) => value.round().clamp(0.0, options as f64 - 1.0),
            Self::Free(_) => value,
        }
    }

    /// Returns the initial standard deviation of its values.
    pub(crate) fn scale(self) -> f64 {
        match self {
            Self::Share => 1.0,
            Self::Choice(options) => options as f64,
            Self::Free(spread) => spread,
        }
    }
}

/// A number folded back into 0 to 1 at the ends, as often as needed.
fn reflected(value: f64) -> f64 {
    let within = value.rem_euclid(2.0);
    if within > 1.0 { 2.0 - within } else { within }
}

impl Space {
    /// Genes of a genome.
    pub fn len(&self) -> usize {
        self.0.len()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// A genome to begin with.
    pub(crate) fn draw(&self, chance: &mut Chance) -> Vec<f64> {
        self.0.iter().map(|gene| gene.draw(chance)).collect()
    }

    /// Mean standard deviation of a gene over genomes, as a share of its scale: 0 where all are alike.
    pub(crate) fn diversity(&self, genomes: &[&[f64]]) -> f64 {
        let count = genomes.len() as f64;
        if count < 2.0 || self.is_empty() {
            return 0.0;
        }
        let deviation = |place: usize| {
            let mean = genomes.iter().map(|genome| genome[place]).sum::<f64>() / count;
            let square = genomes.iter().map(|genome| (genome[place] - mean).powi(2)).sum::<f64>();
            (square / (count - 1.0)).sqrt() / self.0[place].scale()
        };
        (0..self.len()).map(deviation).sum::<f64>() / self.len() as f64
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_beyond_an_end_are_reflected_at_it() {
        for (value, held) in [(0.25, 0.25), (1.25, 0.75), (-0.25, 0.25), (2.5, 0.5), (-1.25, 0.75)] {
            assert_eq!(Gene::Share.held(value), held, "{value}");
        }
        assert_eq!(Gene::Choice(3).held(7.2), 2.0);
    }

    #[test]
    fn mutants_stay_legal_and_step_as_far_as_they_are_told() {
        let mut chance = Chance::from_seed(1);
        let mut square = 0.0;
        for _ in 0..20_000 {
            let share = Gene::Share.mutated(0.1, 0.3, &mut chance);
            assert!((0.0..=1.0).contains(&share));
            let choice = Gene::Choice(4).mutated(1.0, 0.3, &mut chance);
            assert!((0.0..4.0).contains(&choice) && choice.fract() == 0.0);
            square += (Gene::Free(2.0).mutated(5.0, 0.1, &mut chance) - 5.0).powi(2);
        }
        assert!(((square / 20_000.0).sqrt() - 0.2).abs() < 0.005);
    }
}
