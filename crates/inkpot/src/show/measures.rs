//! Measures of behaviour as a table.

use inkpot_core::Measure;
use inkpot_lab::{EntrantSummary, told_measures};

use super::table::{Cell, Column, Table};
use super::told::Told;

/// So few entrants stand side by side.
const SIDE_BY_SIDE: usize = 3;
/// Measures of more entrants that the terminal shows; the others are in the JSON, the figures and the page.
const MEASURES_SHOWN: usize = 3;

/// The mean of every measure for every entrant.
pub(crate) fn table(told: &Told) -> Table {
    let entrants = &told.summary.entrants;
    let seen = |measure: &Measure| entrants.iter().any(|entrant| entrant.measures.contains_key(&measure.name));
    let measures: Vec<Measure> = told_measures(told.game).into_iter().filter(seen).collect();
    if entrants.len() <= SIDE_BY_SIDE { wide(entrants, &measures) } else { long(entrants, &measures) }
}

fn wide(entrants: &[EntrantSummary], measures: &[Measure]) -> Table {
    let names = entrants.iter().map(|entrant| Column::figure(&entrant.name));
    let rows = measures.iter().map(|measure| {
        let means = entrants.iter().map(|entrant| Cell::of(entrant.measures.get(&measure.name).copied(), Cell::Mean));
        (measure.name.clone(), std::iter::once(Cell::Text(measure.titled())).chain(means).collect())
    });
    Table::new("Measures", std::iter::once(Column::text("Measure")).chain(names).collect())
        .at_most(usize::MAX)
        .with(rows)
}

fn long(entrants: &[EntrantSummary], measures: &[Measure]) -> Table {
    let rows = |measure: &Measure| -> Vec<(String, Vec<Cell>)> {
        let row = |entrant: &EntrantSummary| {
            let mean = Cell::Mean(*entrant.measures.get(&measure.name)?);
            Some((entrant.name.clone(), vec![Cell::Text(measure.titled()), Cell::text(&entrant.name), mean]))
        };
        entrants.iter().filter_map(row).collect()
    };
    let shown = measures.iter().take(MEASURES_SHOWN).map(|measure| rows(measure).len()).sum();
    let columns = vec![Column::text("Measure"), Column::text("Entrant"), Column::figure("Mean and interval")];
    Table::new("Measures", columns).at_most(shown).with(measures.iter().flat_map(rows))
}
