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

/// Builds the table of entrants over all their matches.
pub(crate) fn table(summary: &StudySummary) -> Table {
    let played = summary.voids < summary.matches;
    if played && summary.entrants.iter().all(|entrant| entrant.win_rate.is_none()) {
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
    let row = |entrant: &EntrantSummary| {
        let mut cells = vec![
            Cell::text(&entrant.name),
            Cell::text(&entrant.agent),
            Cell::of(entrant.win_rate, |rate| Cell::Share(rate.value)),
            Cell::of(entrant.win_rate, Cell::Ends),
            Cell::Bar(entrant.win_rate.map_or(-1.0, |rate| rate.value)),
        ];
        cells.extend(counts(entrant.wins, entrant.draws, entrant.losses));
        cells.push(Cell::of(entrant.score, Cell::Mean));
        (entrant.name.clone(), cells)
    };
    Table::new("Entrants", columns).at_most(usize::MAX).with(ranked(summary).into_iter().map(row))
}

/// Builds the table of entrants in a game that is played alone.
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
    let row = |entrant: &EntrantSummary| {
        let cells = vec![
            Cell::text(&entrant.name),
            Cell::text(&entrant.agent),
            Cell::of(entrant.success, |rate| Cell::Share(rate.value)),
            Cell::of(entrant.success, Cell::Ends),
            Cell::Bar(entrant.success.map_or(-1.0, |rate| rate.value)),
            Cell::text(count(entrant.matches)),
            Cell::of(entrant.score, Cell::Mean),
        ];
        (entrant.name.clone(), cells)
    };
    Table::new("Entrants", columns).at_most(usize::MAX).with(ranked(summary).into_iter().map(row))
}

/// Builds the table of pairings; empty for one pairing.
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
    let row = |pairing: &PairingSummary| {
        let rate = pairing.win_rate?;
        let mut cells = vec![Cell::text(&pairing.a), Cell::text(&pairing.b), Cell::Share(rate.value), Cell::Ends(rate)];
        cells.extend(counts(pairing.wins, pairing.draws, pairing.losses));
        cells.push(Cell::Text(standing(&rate)));
        Some((pairing.a.clone(), cells))
    };
    let several = summary.pairings.iter().filter(|_| summary.pairings.len() > 1);
    Table::new("Pairings", columns).at_most(usize::MAX).with(several.filter_map(row))
}
