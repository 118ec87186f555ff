//! How differently people fare.

use inkpot_lab::{PeopleSummary, Summary};

use super::format::{counted, ends, percent};
use super::table::{Column, table};

/// Headings of the table.
pub(crate) const HEADINGS: [&str; 7] =
    ["Player", "Against", "Hopeless", "Idle", "Never wins", "Matches to first win", "Longest run of losses"];

/// In a sentence.
pub(crate) fn sentence(own: &PeopleSummary) -> String {
    format!(
        "Of the people who play {}, {} ({}) have less than 15 % of a chance against {}, {} ({}) more than 90 %; the first win takes {:.1} matches, and the longest run of losses in {} is {:.1}.",
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

/// The cells of a row, each with the number it sorts by.
pub(crate) fn cells(own: &PeopleSummary) -> Vec<(String, f64)> {
    let share = |seen: &inkpot_stats::Interval| {
        let [value, low, high] = [seen.value, seen.low, seen.high].map(|share| (100.0 * share).round());
        (format!("{value} %  {low}-{high}"), seen.value)
    };
    let mean =
        |seen: &inkpot_stats::Interval| (format!("{:.1}  {:.1}-{:.1}", seen.value, seen.low, seen.high), seen.value);
    vec![
        (own.name.clone(), 0.0),
        (own.against.clone(), 0.0),
        share(&own.seen.hopeless),
        share(&own.seen.idle),
        share(&own.seen.never),
        mean(&own.seen.first_win),
        mean(&own.seen.longest_losses),
    ]
}

/// The table, with what its words mean; nothing where nobody plays a series.
pub(crate) fn text(summary: &Summary, color: bool) -> String {
    use Column::{Figure, Text};
    let Some(first) = summary.people.first() else { return String::new() };
    let pointed = summary.people.iter().any(|own| !own.point.is_empty());
    let rows: Vec<Vec<String>> = summary
        .people
        .iter()
        .map(|own| {
            let mut row: Vec<String> = cells(own).into_iter().map(|(text, _)| text).collect();
            if pointed {
                row[1].clone_from(&own.point);
            }
            row
        })
        .collect();
    let columns = [
        Text("Player"),
        Text(if pointed { "At" } else { "Against" }),
        Figure("Hopeless"),
        Figure("Idle"),
        Figure("Never wins"),
        Figure("First win"),
        Figure("Longest losses"),
    ];
    format!(
        "{}\nHopeless: people with less than 15 % of a chance to win; idle: with more than 90 %. {} people, {} each; first\nwin in matches, who never wins counts with all of them.",
        table(&columns, &rows, color),
        first.people,
        counted(first.matches, "match", "matches")
    )
}
