//! What a study found: a sentence, tables with intervals, notes.

use inkpot_lab::Summary;

use crate::kinds::{self, Part};
use crate::show::format::{confidence, counted, said};
use crate::show::people;
use crate::show::told::Told;

/// What was found, in one sentence.
pub(crate) fn finding(summary: &Summary) -> String {
    kinds::of(summary).sentence(summary)
}

/// The whole of it as text for the terminal.
pub(crate) fn text(told: &Told, color: bool) -> String {
    let summary = told.summary;
    let mut parts = vec![finding(summary)];
    parts.extend(kinds::of(summary).parts(told).into_iter().map(|part| match part {
        Part::Table(table) => table.terminal(color),
        Part::Lines(lines) => lines,
    }));
    if !summary.people.is_empty() {
        parts.push(format!("{}\n{}", people::table(&summary.people).terminal(color), people::legend(&summary.people)));
    }
    parts.push(closing(summary));
    parts.retain(|part| !part.is_empty());
    parts.join("\n\n")
}

fn closing(summary: &Summary) -> String {
    let mut lines = vec![format!(
        "{} in {}, seed {}, level {}; intervals {}.",
        counted(summary.matches, "match", "matches"),
        counted(summary.blocks, "block", "blocks"),
        summary.seed,
        summary.level,
        confidence(summary)
    )];
    if let Some(first) = summary.first_seat {
        lines.push(format!("First seat: {} of the points.", said(&first)));
    }
    lines.extend(summary.notes.iter().map(|note| format!("note: {note}")));
    lines.join("\n")
}
