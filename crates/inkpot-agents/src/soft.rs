//! Choices that are softened: the better an option, the likelier it is taken (softmax; Luce 1959).

use inkpot_core::Chance;

/// Returns the chance of each value relative to the best, which counts 1: a factor of `e` less for each `temper` below
/// it. Unknown values get none.
fn weights(values: &[f64], temper: f64) -> impl Iterator<Item = f64> + Clone + '_ {
    let best = values.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    values.iter().map(move |value| {
        let weight = libm::exp((value - best) / temper);
        if weight.is_nan() { 0.0 } else { weight }
    })
}

/// The chance of each option where all of these are as likely; all together 1. None of none.
pub(crate) fn even_shares(options: usize, is_taken: impl Fn(usize) -> bool) -> Option<Vec<f64>> {
    let taken = (0..options).filter(|&option| is_taken(option)).count();
    let share = |option| if is_taken(option) { 1.0 / taken as f64 } else { 0.0 };
    (taken > 0).then(|| (0..options).map(share).collect())
}

/// The chance of each value; all together 1.
pub(crate) fn shares(values: &[f64], temper: f64) -> Vec<f64> {
    let sum: f64 = weights(values, temper).sum();
    weights(values, temper).map(|weight| weight / sum).collect()
}

/// Draws one of these values, by its place; none where nothing is known of any.
pub(crate) fn drawn(values: &[f64], temper: f64, chance: &mut Chance) -> Option<usize> {
    let total: f64 = weights(values, temper).sum();
    let mut left = chance.unit() * total;
    weights(values, temper).position(|weight| {
        left -= weight;
        left < 0.0
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_option_is_drawn_as_often_as_its_share_says() {
        let values = [0.0, 1.0, f64::NAN, -1.0];
        // exp(-1), exp(0), nothing, exp(-2), over their sum.
        let expected = [0.244_728_47, 0.665_240_96, 0.0, 0.090_030_57];
        let found = shares(&values, 1.0);
        assert!(found.iter().zip(expected).all(|(a, b)| (a - b).abs() < 1e-7), "{found:?}");
        let mut chance = Chance::from_seed(3);
        let mut counts = [0.0; 4];
        (0..40_000).for_each(|_| counts[drawn(&values, 1.0, &mut chance).unwrap()] += 1.0 / 40_000.0);
        assert!(counts.iter().zip(expected).all(|(a, b)| (a - b).abs() < 0.01), "{counts:?}");
    }

    #[test]
    fn where_nothing_is_known_nothing_is_drawn() {
        assert_eq!(drawn(&[f64::NAN, f64::NAN], 1.0, &mut Chance::from_seed(1)), None);
        assert_eq!(drawn(&[], 1.0, &mut Chance::from_seed(1)), None);
    }
}
