//! Measures of behaviour as a table.

use inkpot_core::{Measure, MeasureOf};
use inkpot_lab::{EntrantSummary, StudySummary, told_measures};

use super::study_view::StudyView;
use super::table::{Cell, Column, Table};

/// The largest number of entrants side by side.
const SIDE_BY_SIDE: usize = 3;
/// Measures of more entrants that the terminal shows; the others are in the JSON, the figures and the page.
const MEASURES_SHOWN: usize = 3;

/// The mean of every measure for every entrant; of the match as a whole once, where all entrants share its matches.
pub(crate) fn tables(view: &StudyView) -> [Table; 2] {
    let entrants = &view.summary.entrants;
    let has = |measure: &Measure| entrants.iter().any(|entrant| entrant.measures.contains_key(&measure.name));
    let measures = told_measures(view.game).into_iter().filter(has);
    let (shared, game): (Vec<Measure>, Vec<Measure>) = measures.partition(|measure| is_shared(measure, view.summary));
    let by_entrant = if entrants.len() <= SIDE_BY_SIDE { wide(entrants, &game) } else { long(entrants, &game) };
    [by_entrant, once(entrants, &shared)]
}

/// Whether it is one figure of the match, and all entrants met in the same matches.
pub(crate) fn is_shared(measure: &Measure, summary: &StudySummary) -> bool {
    measure.of == MeasureOf::Match && summary.pairings.len() <= 1
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

/// Builds the table of the match's measures.
fn once(entrants: &[EntrantSummary], measures: &[Measure]) -> Table {
    let row = |measure: &Measure| {
        let mean = entrants.first()?.measures.get(&measure.name)?;
        Some((measure.name.clone(), vec![Cell::Text(measure.titled()), Cell::Mean(*mean)]))
    };
    let columns = vec![Column::text("Measure of the match"), Column::figure("Mean and interval")];
    Table::new("Measures of the match", columns).at_most(usize::MAX).with(measures.iter().filter_map(row))
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
    let cut: Vec<&str> = measures.iter().skip(MEASURES_SHOWN).map(|measure| measure.name.as_str()).collect();
    let columns = vec![Column::text("Measure"), Column::text("Entrant"), Column::figure("Mean and interval")];
    let table = Table::new("Measures", columns).at_most(shown).with(measures.iter().flat_map(rows));
    table.cut_says(format!("Measured too, in summary.json, the figures and the report: {}.", cut.join(", ")))
}
