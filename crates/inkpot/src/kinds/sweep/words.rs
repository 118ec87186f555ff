//! The words of a sweep: the values for the target, or the range of the rate, and the shape of the curve.

use inkpot_lab::{PointSummary, SolvedSummary, StudySummary, SweepFinding};
use inkpot_stats::{Interval, Model, Outcome, Turn};

use crate::show::costs::point_name;
use crate::show::format::{confidence, counted, p_value, percent, round_percent, said, significant, solution};

/// Digits of knob values.
const DIGITS: usize = 3;
/// More matches than this many times those played are not advised.
const TIMES_AT_MOST: u64 = 1000;

/// Writes the finding in one sentence.
pub(super) fn sentence(found: &SweepFinding, summary: &StudySummary) -> String {
    match &found.solved {
        Some(solved) => answer(solved, found, summary),
        None => ends(found, summary),
    }
}

/// The values that give the target, or why there is none.
fn answer(solved: &SolvedSummary, found: &SweepFinding, summary: &StudySummary) -> String {
    let first = &summary.entrants[0].name;
    let (knob, target) = (&solved.knob, round_percent(solved.target));
    if found.curve.is_none() {
        return format!("Which {knob} gives {first} {target} is not determined: there is no curve.");
    }
    match (solved.outcome, solved.solutions.as_slice()) {
        (Outcome::Found, [only]) => {
            let (value, ends) = solution(only);
            format!("{knob} {value} gives {first} {target} ({} interval {ends}).", confidence(summary))
        }
        (Outcome::Found, several) => {
            let (values, mut stretches): (Vec<_>, Vec<_>) = several.iter().map(solution).unzip();
            stretches.dedup();
            let noun = if stretches.len() == 1 { "interval of all" } else { "intervals" };
            let level = confidence(summary);
            format!(
                "{knob} {} each give {first} {target} ({level} {noun} {}).",
                values.join(" and "),
                stretches.join(", and ")
            )
        }
        (Outcome::Flat, _) => {
            format!("No effect of {knob} is seen, and {first} may take {target} at every value measured.")
        }
        (Outcome::Never, _) => {
            format!("No value of {knob} measured gives {first} {target}: {}.", lower_first(&reach(found, summary)))
        }
        (Outcome::Open, _) => {
            format!("Which {knob} gives {first} {target} is not determined yet: {}.", what_would(solved, summary))
        }
    }
}

/// Writes the matches or values that would determine it.
fn what_would(solved: &SolvedSummary, summary: &StudySummary) -> String {
    let played = summary.points().first().map_or(1, |point| point.matches.max(1));
    let more = solved.matches_needed.filter(|matches| *matches <= TIMES_AT_MOST * played);
    let matches = match more {
        Some(matches) => format!("about {} a point would show it", counted(rounded(matches), "match", "matches")),
        None => "the curve runs too close to the target for matches alone to show it".into(),
    };
    let at_an_end = |(low, high): &(Option<f64>, Option<f64>)| low.is_none() != high.is_none();
    match solved.possible.iter().find(|end| at_an_end(end)) {
        Some((None, Some(high))) => format!("below {} it may; {matches}, or lower values", significant(*high, DIGITS)),
        Some((Some(low), None)) => format!("above {} it may; {matches}, or higher values", significant(*low, DIGITS)),
        _ => matches,
    }
}

/// A number of matches with two digits.
fn rounded(matches: u64) -> u64 {
    let unit = 10u64.pow((matches.max(1).ilog10()).saturating_sub(1));
    matches.div_ceil(unit) * unit
}

/// The lowest and the highest point.
fn ends(found: &SweepFinding, summary: &StudySummary) -> String {
    if found.points.is_empty() { "Nothing was played.".into() } else { format!("{}.", reach(found, summary)) }
}

/// Writes the range of the rates, without the full stop.
fn reach(found: &SweepFinding, summary: &StudySummary) -> String {
    let rates = found.points.iter().filter_map(|point| Some((point, point.win_rate?)));
    let by_rate = |a: &(&PointSummary, Interval), b: &(&PointSummary, Interval)| a.1.value.total_cmp(&b.1.value);
    let (Some((at_low, low)), Some((at_high, high))) = (rates.clone().min_by(by_rate), rates.max_by(by_rate)) else {
        return "No block counts".into();
    };
    let first = &summary.entrants[0].name;
    format!("{first} takes from {} at {} to {} at {}", said(&low), point_name(at_low), said(&high), point_name(at_high))
}

fn lower_first(text: &str) -> String {
    // Names of entrants stay as they are written.
    text.strip_prefix("No ").map_or_else(|| text.to_string(), |rest| format!("no {rest}"))
}

/// Describes the curve.
pub(super) fn curve(found: &SweepFinding) -> String {
    let Some(curve) = &found.curve else { return String::new() };
    let p = &curve.parameters;
    let shape = match shape(&curve.turns) {
        Some(shape) => format!("The win rate {shape}."),
        None => "No rise or fall of the win rate is clear.".into(),
    };
    let misfit = p_value(curve.fit.misfit_p);
    let model = match curve.model {
        _ if curve.turns.is_empty() => String::new(),
        Model::LapseLogistic => format!(
            "As a logistic curve: floor {}, ceiling {}, midpoint {}, slope {}; no misfit is seen ({misfit}).",
            percent(p.floor),
            percent(p.ceiling),
            significant(p.midpoint, DIGITS),
            significant(p.slope, DIGITS),
        ),
        Model::Local => format!("No logistic curve describes it ({misfit})."),
    };
    let corrected = "Changes are paired by block; \"not separable yet\" after Holm's correction for their number.";
    if found.differences.is_empty() {
        format!("{shape} {model}").trim_end().to_string()
    } else {
        format!("{}\n{corrected}", format!("{shape} {model}").trim_end())
    }
}

/// Rises and falls in words: `rises, then falls`.
pub(super) fn shape(turns: &[Turn]) -> Option<String> {
    let words = turns.iter().map(|turn| match turn {
        Turn::Rises => "rises",
        Turn::Falls => "falls",
    });
    let words: Vec<&str> = words.collect();
    (!words.is_empty()).then(|| words.join(", then "))
}
