//! The person that a stand-in plays in a match.

use crate::Chance;

/// The person that an agent plays in a match: drawn by the block, and with the block's earlier matches behind them.
#[derive(Clone, Debug)]
pub struct Person {
    /// The chance that draws the person's traits; the same in every match of the block.
    pub chance: Chance,
    /// Matches of the block that this person has played before.
    pub matches_before: u32,
}

impl Person {
    /// A person with no match behind them.
    pub fn new(chance: Chance) -> Self {
        Self { chance, matches_before: 0 }
    }

    /// Returns the remaining factor of a delay or error after these matches, by the power law of practice (Newell &
    /// Rosenbloom 1981): `(1 + matches)^(-learning)`.
    pub fn practised(&self, learning: f64) -> f64 {
        libm::pow(1.0 + f64::from(self.matches_before), -learning)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn practice_wears_errors_down_by_a_power_of_the_matches() {
        let after = |matches_before: u32| Person { chance: Chance::from_seed(1), matches_before }.practised(0.5);
        assert_eq!([after(0), after(3), after(15)], [1.0, 0.5, 0.25]);
    }
}
