//! What was seen of a candidate.

use inkpot_learn::Judged;

use super::asked::Evolve;
use super::term::Figures;

/// What the blocks of one play came to.
pub(super) struct Seen {
    pub(super) figures: Figures,
    traits: Vec<f64>,
    pub(super) matches: u64,
    pub(super) steps: u64,
    pub(super) outcomes: Vec<f64>,
}

impl Seen {
    /// From the figures of each block, as the search reads them off its rows.
    pub(super) fn of(evolve: &Evolve, blocks: &[Vec<f64>]) -> Self {
        let (terms, niches) = (evolve.terms.len(), evolve.method.niches.len());
        let mean = |place: usize| {
            let there = || blocks.iter().map(|block| block[place]).filter(|x| x.is_finite());
            there().sum::<f64>() / there().count() as f64
        };
        let sum = |place: usize| blocks.iter().map(|block| block[place]).sum::<f64>() as u64;
        let traits = evolve.method.niches.iter().enumerate();
        Self {
            figures: Figures { terms: (0..terms).map(mean).collect(), outcome: mean(terms) },
            traits: traits.map(|(axis, niche)| niche.share(mean(terms + 1 + axis))).collect(),
            matches: sum(terms + 1 + niches),
            steps: sum(terms + 2 + niches),
            outcomes: blocks.iter().map(|block| block[terms]).collect(),
        }
    }
}

/// What candidates came to, for the method.
pub(super) fn judged(evolve: &Evolve, seen: &[Seen]) -> Vec<Judged> {
    let value = |own: &Seen| evolve.worth_of(&own.figures);
    seen.iter().map(|own| Judged { worth: value(own), traits: own.traits.clone() }).collect()
}
