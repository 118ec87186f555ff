//! A field of entrants: win rates of all pairs.

use std::collections::HashMap;

use inkpot_figures::{Estimate, Matrix, MatrixOf, Rates, RatesRow, Words};
use inkpot_lab::{PairingSummary, RatingSummary};

use super::gallery::{Gallery, estimate};
use crate::show::entrants::ranked;

impl Gallery<'_> {
    pub(crate) fn rates(&self) -> Rates {
        let rows = ranked(self.summary).into_iter().filter_map(|entrant| {
            let record = [entrant.wins, entrant.draws, entrant.losses];
            Some(RatesRow { name: entrant.name.clone(), rate: estimate(&entrant.win_rate?), record })
        });
        Rates {
            words: Words {
                title: self.title(),
                subtitle: format!("Share of points (win 1, draw ½), {} a pairing, seats rotated", self.each()),
                caption: self.caption("Pale: not separable from 50 %."),
            },
            rows: rows.collect(),
        }
    }

    /// Builds the matrix of win rates, sorted by rating, or by win rate without ratings.
    pub(crate) fn matrix(&self) -> Matrix {
        let names = self.by_strength();
        let title = if self.summary.ratings().is_empty() { self.title() } else { self.beaten(&names) };
        let by = if self.summary.ratings().is_empty() { "mean win rate" } else { "rating" };
        Matrix {
            words: Words {
                title,
                subtitle: format!("Win rate of the row against the column, {} a pair", self.each()),
                caption: self.caption(&format!("Sorted by {by}. Pale: not separable from 50 %.")),
            },
            of: MatrixOf::Rates,
            cells: self.met(&names, |pairing| Some(estimate(&pairing.win_rate?)), turned_rate),
            names,
        }
    }

    /// Counts the entrants that the strongest beats, and the open pairs.
    fn beaten(&self, names: &[String]) -> String {
        let best = &names[0];
        let (mut met, mut beaten, mut open) = (0, 0, 0);
        for (pairing, rate) in self.summary.pairings.iter().filter_map(|pairing| Some((pairing, pairing.win_rate?))) {
            open += usize::from(rate.holds(0.5));
            let share = if pairing.a == *best { Some(rate) } else { (pairing.b == *best).then(|| rate.complement()) };
            met += usize::from(share.is_some());
            beaten += usize::from(share.is_some_and(|share| share.low > 0.5));
        }
        let all = self.summary.pairings.len();
        format!("{best} clearly beats {beaten} of the {met} it met; {open} of {all} pairs are not separable yet")
    }

    /// Names of all, strongest first.
    pub(crate) fn by_strength(&self) -> Vec<String> {
        if self.summary.ratings().is_empty() {
            return ranked(self.summary).into_iter().map(|entrant| entrant.name.clone()).collect();
        }
        self.rated().into_iter().map(|rating| rating.name.clone()).collect()
    }

    /// Returns the ratings, best first, regardless of a knockout's placements.
    pub(crate) fn rated(&self) -> Vec<&RatingSummary> {
        let value = |rating: &RatingSummary| rating.rating.map_or(f64::NEG_INFINITY, |interval| interval.value);
        let mut rated: Vec<&RatingSummary> = self.summary.ratings().iter().collect();
        rated.sort_by(|a, b| value(b).total_cmp(&value(a)));
        rated
    }

    /// A figure of each pairing as a matrix; `turn` gives it from the other side.
    pub(crate) fn met(
        &self,
        names: &[String],
        figure: impl Fn(&PairingSummary) -> Option<Estimate>,
        turn: impl Fn(Estimate) -> Estimate,
    ) -> Vec<Vec<Option<Estimate>>> {
        let places: HashMap<&str, usize> =
            names.iter().enumerate().map(|(place, name)| (name.as_str(), place)).collect();
        let mut cells = vec![vec![None; names.len()]; names.len()];
        for pairing in &self.summary.pairings {
            if let (Some(&a), Some(&b)) = (places.get(pairing.a.as_str()), places.get(pairing.b.as_str())) {
                cells[a][b] = figure(pairing);
                cells[b][a] = cells[a][b].map(&turn);
            }
        }
        cells
    }
}

/// A rate from the other side.
fn turned_rate(rate: Estimate) -> Estimate {
    Estimate { value: 1.0 - rate.value, low: 1.0 - rate.high, high: 1.0 - rate.low }
}
