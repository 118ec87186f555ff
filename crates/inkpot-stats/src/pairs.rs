//! Pairs of a rated field: where ratings do not tell the story.

use statrs::distribution::{ContinuousCDF, DiscreteCDF, Normal, Poisson};

use crate::Interval;
use crate::interval::normal_quantile;

/// Two entrants that met: the points share of the first, and the ratings' expectation.
#[derive(Clone, Copy, Debug, PartialEq)]
#[expect(missing_docs, reason = "the two by their places, the share of the first, the share expected")]
pub struct Pair {
    pub a: usize,
    pub b: usize,
    pub share: Interval,
    pub expected: f64,
}

impl Pair {
    /// 1 where the first clearly beats the second, -1 where the second does, 0 where they are not separable.
    pub fn clear(&self) -> i8 {
        i8::from(self.share.low > 0.5) - i8::from(self.share.high < 0.5)
    }

    /// Returns the two-sided p-value of the observed share under the ratings: the normal approximation with its
    /// interval's error. The ratings were fitted to this pair too, so it is somewhat cautious.
    pub fn misfit_p(&self, confidence: f64) -> f64 {
        let z = (self.share.value - self.expected).abs() / self.error(confidence);
        2.0 * Normal::standard().cdf(-z)
    }

    fn error(&self, confidence: f64) -> f64 {
        (self.share.half_width() / normal_quantile(f64::midpoint(1.0, confidence))).max(1e-9)
    }

    /// Probabilities that the first, and that the second, is seen to win clearly, were the ratings the whole story.
    fn clear_by_chance(&self, confidence: f64) -> [f64; 2] {
        let (error, margin) = (self.error(confidence), self.share.half_width());
        let above = |rate: f64| Normal::standard().cdf((rate - 0.5 - margin) / error);
        [above(self.expected), above(1.0 - self.expected)]
    }
}

/// Three entrants that each clearly beat the next, round in a circle.
#[derive(Clone, Debug, PartialEq)]
pub struct Cycles {
    /// Such circles.
    pub count: u64,
    /// The number to expect were the ratings the whole story, with pairs taken as independent.
    pub by_chance: f64,
    /// Threes of which all pairs are separable.
    pub threes: u64,
    /// The clearest, each in the order of wins: those whose narrowest win is widest for its interval.
    pub clearest: Vec<[usize; 3]>,
}

impl Cycles {
    /// Probability of as many circles by chance, taken as rare events (Poisson).
    pub fn p(&self) -> f64 {
        match self.count.checked_sub(1) {
            None => 1.0,
            Some(fewer) => Poisson::new(self.by_chance.max(1e-12)).map_or(f64::NAN, |chance| chance.sf(fewer)),
        }
    }
}

/// Counts the circles among the separable pairs of a field of this many; `most` of them are named.
pub fn cycles(entrants: usize, pairs: &[Pair], confidence: f64, most: usize) -> Cycles {
    let mut table: Vec<Option<Edge>> = vec![None; entrants * entrants];
    for pair in pairs {
        let [wins, loses] = pair.clear_by_chance(confidence);
        let margin = (pair.share.value - 0.5) / pair.share.half_width().max(1e-9);
        table[pair.a * entrants + pair.b] = Some(Edge { clear: pair.clear(), margin, wins, loses });
        table[pair.b * entrants + pair.a] =
            Some(Edge { clear: -pair.clear(), margin: -margin, wins: loses, loses: wins });
    }
    let edge = |a: usize, b: usize| table[a * entrants + b];
    let mut found = Cycles { count: 0, by_chance: 0.0, threes: 0, clearest: Vec::new() };
    let mut named: Vec<(f64, [usize; 3])> = Vec::new();
    for a in 0..entrants {
        for b in a + 1..entrants {
            let Some(ab) = edge(a, b) else { continue };
            for c in b + 1..entrants {
                let (Some(bc), Some(ca)) = (edge(b, c), edge(c, a)) else { continue };
                found.by_chance += ab.wins * bc.wins * ca.wins + ab.loses * bc.loses * ca.loses;
                let clear = [ab.clear, bc.clear, ca.clear];
                found.threes += u64::from(clear.iter().all(|clear| *clear != 0));
                if clear == [1; 3] || clear == [-1; 3] {
                    found.count += 1;
                    let narrowest = [ab, bc, ca].iter().map(|edge| edge.margin.abs()).fold(f64::INFINITY, f64::min);
                    let round = if clear[0] == 1 { [a, b, c] } else { [a, c, b] };
                    let place = named.partition_point(|(other, _)| *other >= narrowest);
                    named.insert(place, (narrowest, round));
                    named.truncate(most);
                }
            }
        }
    }
    found.clearest = named.into_iter().map(|(_, round)| round).collect();
    found
}

#[derive(Clone, Copy)]
struct Edge {
    clear: i8,
    margin: f64,
    wins: f64,
    loses: f64,
}

#[cfg(test)]
mod tests {
    use super::*;

    fn pair(a: usize, b: usize, rate: f64, expected: f64) -> Pair {
        Pair { a, b, share: Interval { value: rate, low: rate - 0.05, high: rate + 0.05 }, expected }
    }

    #[test]
    fn rock_paper_scissors_is_a_circle_and_a_ladder_is_not() {
        let circle = [pair(0, 1, 0.8, 0.5), pair(1, 2, 0.7, 0.5), pair(0, 2, 0.3, 0.5)];
        let found = cycles(3, &circle, 0.95, 5);
        assert_eq!((found.count, found.threes, found.clearest), (1, 1, vec![[0, 1, 2]]));
        // By hand: each of three even pairs is clear either way with chance 0.025, round either way.
        assert!((found.by_chance - 2.0 * 0.025f64.powi(3)).abs() < 1e-6, "{}", found.by_chance);
        let ladder = [pair(0, 1, 0.8, 0.8), pair(1, 2, 0.7, 0.7), pair(0, 2, 0.9, 0.9)];
        assert_eq!(cycles(3, &ladder, 0.95, 5).count, 0);
    }

    #[test]
    fn a_circle_the_other_way_round_is_named_in_its_own_order() {
        let circle = [pair(0, 1, 0.2, 0.5), pair(1, 2, 0.3, 0.5), pair(2, 0, 0.3, 0.5)];
        assert_eq!(cycles(3, &circle, 0.95, 5).clearest, [[0, 2, 1]]);
    }

    #[test]
    fn pairs_that_are_not_separable_make_no_circle() {
        let narrow = [pair(0, 1, 0.8, 0.5), pair(1, 2, 0.54, 0.5), pair(2, 0, 0.8, 0.5)];
        assert_eq!((cycles(3, &narrow, 0.95, 5).count, cycles(3, &narrow, 0.95, 5).threes), (0, 0));
    }

    #[test]
    fn misfit_counts_errors_from_what_is_expected() {
        // Half-width 0.05 at 95 % is an error of 0.02551; a share 0.05 off is 1.96 errors.
        assert!((pair(0, 1, 0.6, 0.55).misfit_p(0.95) - 0.05).abs() < 1e-9);
    }
}
