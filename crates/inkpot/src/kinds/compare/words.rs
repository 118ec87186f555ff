//! The words of a comparison: a sentence and a few lines.

use inkpot_lab::{ComparisonSummary, Requirement, Verdict};
use inkpot_stats::Interval;

use crate::failure::Failure;
use crate::show::format::{counted, round_percent, said};

/// Writes the verdict, the cost, and the cost of a fixed design.
pub(crate) fn sentence(comparison: &ComparisonSummary, confidence: f64) -> String {
    if comparison.figure().is_none() {
        return format!("{}.", headline(comparison));
    }
    if comparison.is_decided() {
        return format!("{}; it is always the same match.", headline(comparison));
    }
    format!("{}; {}.", headline(comparison), cost(comparison, confidence))
}

/// Writes the verdict without the cost.
pub(crate) fn headline(comparison: &ComparisonSummary) -> String {
    match comparison.figure() {
        Some(figure) => format!("{}: {}", known(comparison), shown(comparison, &figure)),
        None => format!("{} and {} cannot be compared yet: no block counts", comparison.a, comparison.b),
    }
}

fn known(comparison: &ComparisonSummary) -> String {
    let (a, b) = (&comparison.a, &comparison.b);
    let whom = if comparison.against.is_empty() {
        String::new()
    } else {
        format!(" against {}", comparison.against.join(", "))
    };
    match comparison.verdict {
        Verdict::Better => format!("{a} is better than {b}{whom}"),
        Verdict::Worse => format!("{a} is worse than {b}{whom}"),
        Verdict::Equal if comparison.is_decided() => format!("{a} and {b} are equal{whom}"),
        Verdict::Equal => {
            format!("{a} and {b} are equal{whom} within {}", points(comparison.equal_within.unwrap_or(0.0)))
        }
        Verdict::Open if comparison.met == Some(true) => {
            format!("{a} is not worse than {b}{whom} by more than {}", points(comparison.equal_within.unwrap_or(0.0)))
        }
        Verdict::Open => format!("{a} and {b} are not separable yet{whom}"),
    }
}

/// The figure with its interval.
fn shown(comparison: &ComparisonSummary, figure: &Interval) -> String {
    if comparison.win_rate.is_some() {
        return format!("{} takes {}", comparison.a, said(figure));
    }
    let at = |x: f64| format!("{:+.1}", x * 100.0);
    format!("{} points of win rate ({} to {})", at(figure.value), at(figure.low), at(figure.high))
}

fn cost(comparison: &ComparisonSummary, confidence: f64) -> String {
    let matches = counted(comparison.matches, "match", "matches");
    let spent = match comparison.clear_at {
        Some(block) => format!("clear after {} ({matches})", counted(block, "block", "blocks")),
        None if comparison.until_clear => format!("not clear after all {matches}"),
        None => matches,
    };
    let level = round_percent(confidence);
    let is_shown = comparison.verdict == Verdict::Equal || comparison.require == Some(Requirement::NotWorse);
    match (comparison.fixed_matches.filter(|_| is_shown), comparison.smallest) {
        (Some(fixed), _) => {
            let fixed = counted(fixed, "match", "matches");
            format!(
                "{spent}, where a design of fixed size needs {fixed} to show as much (at {level}, nine times in ten)"
            )
        }
        (None, Some(smallest)) => {
            let fixed = counted(smallest.fixed_matches, "match", "matches");
            let difference = points(smallest.difference);
            format!(
                "{spent}; a design of fixed size that finds a difference of {difference} nine times in ten (at {level}) needs \
                 {fixed}"
            )
        }
        (None, None) => spent,
    }
}

/// A difference in win rate: `3 points`.
fn points(rate: f64) -> String {
    let points = (rate * 1e4).round() / 100.0;
    format!("{points} point{}", if points == 1.0 { "" } else { "s" })
}

/// Writes the requirement, or the question.
pub(crate) fn asked(comparison: &ComparisonSummary) -> String {
    let (a, b) = (&comparison.a, &comparison.b);
    match comparison.require {
        Some(Requirement::Better) => format!("{a} is better than {b}"),
        Some(Requirement::NotWorse) => {
            format!("{a} is not worse than {b} by more than {}", points(comparison.equal_within.unwrap_or(0.0)))
        }
        None => format!("{a} compared with {b}"),
    }
}

/// Errs if the requirement is not established.
pub(crate) fn requirement(comparison: &ComparisonSummary) -> Result<(), Failure> {
    match comparison.met {
        Some(false) => Err(Failure::Unmet(format!("not established: {}", asked(comparison)))),
        _ => Ok(()),
    }
}

/// The lines under the sentence.
pub(crate) fn lines(comparison: &ComparisonSummary) -> String {
    let how = if comparison.until_clear {
        "Looked at after every block; the interval holds at all looks at once."
    } else {
        "Looked at once, after all blocks."
    };
    let mut lines = vec![format!("{}. {how}", counted(comparison.blocks, "block counts", "blocks count"))];
    if let Some(met) = comparison.met {
        lines.push(format!(
            "Required: {}. {}.",
            asked(comparison),
            if met { "Established" } else { "Not established" }
        ));
    }
    lines.join("\n")
}
