//! Texts that people read: their habits, and the names of notes.

use std::collections::BTreeSet;
use std::fs;
use std::path::{Path, PathBuf};

use crate::advice::literals;
use crate::common::{Bench, files};

/// Turns of phrase that readers stop at, and what to write instead.
const HABITS: [(&str, &str); 24] = [
    ("before your eyes", "in the terminal"),
    ("in the dark", "in dark mode"),
    ("everybody else", "the other seats"),
    ("whoever", "name the actor"),
    ("thereby", "so"),
    ("otherwise played", "differently"),
    ("went otherwise", "changed"),
    ("play otherwise", "play differently"),
    ("plays otherwise", "is not reproducible"),
    ("as they stand", "say what is not done"),
    ("where it learned", "in training"),
    ("where they learned", "in training"),
    ("looked through", "visited"),
    ("should be known", "caveats"),
    ("is told", "prints, reports"),
    ("are told", "print, report"),
    ("turned over", "inverted"),
    ("goes on", "continues"),
    ("go on with", "continue"),
    ("nobody", "no agent, no player"),
    ("hardly", "say how seldom"),
    ("by hand", "name who does it"),
    ("is worth", "its figure, its worth"),
    ("sits down", "is seated"),
];
/// Texts in which one of them is right.
const ALLOWED: [&str; 6] =
    ["they count for nobody", "counts for nobody", "Play by hand", "by hand, or", "played by hand", "set by hand"];

fn workspace() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

fn habits(text: &str) -> Vec<&'static str> {
    let lower = text.to_lowercase();
    let without = ALLOWED.iter().fold(lower, |text, allowed| text.replace(&allowed.to_lowercase(), ""));
    HABITS.iter().map(|(habit, _)| *habit).filter(|habit| without.contains(habit)).collect()
}

/// The part of a source that is no test.
fn program(source: &str) -> &str {
    source.split("#[cfg(test)]").next().unwrap_or_default()
}

#[test]
fn messages_have_none_of_the_habits_that_readers_stop_at() {
    let (mut seen, mut found) = (0, Vec::new());
    for folder in
        ["crates/inkpot/src", "crates/inkpot-lab/src", "crates/inkpot-figures/src", "crates/inkpot-ledger/src"]
    {
        for path in files(&workspace().join(folder)).iter().filter(|path| path.extension().is_some_and(|e| e == "rs")) {
            let source = fs::read_to_string(path).expect("a source is text");
            for text in literals(program(&source)).iter().filter(|text| text.contains(' ')) {
                seen += 1;
                found.extend(habits(text).iter().map(|habit| format!("{habit}: {text} ({})", path.display())));
            }
        }
    }
    assert!(seen > 1_000, "only {seen} texts");
    assert!(found.is_empty(), "{}", found.join("\n"));
}

#[test]
fn help_has_none_of_them() {
    let bench = Bench::new();
    let help = bench.ok("--help");
    let verbs = help.lines().filter_map(|line| line.strip_prefix("  ")?.split_whitespace().next());
    let verbs: BTreeSet<&str> = verbs.filter(|word| word.chars().all(|c| c.is_ascii_lowercase())).collect();
    assert!(verbs.len() > 20, "{verbs:?}");
    for verb in verbs.into_iter().filter(|verb| *verb != "help" && *verb != "interval") {
        let text = bench.ok(&format!("{verb} --help"));
        assert_eq!(habits(&text), Vec::<&str>::new(), "{verb}: {text}");
    }
}

#[test]
fn every_note_has_a_paragraph_and_every_paragraph_a_note() {
    let page = fs::read_to_string(workspace().join("docs/notes.md")).expect("docs/notes.md is there");
    let mut named: Vec<&str> = page.lines().filter_map(|line| line.strip_prefix("- `")?.split('`').next()).collect();
    let mut names: Vec<&str> = inkpot_lab::note_names().collect();
    named.sort_unstable();
    names.sort_unstable();
    assert_eq!(named, names);
}

/// What is no note on a study: a hint of one verb alone.
const HINTS: [&str; 2] = ["no study has been added yet", "suspense is known for"];

#[test]
fn notes_in_outputs_begin_with_their_names() {
    let names: BTreeSet<&str> = inkpot_lab::note_names().collect();
    let mut seen = 0;
    let snapshots = files(&workspace().join("crates/inkpot/tests/all/snapshots"));
    let pages = ["README.md", "docs/tour.md", "docs/recipes.md", "docs/train.md"].map(|page| workspace().join(page));
    for path in snapshots.iter().chain(&pages) {
        let text = fs::read_to_string(path).expect("a snapshot is text");
        for note in text.lines().filter_map(|line| line.trim_start().strip_prefix("note: ")) {
            seen += 1;
            let is_named = note.split_once(": ").is_some_and(|(name, _)| names.contains(name));
            let is_hint = HINTS.iter().any(|hint| note.starts_with(hint));
            assert!(is_named || is_hint, "{}: {note}", path.display());
        }
    }
    assert!(seen > 20, "only {seen} notes");
}
