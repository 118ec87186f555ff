//! The words of a tuning: a sentence, the rungs with their values, the targets with their proofs.

use inkpot_core::KnobValue;
use inkpot_lab::{Measured, Met, Sheet, SheetKnob, SheetRung, SheetValue, Target, TuneSummary};
use inkpot_stats::{Interval, Solved};

use crate::failure::Failure;
use crate::show::format::{count, plain, said, said_figure, solution};

/// Writes the finding in one sentence.
pub(crate) fn sentence(tuning: &TuneSummary) -> String {
    let rungs = tuning.rungs.len();
    let met = |rung: &SheetRung| hard(rung).all(|target| verdict(target) == Met::Met);
    let whole = tuning.rungs.iter().filter(|rung| met(rung)).count();
    let names = |word: &str| -> Vec<&str> {
        let rungs = tuning.rungs.iter().filter(|rung| !met(rung) && unmet(rung) == word);
        rungs.map(|rung| rung.name.as_str()).collect()
    };
    let settings: Vec<String> =
        tuning.rungs.iter().map(|rung| format!("{} at {}", rung.name, knobs(&rung.turned))).collect();
    match rungs - whole {
        0 if rungs == 1 => format!("The rung is met: {}.", settings.join("; ")),
        0 => format!("All {rungs} rungs are met: {}.", settings.join("; ")),
        1 if rungs == 1 => format!("The rung is {}; closest is {}.", unmet(&tuning.rungs[0]), settings.join("; ")),
        _ => {
            let (open, missed) = (names(OPEN), names(MISSED));
            let state = |names: &[&str], word: &str| match names {
                [] => None,
                [only] => Some(format!("{only} is {word}")),
                several => Some(format!("{} are {word}", several.join(", "))),
            };
            let states: Vec<String> = state(&open, OPEN).into_iter().chain(state(&missed, MISSED)).collect();
            let head = match (whole, open.is_empty(), missed.is_empty()) {
                (0, true, _) => "No rung is met".into(),
                (0, _, true) => "No rung is proved yet".into(),
                (0, ..) => format!("No rung is met: {}", states.join(", ")),
                _ => format!("{whole} of {rungs} rungs are met, {}", states.join(", ")),
            };
            format!("{head}; closest are {}.", settings.join("; "))
        }
    }
}

/// Words for a rung that is not met: its proof says so, or not yet.
const MISSED: &str = "not met";
const OPEN: &str = "not separable yet";

fn unmet(rung: &SheetRung) -> &'static str {
    if hard(rung).any(|target| verdict(target) == Met::NotMet) { MISSED } else { OPEN }
}

fn hard(rung: &SheetRung) -> impl Iterator<Item = &Target> {
    rung.targets.iter().filter(|target| target.hard)
}

pub(super) fn verdict(target: &Target) -> Met {
    target.measured.map_or(Met::NotSeparable, |measured| measured.verdict)
}

fn knobs(turned: &[SheetKnob]) -> String {
    let each = turned.iter().map(|knob| format!("{} {}", short(&knob.knob), value(&knob.value)));
    each.collect::<Vec<_>>().join(", ")
}

/// A knob's name; that of the opponent needs no owner.
pub(super) fn short(knob: &str) -> &str {
    knob.strip_prefix("opponent.").unwrap_or(knob)
}

pub(super) fn value(value: &KnobValue) -> String {
    value.number().map_or_else(|| value.to_string(), plain)
}

/// Writes a target: `67-73 %`, `40-90`, `at most 2`.
pub(crate) fn wanted(target: &Target) -> String {
    let number = |x: f64| if target.is_rate() { plain(100.0 * x) } else { plain(x) };
    let unit = if target.is_rate() { " %" } else { "" };
    match (target.from, target.to) {
        (Some(low), Some(high)) => format!("{}-{}{unit}", number(low), number(high)),
        (Some(low), None) => format!("at least {}{unit}", number(low)),
        (None, Some(high)) => format!("at most {}{unit}", number(high)),
        (None, None) => String::new(),
    }
}

/// Writes the further lines.
pub(super) fn lines(tuning: &TuneSummary) -> String {
    let mut lines = vec![format!(
        "The search played {} matches; the figures are of the proof, on blocks that it never saw.",
        count(tuning.search_matches)
    )];
    let misses: Vec<String> =
        tuning.rungs.iter().flat_map(|rung| rung.misses.iter().map(|miss| format!("{}: {miss}.", rung.name))).collect();
    if !misses.is_empty() {
        lines.push(misses.join("\n"));
    }
    let also: Vec<String> =
        tuning.rungs.iter().flat_map(|rung| rung.turned.iter().filter_map(|knob| other(rung, knob))).collect();
    if !also.is_empty() {
        lines.push(also.join("\n"));
    }
    let open = tuning.rungs.iter().flat_map(|rung| &rung.targets).any(|target| verdict(target) == Met::NotSeparable);
    if open {
        lines.push("Not separable yet: the interval reaches over an end; a larger `proof` narrows it.".into());
    }
    lines.join("\n\n")
}

