//! The tables of the report page.

use inkpot_core::{GameEntry, KnobValue};
use inkpot_figures::{PageTable, TableCell, TableRow};
use inkpot_lab::{StudyKind, Summary, told_measures};
use inkpot_stats::Interval;

use crate::show::format::{count, ends, figure, percent, plain, span};
use crate::show::{self, tune};

/// More rows than this are cut, and that is said.
const MOST_ROWS: usize = 200;

fn rate_cells(rate: Option<Interval>) -> [TableCell; 2] {
    match rate {
        Some(rate) => [TableCell::number(percent(rate.value), rate.value), TableCell::text(ends(&rate))],
        None => [TableCell::text(""), TableCell::text("")],
    }
}

fn counts(wins: u64, draws: u64, losses: u64) -> [TableCell; 3] {
    [wins, draws, losses].map(|n| TableCell::number(count(n), n as f64))
}

fn columns(names: &[(&str, bool)]) -> Vec<(String, bool)> {
    names.iter().map(|(name, figure)| ((*name).to_string(), *figure)).collect()
}

pub(super) fn table(caption: &str, names: &[(&str, bool)], mut rows: Vec<TableRow>) -> Option<PageTable> {
    let all = rows.len();
    rows.truncate(MOST_ROWS);
    let cut = if all > MOST_ROWS { format!(" (the first {MOST_ROWS} of {all})") } else { String::new() };
    (all > 0).then(|| PageTable { caption: format!("{caption}{cut}"), columns: columns(names), rows })
}

pub(super) fn tables(summary: &Summary, game: &dyn GameEntry) -> Vec<PageTable> {
    let all = match summary.kind() {
        StudyKind::Sweep => vec![points(summary), steps(summary)],
        StudyKind::Tune => vec![rungs(summary), targets(summary), people(summary)],
        _ => vec![entrants(summary), pairings(summary), people(summary), measures(summary, game)],
    };
    all.into_iter().flatten().collect()
}

fn entrants(summary: &Summary) -> Option<PageTable> {
    let rating = |name: &str| summary.ratings().iter().find(|own| own.name == name).and_then(|own| own.rating);
    let rows = summary.entrants.iter().map(|own| {
        let mut cells = vec![TableCell::text(own.name.clone()), TableCell::text(own.agent.clone())];
        cells.extend(rate_cells(own.win_rate));
        cells.extend(counts(own.wins, own.draws, own.losses));
        cells.push(own.score.map_or(TableCell::text(""), |score| TableCell::number(figure(&score), score.value)));
        if !summary.ratings().is_empty() {
            cells.push(rating(&own.name).map_or(TableCell::text(""), |rating| {
                TableCell::number(
                    format!("{:.0} ({:.0} to {:.0})", rating.value, rating.low, rating.high),
                    rating.value,
                )
            }));
        }
        TableRow { key: own.name.clone(), cells }
    });
    let mut names = vec![
        ("Entrant", false),
        ("Agent", false),
        ("Win rate", true),
        ("Interval", true),
        ("Won", true),
        ("Drawn", true),
        ("Lost", true),
        ("Score a match", true),
    ];
    if !summary.ratings().is_empty() {
        names.push(("Rating", true));
    }
    table("Entrants", &names, rows.collect())
}

fn pairings(summary: &Summary) -> Option<PageTable> {
    if summary.pairings.len() < 2 {
        return None;
    }
    let rows = summary.pairings.iter().map(|own| {
        let mut cells = vec![TableCell::text(own.a.clone()), TableCell::text(own.b.clone())];
        cells.extend(rate_cells(own.win_rate));
        cells.extend(counts(own.wins, own.draws, own.losses));
        TableRow { key: own.a.clone(), cells }
    });
    let names = [
        ("Entrant", false),
        ("Against", false),
        ("Win rate", true),
        ("Interval", true),
        ("Won", true),
        ("Drawn", true),
        ("Lost", true),
    ];
    table("Pairings", &names, rows.collect())
}

fn points(summary: &Summary) -> Option<PageTable> {
    let knobs: Vec<&String> = summary.points().first()?.knobs.keys().collect();
    let rows = summary.points().iter().map(|own| {
        let value = |knob: &&String| {
            let value = &own.knobs[*knob];
            value
                .number()
                .map_or_else(|| TableCell::text(value.to_string()), |x| TableCell::number(value.to_string(), x))
        };
        let mut cells: Vec<TableCell> = knobs.iter().map(value).collect();
        cells.extend(rate_cells(own.win_rate));
        cells.extend(counts(own.wins, own.draws, own.losses));
        let key = own.knobs.values().map(KnobValue::to_string).collect::<Vec<_>>().join(", ");
        TableRow { key, cells }
    });
    let mut names: Vec<(&str, bool)> = knobs.iter().map(|knob| (knob.as_str(), true)).collect();
    names.extend([("Win rate", true), ("Interval", true), ("Won", true), ("Drawn", true), ("Lost", true)]);
    table("Points", &names, rows.collect())
}

