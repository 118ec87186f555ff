//! How differently people fare.

use inkpot_lab::PeopleSummary;
use inkpot_stats::{Interval, Mean};

use super::format::{counted, ends, percent};
use super::table::{Cell, Column, Table};

/// In a sentence.
pub(crate) fn sentence(own: &PeopleSummary) -> String {
    format!(
        "Of the people who play {}, {} ({}) have a chance below 15 % against {}, and {} ({}) have one above 90 %; the first \
         win takes {:.1} matches, and the longest run of losses in {} is {:.1}.",
        own.name,
        percent(own.seen.hopeless.value),
        ends(&own.seen.hopeless),
        own.against,
        percent(own.seen.idle.value),
        ends(&own.seen.idle),
        own.seen.first_win.value,
        own.matches,
        own.seen.longest_losses.value
    )
}

/// The table; nothing where nobody plays a series.
pub(crate) fn table(people: &[PeopleSummary]) -> Table {
    let pointed = people.iter().any(|own| !own.point.is_empty());
    let columns = vec![
        Column::text("Player"),
        Column::text(if pointed { "At" } else { "Against" }),
        Column::figure("Hopeless"),
        Column::figure("Idle"),
        Column::figure("Never wins"),
        Column::figure("First win"),
        Column::figure("Longest losses"),
    ];
    let row = |own: &PeopleSummary| {
        let cells = vec![
            Cell::text(&own.name),
            Cell::text(if pointed { &own.point } else { &own.against }),
            share(&own.seen.hopeless),
            share(&own.seen.idle),
            share(&own.seen.never),
            mean(&own.seen.first_win),
            mean(&own.seen.longest_losses),
        ];
        (own.name.clone(), cells)
    };
    Table::new("From player to player; first win and longest losses in matches", columns)
        .at_most(usize::MAX)
        .with(people.iter().map(row))
}

/// What its words mean.
pub(crate) fn legend(people: &[PeopleSummary]) -> String {
    let Some(first) = people.first() else { return String::new() };
    format!(
        "Hopeless: people whose chance to win is below 15 %; idle: above 90 %. {} people, {} each.\nThe first win is \
         counted in matches; those who never win count with all of theirs.",
        first.people,
        counted(first.matches, "match", "matches")
    )
}

fn share(seen: &Interval) -> Cell {
    let [value, low, high] = [seen.value, seen.low, seen.high].map(|share| (100.0 * share).round());
    Cell::Said(format!("{value} %  {low}-{high}"), seen.value)
}

fn mean(seen: &Mean) -> Cell {
    let ends = seen.interval().map_or("too few people".into(), |seen| format!("{:.1}-{:.1}", seen.low, seen.high));
    Cell::Said(format!("{:.1}  {ends}", seen.value), seen.value)
}
