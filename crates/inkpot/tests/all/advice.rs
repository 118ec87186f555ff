//! Every key that a message advises is one that a brief can have.

use std::collections::BTreeSet;
use std::fs;
use std::path::Path;

use crate::common::files;

/// The text literals of a source, on one line each, comments left out.
pub(crate) fn literals(source: &str) -> Vec<String> {
    let code: Vec<&str> = source.lines().filter(|line| !line.trim_start().starts_with("//")).collect();
    let (mut found, mut commands, mut inside, mut escaped) = (Vec::new(), String::new(), false, false);
    for c in code.join("\n").chars() {
        match (inside, escaped, c) {
            (true, true, c) => {
                commands.push(c);
                escaped = false;
            }
            (true, false, '\\') => escaped = true,
            (true, false, '"') => {
                found.push(std::mem::take(&mut commands));
                inside = false;
            }
            (true, false, c) => commands.push(c),
            (false, _, '"') => inside = true,
            _ => {}
        }
    }
    found
}

/// Keys that are read somewhere: the first text of a call on a reader.
fn read_keys(source: &str, into: &mut BTreeSet<String>) {
    const CALLS: [&str; 15] = [
        ".text(\"",
        ".needed_text(\"",
        ".number(\"",
        ".count(\"",
        ".knobs(\"",
        ".table(\"",
        ".tables(\"",
        ".values(\"",
        ".texts(\"",
        ".flag(\"",
        ".by_language(\"",
        ".word(\"",
        ".has_foreign(\"",
        "key: \"",
        ".put(\"",
    ];
    let flat: String = source.split_whitespace().collect::<Vec<_>>().join(" ").replace("( \"", "(\"");
    for call in CALLS {
        into.extend(flat.split(call).skip(1).filter_map(|rest| Some(rest.split_once('"')?.0.to_string())));
    }
}

/// Keys that a text advises between backticks: `key = value`, or [[key]].
fn advised(text: &str) -> Vec<String> {
    let is_key = |word: &str| !word.is_empty() && word.chars().all(|c| c.is_ascii_lowercase() || c == '_');
    let mut keys = Vec::new();
    for quoted in text.split('`').skip(1).step_by(2) {
        keys.extend(quoted.split(['{', ',', '\n']).filter_map(|part| {
            let key = part.split_once(" = ")?.0.trim();
            is_key(key).then(|| key.to_string())
        }));
    }
    for rest in text.split("[[").skip(1) {
        let Some((table, _)) = rest.split_once("]]") else { continue };
        keys.extend(table.split('.').filter(|part| is_key(part)).map(String::from));
    }
    keys
}

#[test]
fn advice_names_keys_that_exist() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    let sources: Vec<String> = ["inkpot/src", "inkpot-lab/src"]
        .iter()
        .flat_map(|folder| files(&crates.join(folder)))
        .filter(|path| path.extension().is_some_and(|ending| ending == "rs"))
        .map(|path| fs::read_to_string(path).expect("a source is text"))
        .collect();
    let mut known = BTreeSet::new();
    for source in &sources {
        read_keys(source, &mut known);
    }
    // Knobs and rules of the house games stand in examples of their values.
    known.extend(["skill", "touches", "depth", "reaction", "decide_every"].map(String::from));
    let mut seen = 0;
    for text in sources.iter().flat_map(|source| literals(source)) {
        for key in advised(&text) {
            seen += 1;
            assert!(known.contains(&key), "`{key}` is advised, and nothing reads it: {text}");
        }
    }
    assert!(seen > 20, "only {seen} keys are advised");
    assert!(known.len() > 40, "only {} keys are read", known.len());
}

#[test]
fn what_is_looked_for_is_found() {
    let source = "let help = \"add `targets = [{ figure = \\\"win_rate\\\", from = 1 }]` or [[rung.mix]]\";\nreader.text(\n    \"name\",\n)";
    let text = &literals(source)[0];
    assert_eq!(advised(text), ["targets", "figure", "from", "rung", "mix"]);
    let mut known = BTreeSet::new();
    read_keys(source, &mut known);
    assert!(known.contains("name"));
}
