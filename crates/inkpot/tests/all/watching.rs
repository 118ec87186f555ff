//! A search that is watched, in a terminal: its keys, and what is left when the terminal goes.

#![cfg(unix)]

use std::time::Duration;

use crate::common::terminal::Terminal;
use crate::common::{Bench, KNOBS};

/// A search that goes on for as long as anybody watches it.
fn brief() -> String {
    KNOBS.replace("matches = 800", "matches = 40000000\nstagnation = 100000").replace("blocks = 2", "blocks = 20")
}

/// What a study has saved of its search.
fn saved(bench: &Bench, name: &str) -> String {
    std::fs::read_to_string(bench.path(&format!("ledger/{name}/history.csv"))).unwrap_or_default()
}

#[test]
fn keys_pause_show_a_match_and_stop_a_search() {
    let bench = Bench::new();
    bench.write("brief.toml", brief());
    let mut terminal = Terminal::run(&bench, "evolve brief.toml --watch --name seen");
    terminal.shows("win_rate");
    terminal.press("p");
    terminal.shows("paused");
    std::thread::sleep(Duration::from_millis(700));
    let before = saved(&bench, "seen");
    // Longer than from one saving to the next.
    std::thread::sleep(Duration::from_millis(2500));
    assert_eq!(saved(&bench, "seen"), before, "a paused search stands still");
    terminal.press("p");
    terminal.shows("searching");
    terminal.press("m");
    terminal.shows("its latest match");
    terminal.until("going on", || saved(&bench, "seen").lines().count() > before.lines().count());
    terminal.press("s");
    terminal.shows("resume seen");
    assert!(!terminal.is_taken(), "the terminal is given back");
    assert_eq!(terminal.ended(), 130);
}

#[test]
fn a_terminal_that_vanishes_ends_the_program_and_loses_nothing() {
    let bench = Bench::new();
    bench.write("brief.toml", brief());
    let mut terminal = Terminal::run(&bench, "evolve brief.toml --watch --name gone");
    terminal.shows("win_rate");
    terminal.vanish();
    terminal.ended();
    assert!(bench.path("ledger/gone/manifest.json").exists());
    // It can be gone on with at once: nobody holds it.
    let mut again = Terminal::run(&bench, "resume gone --watch");
    again.shows("searching");
    again.press("s");
    assert_eq!(again.ended(), 130);
}

#[test]
fn what_cannot_be_watched_is_refused() {
    let bench = Bench::new();
    bench.write("brief.toml", brief());
    let console = bench.console("evolve brief.toml --watch");
    assert!(console.contains("exit 2") && console.contains("`--watch` needs a terminal"), "{console}");
    bench.write(
        "tune.toml",
        "kind = \"tune\"\ngame = \"piste\"\nseed = 10\nbudget = 5000000\nproof = 400\n[opponent]\nagent = \"fencer\"\n\
         [[free]]\nknob = \"skill\"\n[[rung]]\nname = \"one\"\ntargets = [{ figure = \"win_rate\", value = 0.55, within = 0.0005 }]\n\
         [[rung.mix]]\nweight = 1\nagent = \"newcomer\"\n",
    );
    let mut tuning = Terminal::run(&bench, "tune tune.toml --name tuned");
    tuning.until("study", || bench.path("ledger/tuned/manifest.json").exists());
    tuning.press("\u{3}");
    assert_eq!(tuning.ended(), 130);
    let mut terminal = Terminal::run(&bench, "resume tuned --watch");
    terminal.shows("`tuned` is a tune study, and only an evolution or a training can be watched");
    assert_eq!(terminal.ended(), 2);
}
