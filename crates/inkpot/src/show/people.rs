//! The table of differences between people.

use inkpot_lab::PeopleSummary;
use inkpot_stats::{Interval, Mean};

use super::format::{counted, ends, percent};
use super::table::{Cell, Column, Table};

/// In a sentence.
pub(crate) fn sentence(summary: &PeopleSummary) -> String {
    format!(
        "Of the people who play {}, {} ({}) have a chance below 15 % against {}, and {} ({}) have one above 90 %; the first \
         win takes {:.1} matches, and the longest run of losses in {} is {:.1}.",
        summary.name,
        percent(summary.figures.hopeless.value),
        ends(&summary.figures.hopeless),
        summary.against,
        percent(summary.figures.idle.value),
        ends(&summary.figures.idle),
        summary.figures.first_win.value,
        summary.matches,
        summary.figures.longest_losses.value
    )
}

/// The table; nothing where nobody plays a series.
pub(crate) fn table(people: &[PeopleSummary]) -> Table {
    let pointed = people.iter().any(|person| !person.point.is_empty());
    let columns = vec![
        Column::text("Player"),
        Column::text(if pointed { "At" } else { "Against" }),
        Column::figure("Hopeless"),
        Column::figure("Idle"),
        Column::figure("Never wins"),
        Column::figure("First win"),
        Column::figure("Longest losses"),
    ];
    let row = |people: &PeopleSummary| {
        let cells = vec![
            Cell::text(&people.name),
            Cell::text(if pointed { &people.point } else { &people.against }),
            share(&people.figures.hopeless),
            share(&people.figures.idle),
            share(&people.figures.never),
            mean(&people.figures.first_win),
            mean(&people.figures.longest_losses),
        ];
        (people.name.clone(), cells)
    };
    Table::new("From player to player; first win and longest losses in matches", columns)
        .at_most(usize::MAX)
        .with(people.iter().map(row))
}

/// Explains its terms.
pub(crate) fn legend(people: &[PeopleSummary]) -> String {
    let Some(first) = people.first() else { return String::new() };
    format!(
        "Hopeless: people whose chance to win is below 15 %; idle: above 90 %. {} people, {} each.\nThe first win is \
         counted in matches; those who never win count with all of theirs.",
        first.people,
        counted(first.matches, "match", "matches")
    )
}

fn share(interval: &Interval) -> Cell {
    let [value, low, high] = [interval.value, interval.low, interval.high].map(|share| (100.0 * share).round());
    Cell::Said(format!("{value} %  {low}-{high}"), interval.value)
}

fn mean(mean: &Mean) -> Cell {
    let ends =
        mean.interval().map_or("too few people".into(), |interval| format!("{:.1}-{:.1}", interval.low, interval.high));
    Cell::Said(format!("{:.1}  {ends}", mean.value), mean.value)
}
