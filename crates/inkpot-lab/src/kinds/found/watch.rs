//! The progress of a search, for a view.

use inkpot_core::GameEntry;

use super::aim::Aim;
use super::looks::{Look, Looks};
use crate::searching::Watched;

/// Builds the progress of repetitions with these looks and this `fitness`. `spent` gives a repetition's cost by a look;
/// `spreads` gives, round by round, the cost and the fitness of the best, the upper quartile, the median and the lower
/// quartile. None without repetitions.
pub(crate) fn watched(
    aim: &Aim,
    label: &'static str,
    looks: &[&Looks],
    spent: impl Fn(usize, &Look) -> f64,
    spreads: impl Fn(usize) -> Vec<(f64, [f64; 4])>,
    game: &dyn GameEntry,
) -> Option<Watched> {
    let Aim { terms, yardstick, .. } = aim;
    let points = |(number, looks): (usize, &&Looks)| -> Vec<(f64, f64)> {
        looks.all.iter().map(|look| (spent(number, look), look.figures.outcome)).collect()
    };
    let value = |number: usize| looks[number].all.last().map(|look| aim.fitness_of(&look.figures));
    let best = (0..looks.len()).reduce(|best, next| if value(next) > value(best) { next } else { best })?;
    let last = looks[best].all.last();
    let figures = last.map_or_else(Vec::new, |look| {
        let each = terms.iter().map(|term| term.figure.clone()).zip(look.figures.terms.iter().copied());
        let each = each.filter(|(name, _)| *name != yardstick.figure);
        std::iter::once((yardstick.figure.clone(), look.figures.outcome)).chain(each).collect()
    });
    let latest = last.map(|look| {
        let setting = aim.settings_looking(&look.pick.genome, best, game).swap_remove(0);
        (setting, looks[best].last_block(aim))
    });
    Some(Watched {
        fitness: label,
        figure: yardstick.figure.clone(),
        is_share: yardstick.is_share,
        target: yardstick.target,
        looks: looks.iter().enumerate().map(points).collect(),
        spread: spreads(best),
        champion: figures,
        latest,
    })
}
