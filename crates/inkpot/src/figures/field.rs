//! A field of entrants: win rates, ratings, who beats whom.

use std::collections::HashMap;

use inkpot_figures::{Estimate, Forest, ForestRow, Matrix, MatrixOf, Rates, RatesRow, Rounds, RoundsLine, Words};
use inkpot_lab::{PairingSummary, ProgressSummary, RatingSummary};

use super::{Gallery, estimate};

/// Probability from which one is drawn as stronger than the next.
const SURE: f64 = 0.975;

impl Gallery<'_> {
    pub(super) fn rates(&self) -> Rates {
        let rows = self.ranked().into_iter().filter_map(|entrant| {
            let record = [entrant.wins, entrant.draws, entrant.losses];
            Some(RatesRow { name: entrant.name.clone(), rate: estimate(&entrant.win_rate?), record })
        });
        Rates {
            words: Words {
                title: self.title(),
                subtitle: format!("Share of points (win 1, draw ½), {} a pairing, seats rotated", self.each()),
                caption: self.caption("Pale: not separable from 50%."),
            },
            rows: rows.collect(),
        }
    }

    /// Who beats whom, sorted by rating, or by win rate where there are none.
    pub(super) fn matrix(&self) -> Matrix {
        let names = self.by_strength();
        let title = if self.summary.ratings().is_empty() { self.title() } else { self.beaten(&names) };
        let by = if self.summary.ratings().is_empty() { "mean win rate" } else { "rating" };
        Matrix {
            words: Words {
                title,
                subtitle: format!("Win rate of the row against the column, {} a pair", self.each()),
                caption: self.caption(&format!("Sorted by {by}. Pale: not separable from 50%.")),
            },
            of: MatrixOf::Rates,
            cells: self.met(&names, |pairing| Some(estimate(&pairing.win_rate?)), turned_rate),
            names,
        }
    }

    /// Where pairs differ from what ratings say.
    pub(super) fn residuals(&self) -> Matrix {
        let names = self.by_strength();
        let less = |pairing: &PairingSummary| {
            let (seen, expected) = (pairing.win_rate?, pairing.expected?);
            let less = |x: f64| x - expected;
            Some(Estimate { value: less(seen.value), low: less(seen.low), high: less(seen.high) })
        };
        let told = self.summary.tournament();
        let worst = told.and_then(|told| told.residuals.first()).filter(|worst| worst.p_adjusted < 0.05);
        let title = match worst {
            Some(worst) => format!(
                "{} does better against {} than ratings say: {:.0}% seen, {:.0}% expected",
                worst.a,
                worst.b,
                worst.seen.value * 100.0,
                worst.expected * 100.0
            ),
            None => "No pair differs clearly from what ratings say".into(),
        };
        Matrix {
            words: Words {
                title,
                subtitle: format!(
                    "Points of win rate of the row against the column, less what ratings expect; {} a pair",
                    self.each()
                ),
                caption: self.caption("Sorted by rating. Pale: the interval holds 0."),
            },
            of: MatrixOf::Residuals,
            cells: self.met(&names, less, |less| Estimate { value: -less.value, low: -less.high, high: -less.low }),
            names,
        }
    }

    /// How many the strongest beats, and how many pairs are open.
    fn beaten(&self, names: &[String]) -> String {
        let best = &names[0];
        let (mut met, mut beaten, mut open) = (0, 0, 0);
        for (pairing, seen) in self.summary.pairings.iter().filter_map(|pairing| Some((pairing, pairing.win_rate?))) {
            open += usize::from(seen.holds(0.5));
            let own = if pairing.a == *best { Some(seen) } else { (pairing.b == *best).then(|| seen.complement()) };
            met += usize::from(own.is_some());
            beaten += usize::from(own.is_some_and(|own| own.low > 0.5));
        }
        let all = self.summary.pairings.len();
        format!("{best} clearly beats {beaten} of the {met} it met; {open} of {all} pairs are not separable yet")
    }

    /// Names of all, strongest first.
    fn by_strength(&self) -> Vec<String> {
        if self.summary.ratings().is_empty() {
            return self.ranked().into_iter().map(|entrant| entrant.name.clone()).collect();
        }
        self.rated().into_iter().map(|rating| rating.name.clone()).collect()
    }

    /// The ratings, best first, whatever the placements of a knockout.
    fn rated(&self) -> Vec<&RatingSummary> {
        let value = |rating: &RatingSummary| rating.rating.map_or(f64::NEG_INFINITY, |seen| seen.value);
        let mut rated: Vec<&RatingSummary> = self.summary.ratings().iter().collect();
        rated.sort_by(|a, b| value(b).total_cmp(&value(a)));
        rated
    }

    /// A figure of each pairing as a matrix; `turn` gives it from the other side.
    fn met(
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

    /// Ratings with intervals, best first.
    pub(super) fn forest(&self) -> Forest {
        let rated = self.rated();
        let rows = rated.iter().enumerate().filter_map(|(index, own)| {
            let rating = own.rating?;
            let next = rated.get(index + 1).and_then(|next| next.rating);
            let sure = match own.stronger_than_next {
                Some(probability) if self.summary.ratings()[index].name == own.name => probability >= SURE,
                _ => next.is_none_or(|next| rating.low > next.high),
            };
            Some(ForestRow {
                name: own.name.clone(),
                rating: estimate(&rating),
                points: own.points_share.map(|share| format!("{:.1}%", share * 100.0)).unwrap_or_default(),
                clear: sure,
            })
        });
        let zero = self.summary.tournament().and_then(|told| told.anchor.clone());
        Forest {
            words: Words {
                title: self.title(),
                subtitle: format!(
                    "Rating with interval, {} a pairing; 200 points more mean about 76% of the points",
                    self.each()
                ),
                caption: self.caption(&format!(
                    "0 is {}. Pale: not separable from the next.",
                    zero.unwrap_or_else(|| "the mean of the field".into())
                )),
            },
            rows: rows.collect(),
        }
    }

    /// Ratings round by round.
    pub(super) fn rounds(&self) -> Rounds {
        let progress = self.summary.tournament().map_or(&[][..], |told| told.progress.as_slice());
        let places: HashMap<&str, usize> =
            self.plan.entrants.iter().enumerate().map(|(place, entrant)| (entrant.name.as_str(), place)).collect();
        let line = |own: &&RatingSummary| {
            let place = *places.get(own.name.as_str())?;
            let at = |look: &ProgressSummary| Some((look.round, estimate(&look.ratings.get(place).copied()??)));
            Some(RoundsLine { name: own.name.clone(), points: progress.iter().filter_map(at).collect() })
        };
        Rounds {
            words: Words {
                title: self.title(),
                subtitle: format!(
                    "Ratings after each round, {} a pairing; the six highest at the end are named",
                    self.each()
                ),
                caption: self.caption("Bars at the end:"),
            },
            lines: self.rated().iter().filter_map(line).collect(),
        }
    }
}

/// A rate from the other side.
fn turned_rate(rate: Estimate) -> Estimate {
    Estimate { value: 1.0 - rate.value, low: 1.0 - rate.high, high: 1.0 - rate.low }
}
