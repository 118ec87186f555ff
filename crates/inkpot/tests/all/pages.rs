//! The sessions that README, the tour and the recipes print are what the program prints. `INSTA_UPDATE=always` writes them anew,
//! but for those that leave out something by a line of three dots.

use std::ops::Range;
use std::path::{Path, PathBuf};

use crate::common::Bench;

const INDENT: &str = "    ";
/// A line that stands for any number of lines.
const LEFT_OUT: &str = "...";

/// A command on a page and what it is said to print.
struct Shown {
    command: String,
    output: Vec<String>,
    /// Lines of the output on the page.
    lines: Range<usize>,
}

/// All commands of a page in order.
fn shown(page: &[&str]) -> Vec<Shown> {
    let starts: Vec<usize> = (0..page.len()).filter(|&line| page[line].starts_with("    $ ")).collect();
    let command_at = |&start: &usize| {
        let after = start + 1..page.len();
        let ends = |line: &usize| {
            let text = page[*line];
            text.starts_with("    $ ") || !(text.is_empty() || text.starts_with(INDENT))
        };
        let mut end = after.clone().find(ends).unwrap_or(page.len());
        while end > start + 1 && page[end - 1].is_empty() {
            end -= 1;
        }
        let output = page[start + 1..end].iter().map(|line| line.strip_prefix(INDENT).unwrap_or(line).to_string());
        let command = page[start].trim_start_matches("    $ ").to_string();
        Shown { command, output: output.collect(), lines: start + 1..end }
    };
    starts.iter().map(command_at).collect()
}

/// What lines come to, whatever decisions took and however wide the columns are for that.
fn comparable(lines: &[String]) -> Vec<String> {
    let mut costs = false;
    let line = |line: &String| {
        costs = line.starts_with("A decision of") || costs && !line.is_empty();
        let words: Vec<&str> = line.split_whitespace().map(|word| word.trim_matches('─')).collect();
        let unit = |word: &&str| ["ns", "µs", "ms", "s"].contains(word);
        let time = |at: usize| words.get(at).is_some_and(unit) || words.get(at + 1).is_some_and(unit);
        let masked = words.iter().enumerate().map(|(at, word)| if costs && time(at) { "TIME" } else { word });
        masked.collect::<Vec<_>>().join(" ")
    };
    lines.iter().map(line).collect()
}

/// The first part of what a page shows that is not printed, in order.
fn missing(shown: &[String], printed: &[String]) -> Option<String> {
    let (parts, printed) = (shown.split(|line| line.trim() == LEFT_OUT), comparable(printed));
    let parts: Vec<Vec<String>> = parts.map(comparable).collect();
    let mut from = 0;
    for (place, part) in parts.iter().enumerate() {
        // The first part begins what is printed, and the last part ends it.
        let latest = printed.len().saturating_sub(part.len());
        let earliest = if place + 1 == parts.len() { latest.max(from) } else { from };
        let latest = if place == 0 { 0 } else { latest };
        match (earliest..=latest).find(|&at| printed[at..].starts_with(part)) {
            Some(at) => from = at + part.len(),
            None => return Some(part.join("\n")),
        }
    }
    None
}

/// Runs all commands of a page in a folder of their own.
fn holds(page: &str) {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(page);
    let text = std::fs::read_to_string(&path).expect("the page is there");
    let lines: Vec<&str> = text.lines().collect();
    let bench = Bench::new();
    let mut folder = PathBuf::new();
    let mut anew: Vec<String> = Vec::new();
    let mut copied = 0;
    for Shown { command, output, lines: at } in shown(&lines) {
        let words = shlex::split(&command).expect("a command of the page can be split");
        let printed = match words.iter().map(String::as_str).collect::<Vec<_>>().as_slice() {
            ["cd", inner] => {
                folder.push(inner);
                Vec::new()
            }
            ["inkpot", arguments @ ..] => {
                let mut run = bench.command("");
                run.args(arguments).current_dir(bench.path("").join(&folder));
                let done = run.output().expect("the program runs");
                let printed = String::from_utf8_lossy(&done.stdout).trim_end().to_string();
                assert!(done.status.success(), "`{command}`: {}", String::from_utf8_lossy(&done.stderr));
                printed.lines().map(str::to_string).collect()
            }
            _ => panic!("{page} runs something else: `{command}`"),
        };
        anew.extend(lines[copied..at.start].iter().map(ToString::to_string));
        copied = at.end;
        let cut = output.iter().any(|line| line.trim() == LEFT_OUT);
        let indented = |line: &String| if line.is_empty() { String::new() } else { format!("{INDENT}{line}") };
        anew.extend(if cut { &output } else { &printed }.iter().map(indented));
        if cut || !writes() {
            let missing = missing(&output, &printed);
            assert!(
                missing.is_none(),
                "{page}: `{command}` prints\n{}\nand not\n{}",
                printed.join("\n"),
                missing.unwrap()
            );
        }
    }
    anew.extend(lines[copied..].iter().map(ToString::to_string));
    if writes() {
        std::fs::write(path, anew.join("\n") + "\n").expect("the page can be written");
    }
}

fn writes() -> bool {
    std::env::var("INSTA_UPDATE").is_ok_and(|how| how == "always")
}

#[test]
fn the_session_of_the_readme_prints_what_it_shows() {
    holds("README.md");
}

#[test]
fn the_tour_prints_what_it_shows() {
    holds("docs/tour.md");
}

#[test]
fn the_recipes_print_what_they_show() {
    holds("docs/recipes.md");
}

#[test]
fn what_is_left_out_may_be_anything_and_what_is_shown_has_to_stand_there() {
    let lines = |text: &str| text.lines().map(str::to_string).collect::<Vec<_>>();
    let printed = lines("a\nb 1 s\nc\nd");
    for (shown, fits) in [
        ("a\nb 1 s\nc\nd", true),
        ("a\n...\nd", true),
        ("...\nc\n...", true),
        ("a\nb 1 s", false),
        ("b 1 s\n...", false),
        ("...\nc", false),
        ("a\nb 2 s\nc\nd", false),
        ("...\nd\n...\na\n...", false),
        ("A\n...", false),
    ] {
        assert_eq!(missing(&lines(shown), &printed).is_none(), fits, "{shown}");
    }
    let costs = [
        lines("A decision of  Time\n────\nx   5  1.5 µs\n\n1.5 µs"),
        lines("A decision of Time\n─\nx 5 27 ms\n\n1.5 µs"),
    ];
    assert!(missing(&costs[0], &costs[1]).is_none(), "what decisions take differs from run to run");
}
