//! What a study found: a sentence, tables with intervals, notes.

use inkpot_core::{GameEntry, KnobValue};
use inkpot_lab::{StudyKind, Summary, told_measures};
use inkpot_stats::{Interval, Model};

use super::format::{bar, count, counted, ends, figure, p_value, percent, plain, said};
use super::table::{Column, table};
use super::{comparison, people, ranking, tune};
use crate::desk::Desk;

/// Measures shown in tables; the others are in the JSON and the figures.
const MEASURES_SHOWN: usize = 3;
const BAR: usize = 14;

/// The whole text of a summary; `costs` says what decisions took, where that is known.
pub(crate) fn text(summary: &Summary, game: &dyn GameEntry, costs: &str, desk: &Desk) -> String {
    let mut parts = vec![finding(summary)];
    match summary.kind() {
        StudyKind::Batch => {
            parts.push(entrants(summary, desk.color));
            parts.push(costs.into());
            if summary.pairings.len() > 1 {
                parts.push(pairings(summary, desk.color));
            }
            parts.push(measures(summary, game, desk.color));
        }
        StudyKind::Sweep => {
            parts.push(points(summary, desk.color));
            parts.push(costs.into());
            parts.extend(curve(summary));
        }
        StudyKind::Tournament => {
            parts.push(ranking::field(summary, desk.color));
            parts.push(costs.into());
            parts.push(ranking::pairs(summary, desk.color));
            parts.push(ranking::beyond(summary));
        }
        StudyKind::Tune => {
            parts.extend(summary.tune().map(|told| tune::text(told, desk.color)));
            parts.push(costs.into());
        }
        StudyKind::Compare => {
            parts.extend(summary.comparison().map(comparison::lines));
            parts.push(entrants(summary, desk.color));
            parts.push(costs.into());
            parts.push(measures(summary, game, desk.color));
        }
    }
    parts.push(people::text(summary, desk.color));
    parts.push(closing(summary));
    parts.retain(|part| !part.is_empty());
    parts.join("\n\n")
}

/// What was found, in one sentence.
pub(crate) fn finding(summary: &Summary) -> String {
    match summary.kind() {
        StudyKind::Batch => batch_finding(summary),
        StudyKind::Sweep => sweep_finding(summary),
        StudyKind::Tournament => ranking::finding(summary),
        StudyKind::Tune => summary.tune().map(tune::sentence).unwrap_or_default(),
        StudyKind::Compare => match summary.comparison() {
            Some(told) => comparison::sentence(told, summary.confidence),
            None => "Nothing was compared.".into(),
        },
    }
}

fn batch_finding(summary: &Summary) -> String {
    let mut ranked: Vec<_> = summary.entrants.iter().filter_map(|entrant| Some((entrant, entrant.win_rate?))).collect();
    ranked.sort_by(|a, b| b.1.value.total_cmp(&a.1.value));
    let matches = counted(summary.matches, "match", "matches");
    if let ([pairing], Some(win_rate)) =
        (summary.pairings.as_slice(), summary.pairings.first().and_then(|p| p.win_rate))
    {
        let (a, b) = (&pairing.a, &pairing.b);
        return match verdict(&win_rate) {
            Some(true) => format!("{a} beats {b}: {} of {matches}.", said(&win_rate)),
            Some(false) => format!("{b} beats {a}: {} of {matches}.", said(&win_rate.complement())),
            None => format!("{a} and {b} are not separable yet: {a} takes {} of {matches}.", said(&win_rate)),
        };
    }
    let [(first, best), (second, next), ..] = ranked.as_slice() else {
        return format!("{matches} played.");
    };
    if best.low > next.high {
        format!("{} leads the field: {} over {matches}.", first.name, said(best))
    } else {
        format!("{} and {} lead the field and are not separable yet.", first.name, second.name)
    }
}

/// Whether a rate is clearly above one half, clearly below, or neither.
fn verdict(win_rate: &Interval) -> Option<bool> {
    if win_rate.holds(0.5) { None } else { Some(win_rate.value > 0.5) }
}

