//! Costs of decisions, beside win rates.

use inkpot_lab::{EntrantSummary, Note, PointSummary, StudyPlan};
use inkpot_ledger::DecisionTime;
use inkpot_stats::{Interval, Mean};

use super::entrants::ranked;
use super::study_view::StudyView;
use super::table::{Cell, Column, Table};

/// Time that the game has for a decision, in microseconds.
pub(crate) fn frame_us(plan: &StudyPlan) -> Option<f64> {
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

/// Names a point of a sweep.
pub(crate) fn point_name(point: &PointSummary) -> String {
    point.knobs.iter().map(|(name, value)| format!("{name} {value}")).collect::<Vec<_>>().join(", ")
}

/// Builds the table of win rate, states advanced and decision times of searching agents; for a sweep the points of its
/// first entrant. Empty without a search.
pub(crate) fn table(view: &StudyView) -> Table {
    let columns = vec![
        Column::text("A decision of"),
        Column::figure("Win rate"),
        Column::figure("States advanced"),
        Column::figure("Median time"),
        Column::figure("95 % within"),
        Column::figure("99 % within"),
    ];
    let summary = view.summary;
    let sweep = summary.sweep().is_some();
    let searching = if sweep { &summary.entrants[..1] } else { &summary.entrants };
    if searching.iter().all(|entrant| entrant.nodes.is_none()) || view.times.is_empty() {
        return Table::new("", columns);
    }
    let rows = if sweep { points(view) } else { entrants(view) };
    Table::new("What decisions cost", columns).with(rows)
}

fn points(view: &StudyView) -> Vec<(String, Vec<Cell>)> {
    let first = &view.summary.entrants[0].name;
    let times: Vec<&DecisionTime> =
        view.times.iter().filter(|time| time.entrant == *first && time.point.is_some()).collect();
    let row = |(index, point): (usize, &PointSummary)| {
        let name = point_name(point);
        (name.clone(), cells(name, point.win_rate, point.nodes, times.get(index).copied()))
    };
    view.summary.points().iter().enumerate().map(row).collect()
}

fn entrants(view: &StudyView) -> Vec<(String, Vec<Cell>)> {
    let row = |entrant_summary: &EntrantSummary| {
        let time = view.times.iter().find(|time| time.entrant == entrant_summary.name && time.point.is_none());
        (
            entrant_summary.name.clone(),
            cells(entrant_summary.name.clone(), entrant_summary.win_rate, entrant_summary.nodes, time),
        )
    };
    ranked(view.summary).into_iter().map(row).collect()
}

fn cells(name: String, rate: Option<Interval>, nodes: Option<Mean>, time: Option<&DecisionTime>) -> Vec<Cell> {
    let of = |us: Option<f64>| Cell::of(us, |us| Cell::Said(duration(us), us));
    vec![
        Cell::Text(name),
        Cell::of(rate, |rate| Cell::Share(rate.value)),
        Cell::of(nodes, |nodes| Cell::Count(nodes.value.round() as u64)),
        // Of quick agents, which are timed by sample, only the mean is known.
        Cell::of(time, |time| match time.p50_us {
            Some(median) => Cell::Said(duration(median), median),
            None => Cell::Said(format!("{} (mean)", duration(time.mean_us)), time.mean_us),
        }),
        of(time.and_then(|time| time.p95_us)),
        of(time.and_then(|time| time.p99_us)),
    ]
}

/// A note for each entrant of which one decision in a hundred takes longer than the game has. Times differ from run to
/// run, so these notes stand beside the summary, not in it.
pub(crate) fn notes(plan: &StudyPlan, times: &[DecisionTime]) -> Vec<String> {
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
            Note::Slow.says(format!("{who} {what}, over the frame of {}", duration(frame)))
        })
        .collect();
    if notes.is_empty() {
        let sampled = times.iter().any(|time| time.p99_us.is_none());
        let quick = if sampled { " (of quick agents, which are timed by sample, the mean does)" } else { "" };
        notes.push(
            Note::InFrame.says(format!("99 of 100 decisions stay within the frame of {}{quick}", duration(frame))),
        );
    }
    notes
}
