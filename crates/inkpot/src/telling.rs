//! Printed findings: a sentence, tables with intervals, notes.

use std::fmt::Write;

use inkpot_lab::StudySummary;

use crate::kinds::{self, Part};
use crate::show::asked::changed;
use crate::show::format::{confidence, counted, said};
use crate::show::people;
use crate::show::study_view::StudyView;

/// Writes the finding in one sentence.
pub(crate) fn finding(summary: &StudySummary) -> String {
    kinds::of(summary).sentence(summary)
}

/// The whole of it as text for the terminal.
pub(crate) fn text(view: &StudyView, color: bool) -> String {
    let summary = view.summary;
    let mut parts = vec![finding(summary)];
    parts.extend(kinds::of(summary).parts(view).into_iter().map(|part| match part {
        Part::Table(table) => table.terminal(color),
        Part::Lines(lines) => lines,
    }));
    joined(parts, view, color)
}

/// Its tables alone, of a study that is not complete.
pub(crate) fn tables(view: &StudyView, color: bool) -> String {
    let parts = kinds::of(view.summary).parts(view).into_iter().filter_map(|part| match part {
        Part::Table(table) => Some(table.terminal(color)),
        Part::Lines(_) => None,
    });
    joined(parts.collect(), view, color)
}

fn joined(mut parts: Vec<String>, view: &StudyView, color: bool) -> String {
    let summary = view.summary;
    if !summary.people.is_empty() {
        parts.push(format!("{}\n{}", people::table(&summary.people).terminal(color), people::legend(&summary.people)));
    }
    parts.push(closing(view));
    parts.retain(|part| !part.is_empty());
    parts.join("\n\n")
}

/// Writes the setting: seed and level, and differences from the defaults.
fn setting(view: &StudyView) -> String {
    let summary = view.summary;
    let mut setting = format!("seed {}, level {}", summary.seed, summary.level);
    let rules = changed(&summary.rules, &view.game.sheet().rules);
    if !rules.is_empty() {
        let _ = write!(setting, ", rules {rules}");
    }
    if let Some(series) = summary.series {
        let _ = write!(setting, ", series of {series}");
    }
    setting
}

fn closing(view: &StudyView) -> String {
    let summary = view.summary;
    let mut lines = vec![format!(
        "{} in {}, {}; intervals {}.",
        counted(summary.matches, "match", "matches"),
        counted(summary.blocks, "block", "blocks"),
        setting(view),
        confidence(summary)
    )];
    if summary.entrants.iter().any(|entrant| entrant.draws > 0) {
        lines.push("A draw counts as half a win.".into());
    }
    if let Some(first) = summary.first_seat {
        lines.push(format!("First seat: {} of the points.", said(&first)));
    }
    lines.extend(summary.notes.iter().map(|note| format!("note: {note}")));
    lines.join("\n")
}