fn sweep_finding(summary: &Summary) -> String {
    let first = &summary.entrants[0].name;
    if let Some(solved) = summary.solved() {
        let target = percent(solved.target).replace(".0", "");
        return match solved.value {
            Some(value) => {
                let end =
                    |end: Option<f64>| end.map_or_else(|| "outside what was measured".into(), |x| format!("{x:.3}"));
                format!(
                    "{} {value:.3} gives {first} {target} (95 % interval {} to {}).",
                    solved.knob,
                    end(solved.low),
                    end(solved.high)
                )
                .replace("95 %", &percent(summary.confidence).replace(".0", ""))
            }
            None => format!("No value of {} measured gives {first} {target}.", solved.knob),
        };
    }
    let rates = summary.points().iter().filter_map(|point| Some((point, point.win_rate?)));
    let low = rates.clone().min_by(|a, b| a.1.value.total_cmp(&b.1.value));
    let high = rates.max_by(|a, b| a.1.value.total_cmp(&b.1.value));
    match (low, high) {
        (Some((at_low, low)), Some((at_high, high))) => format!(
            "{first} takes from {} ({}) to {} ({}).",
            percent(low.value),
            knobs(at_low),
            percent(high.value),
            knobs(at_high)
        ),
        _ => "Nothing was played.".into(),
    }
}

fn knobs(point: &inkpot_lab::PointSummary) -> String {
    point.knobs.iter().map(|(name, value)| format!("{name} {value}")).collect::<Vec<_>>().join(", ")
}

fn entrants(summary: &Summary, color: bool) -> String {
    use Column::{Figure, Text};
    let mut ranked: Vec<_> = summary.entrants.iter().collect();
    let value = |rate: Option<Interval>| rate.map_or(-1.0, |rate| rate.value);
    ranked.sort_by(|a, b| value(b.win_rate).total_cmp(&value(a.win_rate)));
    let rows: Vec<Vec<String>> = ranked
        .iter()
        .map(|entrant| {
            vec![
                entrant.name.clone(),
                entrant.win_rate.map(|rate| percent(rate.value)).unwrap_or_default(),
                entrant.win_rate.map(|rate| ends(&rate)).unwrap_or_default(),
                bar(value(entrant.win_rate), BAR),
                count(entrant.wins),
                count(entrant.draws),
                count(entrant.losses),
                entrant.score.map(|score| figure(&score)).unwrap_or_default(),
            ]
        })
        .collect();
    let columns = [
        Text("Entrant"),
        Figure("Win rate"),
        Figure("Interval"),
        Text(""),
        Figure("Won"),
        Figure("Drawn"),
        Figure("Lost"),
        Figure("Score a match"),
    ];
    table(&columns, &rows, color)
}

fn pairings(summary: &Summary, color: bool) -> String {
    use Column::{Figure, Text};
    let rows: Vec<Vec<String>> = summary
        .pairings
        .iter()
        .filter_map(|pairing| {
            let win_rate = pairing.win_rate?;
            Some(vec![
                pairing.a.clone(),
                pairing.b.clone(),
                percent(win_rate.value),
                ends(&win_rate),
                count(pairing.wins),
                count(pairing.draws),
                count(pairing.losses),
                if verdict(&win_rate).is_none() { "not separable yet".into() } else { String::new() },
            ])
        })
        .collect();
    let columns = [
        Text("Entrant"),
        Text("Against"),
        Figure("Win rate"),
        Figure("Interval"),
        Figure("Won"),
        Figure("Drawn"),
        Figure("Lost"),
        Text(""),
    ];
    table(&columns, &rows, color)
}

fn measures(summary: &Summary, game: &dyn GameEntry, color: bool) -> String {
    use Column::{Figure, Text};
    let all = told_measures(game);
    let shown = |name: &str| all.iter().find(|measure| measure.name == name).map(inkpot_core::Measure::titled);
    let names: Vec<&String> = summary.entrants.iter().flat_map(|entrant| entrant.measures.keys()).collect();
    let ordered = all.iter().filter(|measure| names.contains(&&measure.name));
    if names.is_empty() {
        return String::new();
    }
    let few = summary.entrants.len() <= 3;
    if few {
        let rows: Vec<Vec<String>> = ordered
            .map(|measure| {
                let own = |entrant: &inkpot_lab::EntrantSummary| {
                    entrant.measures.get(&measure.name).map(figure).unwrap_or_default()
                };
                [shown(&measure.name).unwrap_or_default()].into_iter().chain(summary.entrants.iter().map(own)).collect()
            })
            .collect();
        return wide(&["Measure"], summary.entrants.iter().map(|entrant| entrant.name.as_str()), &rows, color);
    }
    let columns = [Text("Measure"), Text("Entrant"), Figure("Mean and interval")];
    let rows: Vec<Vec<String>> = ordered
        .take(MEASURES_SHOWN)
        .flat_map(|measure| {
            summary.entrants.iter().filter_map(move |entrant| {
                Some(vec![measure.titled(), entrant.name.clone(), figure(entrant.measures.get(&measure.name)?)])
            })
        })
        .collect();
    table(&columns, &rows, color)
}

