//! Chance of resampling, drawn from streams that no match uses.

use inkpot_core::Chance;
use inkpot_stats::Draws;

/// Draws of a bootstrap.
pub(crate) struct BootstrapDraws(pub(crate) Chance);

impl Draws for BootstrapDraws {
    fn below(&mut self, n: usize) -> usize {
        self.0.below(n)
    }
}