fn steps(summary: &Summary) -> Option<PageTable> {
    let rows = summary.differences().iter().map(|own| {
        let d = own.difference.difference;
        let points = |x: f64| format!("{:+.1}", 100.0 * x);
        TableRow {
            key: own.to.to_string(),
            cells: vec![
                TableCell::text(format!("{} to {}", own.from, own.to)),
                TableCell::number(points(d.value), d.value),
                TableCell::text(format!("{} to {}", points(d.low), points(d.high))),
                TableCell::text(if own.p_adjusted < 0.05 { "" } else { "not separable yet" }),
            ],
        }
    });
    let names = [("Step", false), ("Change, points", true), ("Interval", true), ("", false)];
    table("Steps between neighbouring points, paired by block", &names, rows.collect())
}

fn rungs(summary: &Summary) -> Option<PageTable> {
    let rows = summary.tune().into_iter().flat_map(|told| &told.rungs).flat_map(|rung| {
        rung.turned.iter().map(|own| {
            let value = own
                .value
                .number()
                .map_or_else(|| TableCell::text(own.value.to_string()), |x| TableCell::number(plain(x), x));
            let interval = own.low.zip(own.high).map(|(low, high)| span(low, high));
            TableRow {
                key: rung.name.clone(),
                cells: vec![
                    TableCell::text(rung.name.clone()),
                    TableCell::text(own.knob.clone()),
                    value,
                    TableCell::text(interval.unwrap_or_default()),
                    TableCell::text(own.binds.clone().unwrap_or_default()),
                ],
            }
        })
    });
    let names = [("Rung", false), ("Knob", false), ("Value", true), ("Interval", true), ("", false)];
    table("What was turned", &names, rows.collect())
}

fn targets(summary: &Summary) -> Option<PageTable> {
    let rows = summary.tune().into_iter().flat_map(|told| &told.rungs).flat_map(|rung| {
        rung.targets.iter().map(|own| {
            let seen = own.measured;
            let text = seen.map(|seen| {
                if own.is_rate() {
                    format!("{} ({})", percent(seen.value), ends(&seen.interval()))
                } else {
                    figure(&seen.interval())
                }
            });
            TableRow {
                key: rung.name.clone(),
                cells: vec![
                    TableCell::text(rung.name.clone()),
                    TableCell::text(own.full_name()),
                    TableCell::text(tune::wanted(own)),
                    TableCell::number(text.unwrap_or_default(), seen.map_or(f64::NAN, |seen| seen.value)),
                    TableCell::text(seen.map_or("", |seen| seen.verdict.word())),
                    TableCell::text(if own.hard { "" } else { "a wish" }),
                ],
            }
        })
    });
    let names = [
        ("Rung", false),
        ("Target", false),
        ("Wanted", false),
        ("Proved, with interval", true),
        ("", false),
        ("", false),
    ];
    table("What was wanted, and proved", &names, rows.collect())
}

fn people(summary: &Summary) -> Option<PageTable> {
    let rows = summary.people.iter().map(|own| TableRow {
        key: own.name.clone(),
        cells: show::people::cells(own)
            .into_iter()
            .enumerate()
            .map(
                |(place, (text, number))| {
                    if place < 2 { TableCell::text(text) } else { TableCell::number(text, number) }
                },
            )
            .collect(),
    });
    let names: Vec<(&str, bool)> = show::people::HEADINGS.iter().enumerate().map(|(i, name)| (*name, i > 1)).collect();
    table("From player to player", &names, rows.collect())
}

fn measures(summary: &Summary, game: &dyn GameEntry) -> Option<PageTable> {
    let rows = told_measures(game).into_iter().flat_map(|measure| {
        let title = measure.titled();
        summary.entrants.iter().filter_map(move |own| {
            let seen = own.measures.get(&measure.name)?;
            Some(TableRow {
                key: own.name.clone(),
                cells: vec![
                    TableCell::text(title.clone()),
                    TableCell::text(own.name.clone()),
                    TableCell::number(figure(seen), seen.value),
                ],
            })
        })
    });
    let names = [("Measure", false), ("Entrant", false), ("Mean and interval", true)];
    table("Measures", &names, rows.collect())
}
