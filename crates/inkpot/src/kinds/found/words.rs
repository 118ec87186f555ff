//! The words of a search for an agent, and its champion as a file.

use inkpot_core::Knobs;
use inkpot_lab::{LearnedOn, SearchFound, SearchProof, SeedFound, StoppedBy, StudySummary, TargetVerdict};
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
pub(super) fn interval(found: &SearchFound, interval: &Interval) -> String {
    if found.is_share { said(interval) } else { said_figure(interval, "") }
}

/// A difference of two of these, with its interval: of shares in percentage points.
pub(super) fn difference(found: &SearchFound, apart: &Interval) -> String {
    if !found.is_share {
        return said_figure(apart, "");
    }
    let points = Interval { value: 100.0 * apart.value, low: 100.0 * apart.low, high: 100.0 * apart.high };
    said_figure(&points, " percentage points")
}

/// Writes the proof of a repetition's champion.
fn proved(found: &SearchFound, seed: &SeedFound) -> String {
    seed.proved.as_ref().map_or_else(|| "unknown".into(), |proved| interval(found, proved))
}

/// The figure by which champions are proved, as words.
pub(super) fn figure(found: &SearchFound) -> String {
    found.figure.replace('_', " ")
}

/// Writes whether the champion meets the target, and its figure on fresh blocks beside its training.
pub(super) fn sentence(found: &SearchFound, _summary: &StudySummary) -> String {
    format!("{}{}.", headline(found), training(found, found.chosen()))
}

/// Writes the training figure, if comparable: it played matches there, against the same opponents.
fn training(found: &SearchFound, seed: &SeedFound) -> String {
    if !seed.training.is_finite() || found.learned_on != LearnedOn::Yardstick {
        return String::new();
    }
    format!(", {} in training", plainly(found, seed.training, seed.proved.as_ref()))
}

/// The same without its training.
pub(super) fn headline(found: &SearchFound) -> String {
    let champion = found.chosen();
    let (method, figure) = (found.method.name(), figure(found));
    let came_to = format!("{figure} {} on fresh blocks", proved(found, champion));
    let target = found.target.map_or_else(String::new, |target| plainly(found, target, champion.proved.as_ref()));
    match found.verdict(champion) {
        Some(TargetVerdict::Met) => {
            format!("The {method} search met its target of {target}{}: {came_to}", how_often(found))
        }
        Some(TargetVerdict::Missed) => format!("The {method} search missed its target of {target}: {came_to}"),
        Some(TargetVerdict::NotSeparable) => {
            format!("The {method} search is not separable from its target of {target}: {came_to}")
        }
        None if found.is_share && !found.less && champion.proved.is_some_and(|proved| proved.value == 0.0) => {
            format!("The {method} search found no agent that succeeds: {came_to}")
        }
        None => format!("The {method} search found a champion: {came_to}"),
    }
}

/// In how many of several repetitions the champion meets the target.
fn how_often(found: &SearchFound) -> String {
    let met = found.seeds.iter().filter(|seed| found.verdict(seed) == Some(TargetVerdict::Met)).count();
    match found.seeds.len() {
        1 => String::new(),
        all if met == all => format!(" in all {all} repetitions; champion"),
        all => format!(" in {met} of {all} repetitions; champion"),
    }
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

/// Returns the name of the terms' sum.
pub(super) fn score_name(found: &SearchFound) -> &'static str {
    if found.method.trains() { "Reward" } else { "Fitness" }
}

/// Describes the fitness.
pub(super) fn fitness(found: &SearchFound) -> String {
    let seed = found.chosen();
    let terms: Vec<String> = seed.terms.iter().map(|term| format!("{} x {}", term.weight, term.figure)).collect();
    if found.in_turn { format!("{}, compared in turn", terms.join(", then ")) } else { terms.join(" + ") }
}

/// Describes the yardstick.
pub(super) fn yardstick(found: &SearchFound) -> String {
    match found.target {
        Some(target) => format!("{}, until it reaches {}", found.figure, plainly(found, target, None)),
        None => found.figure.clone(),
    }
}

/// Writes the lines below the tables.
pub(super) fn lines(found: &SearchFound) -> String {
    let seed = found.chosen();
    let mut text = format!(
        "{} holds the champion, of repetition {}: an agent file for every verb. It was chosen by what the \
         search saw, before the proof.",
        found.champion, seed.seed
    );
    if let Some(mean) = &found.over_repetitions {
        let count = found.seeds.len();
        text.extend([format!("\nMean over {count} repetitions: {} {}.", figure(found), interval(found, mean))]);
    }
    if !seed.knobs.is_empty() {
        let knobs: Vec<String> = seed.knobs.iter().map(|(name, value)| format!("{name} {value}")).collect();
        text.extend(["\nIts knobs: ", &knobs.join(", "), "."]);
    }
    text
}

/// Describes the method.
pub(super) fn method(found: &SearchFound) -> String {
    let spent: u64 = found.seeds.iter().map(|seed| seed.matches).sum();
    format!(
        "{} of {} searched with separate chance, over {} matches in all. The best candidates of each were compared on blocks of \
         the yardstick that they did not learn from, and the best of these, its champion, was then measured on fresh blocks. Its \
         training figure is the largest of many noisy numbers, and stands beside it for comparison alone.",
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
            format!("# {} {} on fresh blocks{}.\n", found.figure, proved(found, seed), training(found, seed))
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
