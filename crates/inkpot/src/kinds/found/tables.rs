//! The tables of a search for an agent.

use inkpot_core::Measure;
use inkpot_lab::{SearchFound, SeedFound, StudyKind, TermFound};

use super::words::{chosen, ended, plainly, worth};
use crate::show::format::{capital, count, plain};
use crate::show::table::{Cell, Column, Table};

/// What each repetition came to.
pub(super) fn seeds(found: &SearchFound) -> Table {
    let trained = found.method.kind() == StudyKind::Train;
    let columns = vec![
        Column::figure("Seed"),
        Column::figure(if trained { "Decisions" } else { "Generations" }),
        Column::figure("Matches"),
        Column::text("Ended by"),
        Column::figure("First success"),
        Column::figure("Where it learned"),
        Column::figure("On fresh blocks"),
    ];
    let row = |own: &SeedFound| {
        let proved = own.proved;
        let cells = vec![
            Cell::text(own.seed.to_string()),
            Cell::text(count(own.decisions.unwrap_or(own.generations))),
            Cell::text(count(own.matches)),
            Cell::text(ended(own.stopped_by)),
            Cell::text(own.first_success.map_or("never".into(), count)),
            Cell::Said(plainly(found, own.seen, own.proved.as_ref()), own.seen),
            Cell::of(proved, |seen| if found.is_share { Cell::Rate(seen) } else { Cell::Figure(seen) }),
        ];
        (own.seed.to_string(), cells)
    };
    let caption = format!("Repetitions: {} of the champion of each", found.figure);
    Table::new(&caption, columns).at_most(usize::MAX).with(found.seeds.iter().map(row))
}

/// What the champion's terms are made of.
pub(super) fn terms(found: &SearchFound, measures: &[Measure]) -> Table {
    let columns = vec![
        Column::text("Term"),
        Column::figure("Weight"),
        Column::figure("Where it learned"),
        Column::figure("On fresh blocks"),
    ];
    let row = |own: &TermFound| {
        let cells = vec![
            Cell::text(label(&own.figure, measures)),
            Cell::text(plain(own.weight)),
            Cell::Said(plain(own.seen), own.seen),
            Cell::of(own.proved, Cell::Figure),
        ];
        (own.figure.clone(), cells)
    };
    let caption =
        format!("What the champion's {} is made of (seed {})", worth(found).to_lowercase(), found.champion_seed);
    Table::new(&caption, columns).at_most(usize::MAX).with(chosen(found).terms.iter().map(row))
}

/// A figure as people are told it, with its unit.
pub(super) fn label(figure: &str, measures: &[Measure]) -> String {
    let measure = measures.iter().find(|measure| measure.name == figure);
    measure.map_or_else(|| capital(&figure.replace('_', " ")), Measure::titled)
}