/// Writes the other values with a rung's rate, by the search alone.
fn other(rung: &SheetRung, turned: &SheetKnob) -> Option<String> {
    let value = |other: &SheetValue| {
        let (value, ends) = solution(&Solved { value: other.value, low: other.low, high: other.high });
        format!("{value} ({ends})")
    };
    let values: Vec<String> = turned.also.iter().map(value).collect();
    let knob = short(&turned.knob);
    (!values.is_empty())
        .then(|| format!("{}: according to the search, {knob} {} would give that.", rung.name, values.join(" or ")))
}

/// Describes the method.
pub(super) fn method(tuning: &TuneSummary) -> String {
    format!(
        "The search played {} matches; what is shown was measured afterwards, on blocks that it never saw.",
        count(tuning.search_matches)
    )
}

/// Writes the proof of a target in a sentence.
pub(crate) fn target_sentence(rung: &SheetRung, target: &Target) -> Option<String> {
    let measured = target.measured?;
    let (words, unit) = spoken(&target.figure);
    let figure = if target.is_rate() { said(&measured.interval()) } else { said_figure(&measured.interval(), unit) };
    let players: Vec<&str> = rung.players.iter().map(|player| player.agent.as_str()).collect();
    let whose = if target.side == inkpot_lab::Side::Opponent { "the opponent's " } else { "" };
    Some(format!(
        "On {}, played by {}: {whose}{words} {figure}, wanted {}, {}.",
        rung.name,
        players.join(" and "),
        wanted(target),
        measured.verdict.word()
    ))
}

/// A figure's name as it is spoken, and its unit: `length_s` is a length in seconds.
fn spoken(figure: &str) -> (String, &'static str) {
    let units = [("_per_s", " a second"), ("_s", " s"), ("_m", " m"), ("_turns", " turns")];
    let found = units.into_iter().find_map(|(end, unit)| Some((figure.strip_suffix(end)?, unit)));
    let (words, unit) = found.unwrap_or((figure, ""));
    (words.replace('_', " "), unit)
}

/// Errs when a hard target is not met.
pub(crate) fn requirement(tuning: &TuneSummary) -> Result<(), Failure> {
    if tuning.met {
        return Ok(());
    }
    let missed: Vec<String> = tuning
        .rungs
        .iter()
        .flat_map(|rung| {
            let open = hard(rung).filter(|target| verdict(target) != Met::Met);
            open.map(|target| format!("{} on {} ({})", target.full_name(), rung.name, verdict(target).word()))
        })
        .collect();
    Err(Failure::Unmet(format!("not established: {}", missed.join(", "))))
}

/// Names the differences from the proof of a sheet: new rules and seed, and changed values.
pub(crate) fn changed(before: &Sheet, now: &Sheet) -> String {
    let mut changes: Vec<String> = Vec::new();
    for (name, value) in now.rules.iter() {
        match before.rules.get(name) {
            Some(was) if was == value => {}
            Some(was) => changes.push(format!("{name} is {value} instead of {was}")),
            None => changes.push(format!("{name} is {value}")),
        }
    }
    if before.proof.seed != now.proof.seed {
        changes.push(format!("the seed is {} instead of {}", now.proof.seed, before.proof.seed));
    }
    for rung in &now.rungs {
        for turned in &rung.turned {
            let played = turned.knob.strip_prefix("opponent.").and_then(|knob| rung.opponent.get(knob));
            if let Some(value) = played.filter(|value| **value != turned.value) {
                let (name, found) = (&rung.name, &turned.value);
                changes.push(format!(
                    "on {name}, {} is {value} instead of the {found} that the search found",
                    turned.knob
                ));
            }
        }
    }
    if changes.is_empty() {
        return "Measured again with the sheet's own rules, values and seed.".into();
    }
    format!("Measured again with changes: {}.", changes.join("; "))
}

/// Writes the earlier proof beside the new measurement, with the interval of the difference.
pub(crate) fn against(before: &Sheet, tuning: &TuneSummary) -> String {
    let pairs = before.rungs.iter().zip(&tuning.rungs).flat_map(|(a, b)| {
        a.targets.iter().zip(&b.targets).filter_map(|(x, y)| Some((a.name.as_str(), x, x.measured?, y.measured?)))
    });
    let pairs: Vec<_> = pairs.collect();
    if pairs.is_empty() {
        return "The sheet holds no figures to compare with.".into();
    }
    if pairs.iter().all(|(_, _, was, is)| was == is) {
        return "Every figure is the sheet's own, to the last digit.".into();
    }
    let line = |(rung, target, was, is): &(&str, &Target, Measured, Measured)| {
        let (was, is) = (was.interval(), is.interval());
        let shown = |interval: &Interval| if target.is_rate() { said(interval) } else { said_figure(interval, "") };
        let by = is.minus(&was);
        let verdict = match (by.low > 0.0, by.high < 0.0) {
            (true, _) => "higher",
            (_, true) => "lower",
            _ => "no difference is seen",
        };
        let (name, then, now) = (target.full_name(), shown(&was), shown(&is));
        format!("{name} on {rung}: {then} then, {now} now: {verdict}.")
    };
    pairs.iter().map(line).collect::<Vec<_>>().join("\n")
}