/// A table whose last columns are named by data.
fn wide<'a>(first: &[&'static str], names: impl Iterator<Item = &'a str>, rows: &[Vec<String>], color: bool) -> String {
    let names: Vec<String> = names.map(str::to_string).collect();
    let columns: Vec<Column> =
        first.iter().map(|heading| Column::Text(heading)).chain(names.iter().map(|_| Column::Figure(""))).collect();
    super::table::named(&columns, &names, rows, color)
}

fn points(summary: &Summary, color: bool) -> String {
    use Column::{Figure, Text};
    let mut knobs: Vec<String> =
        summary.points().first().map(|point| point.knobs.keys().cloned().collect()).unwrap_or_default();
    // The knob that changes from row to row stands last.
    if let [first, second, ..] = summary.points() {
        knobs.sort_by_key(|knob| first.knobs.get(knob) != second.knobs.get(knob));
    }
    let steps = summary.differences();
    let rows: Vec<Vec<String>> = summary
        .points()
        .iter()
        .enumerate()
        .map(|(index, point)| {
            let mut row: Vec<String> =
                knobs.iter().map(|knob| point.knobs.get(knob).map(KnobValue::to_string).unwrap_or_default()).collect();
            row.push(point.win_rate.map(|rate| percent(rate.value)).unwrap_or_default());
            row.push(point.win_rate.map(|rate| ends(&rate)).unwrap_or_default());
            row.push(bar(point.win_rate.map_or(0.0, |rate| rate.value), BAR));
            if !steps.is_empty() {
                row.push(index.checked_sub(1).and_then(|before| steps.get(before)).map(step).unwrap_or_default());
            }
            row
        })
        .collect();
    let mut columns: Vec<Column> = knobs.iter().map(|_| Figure("")).collect();
    columns.extend([Figure("Win rate"), Figure("Interval"), Text("")]);
    if !steps.is_empty() {
        columns.push(Text("Change from the point before"));
    }
    super::table::headed(&columns, &knobs, &rows, color)
}

fn step(step: &inkpot_lab::PointDifference) -> String {
    let d = step.difference.difference;
    let clear = if step.p_adjusted < 0.05 { "" } else { "  not separable yet" };
    format!("{:+.1}  {:+.1} to {:+.1}{clear}", d.value * 100.0, d.low * 100.0, d.high * 100.0)
}

fn curve(summary: &Summary) -> Option<String> {
    let curve = summary.curve()?;
    let p = &curve.parameters;
    let model = match curve.model {
        Model::LapseLogistic => format!(
            "Curve: logistic, floor {}, ceiling {}, midpoint {}, slope {}; it fits ({}).",
            percent(p.floor),
            percent(p.ceiling),
            plain(p.midpoint),
            plain(p.slope),
            p_value(curve.fit.misfit_p)
        ),
        Model::Isotonic => "Curve: straight lines between the points after isotonic regression.".to_string(),
    };
    let corrected = "Changes are paired by block; \"not separable yet\" after Holm's correction for their number.";
    Some(if summary.differences().is_empty() { model } else { format!("{model}\n{corrected}") })
}

fn closing(summary: &Summary) -> String {
    let mut lines = vec![format!(
        "{} in {}, seed {}, level {}; intervals {}.",
        counted(summary.matches, "match", "matches"),
        counted(summary.blocks, "block", "blocks"),
        summary.seed,
        summary.level,
        percent(summary.confidence).replace(".0", "")
    )];
    if let Some(first) = summary.first_seat {
        lines.push(format!("First seat: {} of the points.", said(&first)));
    }
    lines.extend(summary.notes.iter().map(|note| format!("note: {note}")));
    lines.join("\n")
}
