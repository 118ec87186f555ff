//! Ratings, their course, and the facts that they hide.

use std::collections::HashMap;

use inkpot_figures::{Estimate, Forest, ForestRow, Matrix, MatrixOf, Rounds, RoundsLine, Words};
use inkpot_lab::{PairingSummary, ProgressSummary, RatingSummary, TournamentFinding};

use crate::figures::{Gallery, estimate};

impl Gallery<'_> {
    /// Draws the pairs' differences from the ratings' predictions.
    pub(super) fn residuals(&self, found: &TournamentFinding) -> Matrix {
        let names = self.by_strength();
        let less = |pairing: &PairingSummary| {
            let (rate, expected) = (pairing.win_rate?, pairing.expected?);
            let less = |x: f64| x - expected;
            Some(Estimate { value: less(rate.value), low: less(rate.low), high: less(rate.high) })
        };
        let worst = found.tournament.residuals.first().filter(|worst| worst.p_adjusted < self.summary.unlikely());
        let title = match worst {
            Some(worst) => format!(
                "{} does better against {} than ratings predict: {:.0} % seen, {:.0} % expected",
                worst.a,
                worst.b,
                worst.share.value * 100.0,
                worst.expected * 100.0
            ),
            None => "No pair differs clearly from what ratings predict".into(),
        };
        Matrix {
            words: Words {
                title,
                subtitle: format!(
                    "Points of win rate of the row against the column, less what ratings predict; {} a pair",
                    self.each()
                ),
                caption: self.caption("Sorted by rating. Pale: the interval holds 0."),
            },
            of: MatrixOf::Residuals,
            cells: self.met(&names, less, |less| Estimate { value: -less.value, low: -less.high, high: -less.low }),
            names,
        }
    }

    /// Ratings with intervals, best first.
    pub(super) fn forest(&self, found: &TournamentFinding) -> Forest {
        let rated = self.rated();
        let rows = rated.iter().enumerate().filter_map(|(index, entrant)| {
            let rating = entrant.rating?;
            let next = rated.get(index + 1).and_then(|next| next.rating);
            let sure = match entrant.stronger_than_next {
                Some(probability) if found.ratings[index].name == entrant.name => probability >= self.summary.sure(),
                _ => next.is_none_or(|next| rating.low > next.high),
            };
            Some(ForestRow {
                name: entrant.name.clone(),
                rating: estimate(&rating),
                points: entrant.points_share.map(|share| format!("{:.1} %", share * 100.0)).unwrap_or_default(),
                clear: sure,
            })
        });
        let zero = found.tournament.anchor.clone();
        Forest {
            words: Words {
                title: self.title(),
                subtitle: format!(
                    "Rating with interval, {} a pairing; 200 points more mean about 76 % of the points",
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
    pub(super) fn rounds(&self, found: &TournamentFinding) -> Rounds {
        let progress = &found.tournament.progress;
        let places: HashMap<&str, usize> =
            self.plan.entrants.iter().enumerate().map(|(place, entrant)| (entrant.name.as_str(), place)).collect();
        let line = |rating: &&RatingSummary| {
            let place = *places.get(rating.name.as_str())?;
            let at = |look: &ProgressSummary| Some((look.round, estimate(&look.ratings.get(place).copied()??)));
            Some(RoundsLine { name: rating.name.clone(), points: progress.iter().filter_map(at).collect() })
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
