//! The tables of a tournament.

use inkpot_lab::{PairingSummary, RatingSummary, StudySummary, TournamentFinding};

use super::words::{chance, span};
use crate::show::format::{standing, whole};
use crate::show::table::{Cell, Column, Table};

/// A field with more pairs shows none in the terminal; all are in the JSON and the figures.
const PAIRS: usize = 15;

/// The field by rating.
pub(super) fn field(found: &TournamentFinding) -> Table {
    let columns = vec![
        Column::figure(""),
        Column::text("Entrant"),
        Column::figure("Rating"),
        Column::figure("Interval"),
        Column::figure("Points"),
        Column::figure("Stronger than the next").optional(),
        Column::text("Budget").optional(),
    ];
    let knockout = found.ratings.iter().any(|rating| rating.placement.is_some());
    let row = |(index, row): (usize, &RatingSummary)| {
        let place = row.placement.unwrap_or(index + 1);
        let cells = vec![
            Cell::Count(place as u64),
            Cell::text(&row.name),
            Cell::of(row.rating, |interval| Cell::Said(whole(interval.value), interval.value)),
            Cell::of(row.rating, |interval| Cell::Text(span(&interval))),
            Cell::of(row.points_share, Cell::Share),
            Cell::of(row.stronger_than_next.filter(|_| !knockout), |p| Cell::Said(chance(p), p)),
            Cell::of(row.budget.as_ref(), Cell::text),
        ];
        (row.name.clone(), cells)
    };
    Table::new("The field by rating", columns).with(found.ratings.iter().enumerate().map(row))
}

/// Builds the table of pairs: the stronger of each pair first, the pairs of the strongest first.
pub(super) fn pairs(found: &TournamentFinding, summary: &StudySummary) -> Table {
    let place = |name: &str| found.ratings.iter().position(|rating| rating.name == *name).unwrap_or(0);
    let row = |pairing: &PairingSummary| {
        let (rate, expected) = (pairing.win_rate?, pairing.expected?);
        let turned = place(&pairing.a) > place(&pairing.b);
        let (a, b) = if turned { (&pairing.b, &pairing.a) } else { (&pairing.a, &pairing.b) };
        let (rate, expected) = if turned { (rate.complement(), 1.0 - expected) } else { (rate, expected) };
        let cells = vec![
            Cell::text(a),
            Cell::text(b),
            Cell::Share(rate.value),
            Cell::Ends(rate),
            Cell::Share(expected),
            Cell::Text(standing(&rate)),
        ];
        Some(((place(a), place(b)), (a.clone(), cells)))
    };
    let mut rows: Vec<_> = summary.pairings.iter().filter_map(row).collect();
    rows.sort_by_key(|(places, _)| *places);
    let columns = vec![
        Column::text("Entrant"),
        Column::text("Against"),
        Column::figure("Win rate"),
        Column::figure("Interval"),
        Column::figure("By rating"),
        Column::text(""),
    ];
    let few = summary.pairings.len() <= PAIRS;
    let table = Table::new("Who beats whom", columns).with(rows.into_iter().map(|(_, row)| row));
    if few { table } else { table.only(crate::show::table::On::Page) }
}
