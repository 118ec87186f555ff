//! What decisions cost, beside what they win.

use inkpot_lab::{Plan, StudyKind, Summary};
use inkpot_ledger::DecisionTime;

use super::format::{count, percent};
use super::table::{Column, table};

/// Time that the game has for a decision, in microseconds.
pub(crate) fn frame_us(plan: &Plan) -> Option<f64> {
    plan.frame_ms.map(|ms| ms * 1e3)
}

/// A time in microseconds in the unit that suits it, to three digits.
pub(crate) fn duration(us: f64) -> String {
    let (value, unit) = match us {
        us if us < 1e3 => (us, "µs"),
        us if us < 1e6 => (us / 1e3, "ms"),
        us => (us / 1e6, "s"),
    };
    let places = if value < 10.0 { 2 } else { usize::from(value < 100.0) };
    format!("{value:.places$} {unit}")
}

/// Entrants shown; all are in the JSON.
const SHOWN: usize = 40;

/// Win rate, states advanced and decision times of all that search; empty where nobody does.
pub(crate) fn text(summary: &Summary, times: &[DecisionTime], color: bool) -> String {
    use Column::{Figure, Text};
    // Of a sweep the points of its first entrant are told.
    let told = if summary.kind() == StudyKind::Sweep { &summary.entrants[..1] } else { &summary.entrants };
    if told.iter().all(|entrant| entrant.nodes.is_none()) || times.is_empty() {
        return String::new();
    }
    let time = |entrant: &str, point: Option<usize>| {
        let mut own = times.iter().filter(|time| time.entrant == entrant && time.point.is_some() == point.is_some());
        own.nth(point.unwrap_or(0))
    };
    let cells = |time: Option<&DecisionTime>| {
        let of = |us: Option<f64>| us.map(duration).unwrap_or_default();
        [
            of(time.map(|time| time.mean_us)),
            of(time.and_then(|time| time.p95_us)),
            of(time.and_then(|time| time.p99_us)),
        ]
    };
    let mut rows: Vec<Vec<String>> = Vec::new();
    let mut row = |name: String, rate: Option<f64>, nodes: Option<f64>, time: Option<&DecisionTime>| {
        let nodes = nodes.map(|nodes| count(nodes.round() as u64)).unwrap_or_default();
        rows.push([name, rate.map(percent).unwrap_or_default(), nodes].into_iter().chain(cells(time)).collect());
    };
    if summary.kind() == StudyKind::Sweep {
        let first = &summary.entrants[0].name;
        for (index, point) in summary.points().iter().enumerate() {
            let name = point.knobs.iter().map(|(name, value)| format!("{name} {value}")).collect::<Vec<_>>().join(", ");
            let rate = point.win_rate.map(|rate| rate.value);
            row(name, rate, point.nodes.map(|nodes| nodes.value), time(first, Some(index)));
        }
    } else {
        let mut ranked: Vec<_> = summary.entrants.iter().collect();
        ranked.sort_by(|a, b| b.win_rate.map_or(0.0, |r| r.value).total_cmp(&a.win_rate.map_or(0.0, |r| r.value)));
        for entrant in ranked.into_iter().take(SHOWN) {
            let rate = entrant.win_rate.map(|rate| rate.value);
            row(entrant.name.clone(), rate, entrant.nodes.map(|nodes| nodes.value), time(&entrant.name, None));
        }
    }
    let columns = [
        Text("A decision of"),
        Figure("Win rate"),
        Figure("States advanced"),
        Figure("Mean time"),
        Figure("95 % within"),
        Figure("99 % within"),
    ];
    table(&columns, &rows, color)
}

/// A note for each entrant of which one decision in a hundred takes longer than the game has. Times differ from run to
/// run, so these notes stand beside the summary, not in it.
pub(crate) fn notes(plan: &Plan, times: &[DecisionTime]) -> Vec<String> {
    let Some(frame) = frame_us(plan) else { return Vec::new() };
    let slow = |time: &&DecisionTime| time.p99_us.unwrap_or(time.mean_us) > frame;
    // Of a sweep the points say more than all of it together.
    let by_point = times.iter().any(|time| time.point.is_some());
    let mut notes: Vec<String> = times
        .iter()
        .filter(|time| time.point.is_some() == by_point)
        .filter(slow)
        .map(|time| {
            let who = match &time.point {
                Some(point) => format!("`{}` at {point}", time.entrant),
                None => format!("`{}`", time.entrant),
            };
            let what = match time.p99_us {
                Some(p99) => format!("takes more than {} for one decision in a hundred", duration(p99)),
                None => format!("takes {} a decision on average", duration(time.mean_us)),
            };
            format!("{who} {what}: over the frame of {}", duration(frame))
        })
        .collect();
    if notes.is_empty() {
        let sampled = times.iter().any(|time| time.p99_us.is_none());
        let quick = if sampled { " (of quick agents, which are timed by sample, the mean does)" } else { "" };
        notes.push(format!("99 of 100 decisions stay within the frame of {}{quick}", duration(frame)));
    }
    notes
}
