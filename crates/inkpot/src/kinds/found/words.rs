//! What a search for an agent came to, in words, and the champion as a file.

use inkpot_core::Knobs;
use inkpot_lab::{LearnedOn, SearchFound, SearchProof, SeedFound, StoppedBy, StudySummary};
use inkpot_stats::Interval;
use toml::Value;

use crate::brief::{inline_knobs, value};
use crate::show::format::{count, counted, percent, places, said, said_figure};

/// A value of the figure by which champions are proved.
pub(super) fn plainly(found: &SearchFound, value: f64, like: Option<&Interval>) -> String {
    if !value.is_finite() {
        return "none".into();
    }
    if found.is_share {
        return percent(value);
    }
    let places = like.map_or(2, places);
    format!("{value:.places$}")
}

/// The same with its interval.
fn proved(found: &SearchFound, seed: &SeedFound) -> String {
    match &seed.proved {
        Some(seen) if found.is_share => said(seen),
        Some(interval) => said_figure(interval, ""),
        None => "unknown".into(),
    }
}

/// Where what a champion seemed to be worth was measured.
fn learned(found: &SearchFound) -> &'static str {
    match found.learned_on {
        LearnedOn::Yardstick => "where it learned",
        LearnedOn::Elsewhere => "where it learned, on another field",
        LearnedOn::Rivals => "against its rivals",
    }
}

/// The figure by which champions are proved, as words.
pub(super) fn figure(found: &SearchFound) -> String {
    found.figure.replace('_', " ")
}

/// What the champion is worth on fresh blocks, beside what it seemed to be.
pub(super) fn sentence(found: &SearchFound, _summary: &StudySummary) -> String {
    let seed = found.chosen();
    let (method, figure, proved) = (found.method.name(), figure(found), proved(found, seed));
    format!("The {method} search found a champion: {figure} {proved} on fresh blocks{}.", seen(found, seed))
}

/// What it seemed to be where it learned, if it played matches there.
fn seen(found: &SearchFound, seed: &SeedFound) -> String {
    if !seed.seen.is_finite() {
        return String::new();
    }
    format!(", {} {}", plainly(found, seed.seen, seed.proved.as_ref()), learned(found))
}

/// The same in fewer words.
pub(super) fn headline(found: &SearchFound) -> String {
    let proved = proved(found, found.chosen());
    format!("The {} search found a champion: {} {proved} on fresh blocks", found.method.name(), figure(found))
}

/// Why a repetition ended.
pub(super) fn ended(reason: StoppedBy) -> &'static str {
    match reason {
        StoppedBy::Target => "target",
        StoppedBy::Stagnation => "stagnation",
        StoppedBy::Budget => "budget",
        StoppedBy::Diverged => "divergence",
        StoppedBy::Solved => "all positions",
    }
}

/// What the sum of the terms is called.
pub(super) fn score_name(found: &SearchFound) -> &'static str {
    if found.method.trains() { "Reward" } else { "Fitness" }
}

/// What candidates were worth.
pub(super) fn fitness(found: &SearchFound) -> String {
    let seed = found.chosen();
    let terms: Vec<String> = seed.terms.iter().map(|term| format!("{} x {}", term.weight, term.figure)).collect();
    if found.in_turn { format!("{}, compared in turn", terms.join(", then ")) } else { terms.join(" + ") }
}

/// What it was looked at by.
pub(super) fn yardstick(found: &SearchFound) -> String {
    match found.target {
        Some(target) => format!("{}, until it reaches {}", found.figure, plainly(found, target, None)),
        None => found.figure.clone(),
    }
}

/// What the tables leave out.
pub(super) fn lines(found: &SearchFound) -> String {
    let seed = found.chosen();
    let mut text = format!(
        "{} holds the champion, of the repetition with seed {}: an agent file for every verb. It was chosen by what the \
         search saw, before the proof.",
        found.champion, seed.seed
    );
    if !seed.knobs.is_empty() {
        let knobs: Vec<String> = seed.knobs.iter().map(|(name, value)| format!("{name} {value}")).collect();
        text.extend(["\nIts knobs: ", &knobs.join(", "), "."]);
    }
    text
}

/// How it was computed.
pub(super) fn method(found: &SearchFound) -> String {
    let spent: u64 = found.seeds.iter().map(|seed| seed.matches).sum();
    format!(
        "{} of {} searched with seeds of their own, over {} matches in all. The best candidates of each were compared on \
         blocks of the yardstick that they did not learn from, and the best of these, its champion, was measured on fresh \
         blocks afterwards. What it seemed to be worth where it learned is the largest of many noisy numbers, and stands \
         beside it for that reason alone.",
        counted(found.seeds.len() as u64, "repetition", "repetitions"),
        found.method.name(),
        count(spent)
    )
}

/// The champion as an agent file.
pub(super) fn agent_file(proof: &SearchProof, found: Option<&SearchFound>) -> String {
    let head = match found {
        Some(found) => {
            let seed = found.chosen();
            format!("# {} {} on fresh blocks{}.\n", found.figure, proved(found, seed), seen(found, seed))
        }
        None => "# Not proved yet.\n".into(),
    };
    agent_of(&head, "champion", &proof.agent, &proof.given)
}

/// An agent file under this comment.
pub(super) fn agent_of(head: &str, name: &str, agent: &str, stated: &Knobs) -> String {
    let knobs = if stated.is_empty() {
        String::new()
    } else if stated.iter().count() <= 3 {
        format!("knobs = {}\n", inline_knobs(stated))
    } else {
        let lines: Vec<String> = stated.iter().map(|(name, setting)| format!("{name} = {}", value(setting))).collect();
        format!("\n[knobs]\n{}\n", lines.join("\n"))
    };
    format!("{head}name = {}\nagent = {}\n{knobs}", Value::from(name), Value::from(agent))
}
