//! What a comparison came to, in a sentence and a few lines.

use inkpot_lab::{ComparisonSummary, Requirement, Verdict};
use inkpot_stats::Interval;

use crate::failure::Failure;
use crate::show::format::{count, counted, round_percent, said};

/// What is known, what it cost, and what a design of fixed size would have cost.
pub(crate) fn sentence(told: &ComparisonSummary, confidence: f64) -> String {
    if told.figure().is_none() {
        return format!("{}.", headline(told));
    }
    if told.is_decided() {
        return format!("{}; it is always the same match.", headline(told));
    }
    format!("{}; {}.", headline(told), cost(told, confidence))
}

/// What is known, without what it cost.
pub(crate) fn headline(told: &ComparisonSummary) -> String {
    match told.figure() {
        Some(figure) => format!("{}: {}", known(told), shown(told, &figure)),
        None => format!("{} and {} cannot be compared yet: no block counts", told.a, told.b),
    }
}

fn known(told: &ComparisonSummary) -> String {
    let (a, b) = (&told.a, &told.b);
    let whom = if told.against.is_empty() { String::new() } else { format!(" against {}", told.against.join(", ")) };
    match told.verdict {
        Verdict::Better => format!("{a} is better than {b}{whom}"),
        Verdict::Worse => format!("{a} is worse than {b}{whom}"),
        Verdict::Equal if told.is_decided() => format!("{a} and {b} are equal{whom}"),
        Verdict::Equal => format!("{a} and {b} are equal{whom} within {}", points(told.equal_within.unwrap_or(0.0))),
        Verdict::Open if told.met == Some(true) => {
            format!("{a} is not worse than {b}{whom} by more than {}", points(told.equal_within.unwrap_or(0.0)))
        }
        Verdict::Open => format!("{a} and {b} are not separable yet{whom}"),
    }
}

/// The figure with its interval.
fn shown(told: &ComparisonSummary, figure: &Interval) -> String {
    if told.win_rate.is_some() {
        return format!("{} takes {}", told.a, said(figure));
    }
    let at = |x: f64| format!("{:+.1}", x * 100.0);
    format!("{} points of win rate ({} to {})", at(figure.value), at(figure.low), at(figure.high))
}

fn cost(told: &ComparisonSummary, confidence: f64) -> String {
    let matches = counted(told.matches, "match", "matches");
    let spent = match told.clear_at {
        Some(block) => format!("clear after {} ({matches})", counted(block, "block", "blocks")),
        None if told.until_clear => format!("not clear after all {matches}"),
        None => matches,
    };
    let Some(fixed) = told.fixed_matches else { return spent };
    let level = round_percent(confidence);
    let fixed = counted(fixed, "match", "matches");
    let shown = told.verdict == Verdict::Equal || told.require == Some(Requirement::NotWorse);
    let what = if shown { "to show as much" } else { "for a difference of this size" };
    format!("{spent}, where a design of fixed size needs {fixed} {what} (at {level}, nine times in ten)")
}

/// A difference in win rate: `3 points`.
fn points(rate: f64) -> String {
    let points = (rate * 1e4).round() / 100.0;
    format!("{points} point{}", if points == 1.0 { "" } else { "s" })
}

/// What had to be established, or what was asked.
pub(crate) fn asked(told: &ComparisonSummary) -> String {
    let (a, b) = (&told.a, &told.b);
    match told.require {
        Some(Requirement::Better) => format!("{a} is better than {b}"),
        Some(Requirement::NotWorse) => {
            format!("{a} is not worse than {b} by more than {}", points(told.equal_within.unwrap_or(0.0)))
        }
        None => format!("{a} compared with {b}"),
    }
}

/// Errs when what is required is not established.
pub(crate) fn requirement(told: &ComparisonSummary) -> Result<(), Failure> {
    match told.met {
        Some(false) => Err(Failure::Unmet(format!("not established: {}", asked(told)))),
        _ => Ok(()),
    }
}

/// The lines under the sentence.
pub(crate) fn lines(told: &ComparisonSummary) -> String {
    let how = if told.until_clear {
        "Looked at after every block; the interval holds at all looks at once."
    } else {
        "Looked at once, after all blocks."
    };
    let blocks = if told.blocks == 1 { "block counts" } else { "blocks count" };
    let mut lines = vec![format!("{} {blocks}. {how}", count(told.blocks))];
    if let Some(met) = told.met {
        lines.push(format!("Required: {}. {}.", asked(told), if met { "Established" } else { "Not established" }));
    }
    lines.join("\n")
}
