//! The tables of a search for an agent.

use inkpot_core::Measure;
use inkpot_lab::{LegFound, SearchFound, SeedFound, TermFound};

use super::words::{ended, plainly, score_name};
use crate::show::format::{capital, count, counted, plain};
use crate::show::table::{Cell, Column, Table};

/// Builds the table of repetitions.
pub(super) fn seeds(found: &SearchFound) -> Table {
    let trained = found.method.trains();
    let held_back = found.seeds.iter().any(|seed| seed.held_back.is_some());
    let has_target = found.target.is_some();
    let mut columns = vec![
        Column::figure("Repetition"),
        Column::figure(if trained { "Decisions" } else { "Generations" }),
        Column::figure("Matches"),
        Column::text("Stopped by"),
    ];
    columns.extend(has_target.then(|| Column::figure("Target reached after")));
    columns.extend([Column::figure("Training"), Column::figure("Fresh blocks")]);
    columns.extend(held_back.then(|| Column::figure("Levels held back")));
    let figure = |interval| if found.is_share { Cell::Rate(interval) } else { Cell::Figure(interval) };
    let row = |seed_found: &SeedFound| {
        let mut cells = vec![
            Cell::text(seed_found.seed.to_string()),
            Cell::text(count(seed_found.decisions.unwrap_or(seed_found.generations))),
            Cell::text(count(seed_found.matches)),
            Cell::text(ended(seed_found.stopped_by)),
        ];
        let reached = |matches| counted(matches, "match", "matches");
        cells.extend(has_target.then(|| Cell::text(seed_found.first_success.map_or("never".into(), reached))));
        cells.extend([
            Cell::Said(plainly(found, seed_found.training, seed_found.proved.as_ref()), seed_found.training),
            Cell::of(seed_found.proved, figure),
        ]);
        cells.extend(held_back.then(|| Cell::of(seed_found.held_back, figure)));
        (seed_found.seed.to_string(), cells)
    };
    let caption = format!("Repetitions: {} of the champion of each", found.figure);
    Table::new(&caption, columns).at_most(usize::MAX).with(found.seeds.iter().map(row))
}

/// Builds the table of the course's legs by repetition; none without a course.
pub(super) fn legs(found: &SearchFound) -> Option<Table> {
    let legs = &found.seeds.first()?.legs;
    let seeds = found.seeds.iter().map(|seed| Column::figure(format!("Repetition {}", seed.seed)));
    let columns = [Column::text("Leg"), Column::figure("Pass mark")].into_iter().chain(seeds).collect();
    let row = |(place, leg): (usize, &LegFound)| {
        let mark = Cell::Said(plainly(found, leg.pass, None), leg.pass);
        let passed = |seed: &SeedFound| match (seed.legs[place].passed, seed.legs[place].last) {
            (Some(decisions), _) => Cell::text(count(decisions)),
            (None, Some(last)) => Cell::text(format!("not passed, {}", plainly(found, last.value, Some(&last)))),
            (None, None) => Cell::text("not reached".to_string()),
        };
        let cells = [Cell::text(leg.level.clone()), mark].into_iter().chain(found.seeds.iter().map(passed)).collect();
        (leg.level.clone(), cells)
    };
    let table = || {
        Table::new("Course: decisions after which each leg was passed", columns)
            .at_most(usize::MAX)
            .with(legs.iter().enumerate().map(row))
    };
    (!legs.is_empty()).then(table)
}

/// Builds the table of the champion's terms.
pub(super) fn terms(found: &SearchFound, measures: &[Measure]) -> Table {
    let columns = vec![
        Column::text("Term"),
        Column::figure("Weight"),
        Column::figure("Training"),
        Column::figure("Fresh blocks"),
    ];
    let row = |term: &TermFound| {
        let cells = vec![
            Cell::text(label(&term.figure, measures)),
            Cell::text(plain(term.weight)),
            Cell::Said(if term.training.is_finite() { plain(term.training) } else { "none".into() }, term.training),
            Cell::of(term.proved, Cell::Figure),
        ];
        (term.figure.clone(), cells)
    };
    let caption = format!(
        "What the champion's {} is made of (repetition {})",
        score_name(found).to_lowercase(),
        found.champion_seed
    );
    Table::new(&caption, columns).at_most(usize::MAX).with(found.chosen().terms.iter().map(row))
}

/// Returns a figure's label with its unit.
pub(super) fn label(figure: &str, measures: &[Measure]) -> String {
    let measure = measures.iter().find(|measure| measure.name == figure);
    measure.map_or_else(|| capital(&figure.replace('_', " ")), Measure::titled)
}
