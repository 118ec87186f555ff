//! Entrants and pairings of any study, best first.

use inkpot_lab::{EntrantSummary, PairingSummary, StudySummary};

use super::format::{count, standing};
use super::table::{Cell, Column, On, Table, counts};

/// Entrants, the highest win rate first.
pub(crate) fn ranked(summary: &StudySummary) -> Vec<&EntrantSummary> {
    let mut ranked: Vec<_> = summary.entrants.iter().collect();
    let value = |entrant: &EntrantSummary| entrant.rate().map_or(-1.0, |rate| rate.value);
    ranked.sort_by(|a, b| value(b).total_cmp(&value(a)));
    ranked
}

/// What each entrant took over all it played.
pub(crate) fn table(summary: &StudySummary) -> Table {
    if summary.entrants.iter().all(|own| own.win_rate.is_none()) {
        return alone(summary);
    }
    let columns = vec![
        Column::text("Entrant"),
        Column::text("Agent").only(On::Page),
        Column::figure("Win rate"),
        Column::figure("Interval"),
        Column::text("").only(On::Terminal),
        Column::figure("Won"),
        Column::figure("Drawn"),
        Column::figure("Lost"),
        Column::figure("Score a match"),
    ];
    let row = |own: &EntrantSummary| {
        let mut cells = vec![
            Cell::text(&own.name),
            Cell::text(&own.agent),
            Cell::of(own.win_rate, |rate| Cell::Share(rate.value)),
            Cell::of(own.win_rate, Cell::Ends),
            Cell::Bar(own.win_rate.map_or(-1.0, |rate| rate.value)),
        ];
        cells.extend(counts(own.wins, own.draws, own.losses));
        cells.push(Cell::of(own.score, Cell::Mean));
        (own.name.clone(), cells)
    };
    Table::new("Entrants", columns).at_most(usize::MAX).with(ranked(summary).into_iter().map(row))
}

/// What each entrant did in a game that it plays alone.
fn alone(summary: &StudySummary) -> Table {
    let columns = vec![
        Column::text("Entrant"),
        Column::text("Agent").only(On::Page),
        Column::figure("Success"),
        Column::figure("Interval"),
        Column::text("").only(On::Terminal),
        Column::figure("Matches"),
        Column::figure("Score a match"),
    ];
    let row = |own: &EntrantSummary| {
        let cells = vec![
            Cell::text(&own.name),
            Cell::text(&own.agent),
            Cell::of(own.success, |rate| Cell::Share(rate.value)),
            Cell::of(own.success, Cell::Ends),
            Cell::Bar(own.success.map_or(-1.0, |rate| rate.value)),
            Cell::text(count(own.matches)),
            Cell::of(own.score, Cell::Mean),
        ];
        (own.name.clone(), cells)
    };
    Table::new("Entrants", columns).at_most(usize::MAX).with(ranked(summary).into_iter().map(row))
}

/// Who takes how much of whom; nothing where there is one pairing.
pub(crate) fn pairings(summary: &StudySummary) -> Table {
    let columns = vec![
        Column::text("Entrant"),
        Column::text("Against"),
        Column::figure("Win rate"),
        Column::figure("Interval"),
        Column::figure("Won"),
        Column::figure("Drawn"),
        Column::figure("Lost"),
        Column::text(""),
    ];
    let row = |own: &PairingSummary| {
        let seen = own.win_rate?;
        let mut cells = vec![Cell::text(&own.a), Cell::text(&own.b), Cell::Share(seen.value), Cell::Ends(seen)];
        cells.extend(counts(own.wins, own.draws, own.losses));
        cells.push(Cell::Text(standing(&seen)));
        Some((own.a.clone(), cells))
    };
    let several = summary.pairings.iter().filter(|_| summary.pairings.len() > 1);
    Table::new("Pairings", columns).at_most(usize::MAX).with(several.filter_map(row))
}
