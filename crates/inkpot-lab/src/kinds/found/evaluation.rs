//! Evaluations of candidates.

use inkpot_core::{GameSheet, MatchRows, Rows, Seat};
use inkpot_learn::Judged;

use super::Aim;
use super::niche::Niche;
use super::term::Figures;
use crate::figure::{figure_mean, player_seat};

/// The results of one play's blocks.
pub(crate) struct Evaluation {
    pub(crate) figures: Figures,
    traits: Vec<f64>,
    pub(crate) matches: u64,
    pub(crate) steps: u64,
    pub(crate) outcomes: Vec<f64>,
}

impl Evaluation {
    /// From the figures of each block, as the search reads them off its rows.
    pub(crate) fn of(aim: &Aim, niches: &[Niche], blocks: &[Vec<f64>]) -> Self {
        let terms = aim.terms.len();
        let mean = |place: usize| {
            let there = || blocks.iter().map(|block| block[place]).filter(|x| x.is_finite());
            there().sum::<f64>() / there().count() as f64
        };
        let sum = |place: usize| blocks.iter().map(|block| block[place]).sum::<f64>() as u64;
        let traits = niches.iter().enumerate();
        Self {
            figures: Figures { terms: (0..terms).map(mean).collect(), outcome: mean(terms) },
            traits: traits.map(|(axis, niche)| niche.share(mean(terms + 1 + axis))).collect(),
            matches: sum(terms + 1 + niches.len()),
            steps: sum(terms + 2 + niches.len()),
            outcomes: blocks.iter().map(|block| block[terms]).collect(),
        }
    }
}

/// The figures of a block, as [`Evaluation::of`] takes them.
pub(crate) fn block_figures(aim: &Aim, niches: &[Niche], rows: &[Rows], sheet: &GameSheet) -> Vec<f64> {
    let mean = |figure: &dyn Fn(MatchRows, Seat) -> f64| {
        let matches = rows.iter().flat_map(Rows::matches);
        figure_mean(matches, |played: MatchRows| figure(played, player_seat(played)))
    };
    let mut all: Vec<f64> =
        aim.terms.iter().map(|term| mean(&|played, seat| term.value(played, seat, sheet))).collect();
    let others = std::iter::once(aim.yardstick.of).chain(niches.iter().map(|niche| niche.of));
    all.extend(others.map(|of| mean(&|played, seat| of.of(played, seat, sheet.ticks_per_second))));
    let matches = || rows.iter().flat_map(Rows::matches);
    all.push(matches().count() as f64);
    all.push(matches().map(|played| played.seats()[0].ticks as f64).sum());
    all
}

/// Returns the candidates' evaluations for the method.
pub(crate) fn judged(aim: &Aim, evaluations: &[Evaluation]) -> Vec<Judged> {
    let value = |answer: &Evaluation| aim.fitness_of(&answer.figures);
    evaluations
        .iter()
        .map(|evaluation| Judged { fitness: value(evaluation), traits: evaluation.traits.clone() })
        .collect()
}

/// The best; of equals the first.
pub(crate) fn best_of(judged: &[Judged]) -> usize {
    (1..judged.len()).fold(0, |best, index| if judged[index].fitness > judged[best].fitness { index } else { best })
}
