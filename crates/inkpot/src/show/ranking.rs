//! What a tournament came to: the field by rating, and where ratings do not tell the story.

use std::fmt::Write as _;

use inkpot_lab::{Format, RatingSummary, Summary, TournamentSummary};
use inkpot_stats::Interval;

use super::format::{count, ends, percent, whole};
use super::table::{Column, table};

/// Entrants and pairs shown in tables; all are in the JSON and the figures.
const SHOWN: usize = 40;
const PAIRS: usize = 15;
const RESIDUALS: usize = 3;
/// Probability from which one is said to be stronger.
const SURE: f64 = 0.975;
const ODD: f64 = 0.05;

/// Who leads, and how surely.
pub(crate) fn finding(summary: &Summary) -> String {
    let (Some(told), [first, rest @ ..]) = (summary.tournament(), summary.ratings()) else {
        return "Nothing was played.".into();
    };
    let Some(second) = rest.first() else { return format!("{} stands alone.", first.name) };
    if told.format == Format::Knockout {
        return format!("{}{}.", won(told, &first.name), by_rating(summary));
    }
    if first.rating.is_none() {
        return "Nobody can be rated yet: fewer than two blocks count.".into();
    }
    let probability = first.stronger_than_next.unwrap_or(0.5);
    let ahead = first
        .rating
        .zip(second.rating)
        .map(|(a, b)| format!("{:.0} rating points above {}", a.value - b.value, second.name));
    let ahead = ahead.unwrap_or_else(|| format!("ahead of {}", second.name));
    let sure = chance(probability);
    if probability >= SURE {
        format!("{} leads the field: {ahead}, stronger with probability {sure}.", first.name)
    } else {
        format!(
            "{} and {} lead the field and are not separable yet: {} is stronger with probability {sure}.",
            first.name, second.name, first.name
        )
    }
}

/// Who leads, in few words.
pub(crate) fn headline(summary: &Summary) -> String {
    match (summary.tournament(), summary.ratings()) {
        (Some(told), [first, ..]) if told.format == Format::Knockout => format!("{} wins the knockout", first.name),
        (Some(_), [first, second, ..]) if first.stronger_than_next.unwrap_or(0.5) >= SURE => {
            let ahead = first.rating.zip(second.rating).map(|(a, b)| a.value - b.value);
            ahead.map_or(finding(summary), |ahead| format!("{} leads by {ahead:.0} rating points", first.name))
        }
        (Some(_), [first, second, ..]) if first.rating.is_some() => {
            format!("{} and {} lead, not separable yet", first.name, second.name)
        }
        _ => finding(summary),
    }
}

/// The last table of a knockout.
fn won(told: &TournamentSummary, winner: &str) -> String {
    let last = told.rounds.last().and_then(|round| round.tables.first());
    let beaten = last.map(|table| {
        let others = table.entrants.iter().zip(&table.points).filter(|(name, _)| *name != winner);
        let own = table.entrants.iter().zip(&table.points).find(|(name, _)| *name == winner).map_or(0.0, |(_, p)| *p);
        let names: Vec<&str> = others.map(|(name, _)| name.as_str()).collect();
        format!(" against {} with {} of the points", names.join(", "), percent(own))
    });
    format!("{winner} wins the knockout, the last round{}", beaten.unwrap_or_default())
}

/// Whether the winner of a knockout is the highest rated too.
fn by_rating(summary: &Summary) -> String {
    let value = |rating: &&RatingSummary| rating.rating.map_or(f64::NEG_INFINITY, |seen| seen.value);
    let best = summary.ratings().iter().max_by(|a, b| value(a).total_cmp(&value(b)));
    match best {
        Some(best) if best.name != summary.ratings()[0].name => format!("; by rating {} is the highest", best.name),
        _ => String::new(),
    }
}

/// A probability without false certainty.
fn chance(p: f64) -> String {
    match p {
        p if p > 0.999 => "over 99.9 %".into(),
        p if p < 0.001 => "under 0.1 %".into(),
        p => percent(p),
    }
}

/// The ends of an interval of rating points.
fn span(seen: &Interval) -> String {
    format!("{} to {}", whole(seen.low), whole(seen.high))
}

/// The field by rating.
pub(crate) fn field(summary: &Summary, color: bool) -> String {
    use Column::{Figure, Text};
    let ratings = summary.ratings();
    let budgets = ratings.iter().any(|rating| rating.budget.is_some());
    let knockout = ratings.iter().any(|rating| rating.placement.is_some());
    let rows: Vec<Vec<String>> = ratings
        .iter()
        .take(SHOWN)
        .enumerate()
        .map(|(index, own)| {
            let next = own.stronger_than_next.map(chance).unwrap_or_default();
            let mut row = vec![
                own.placement.map_or_else(|| (index + 1).to_string(), |placement| placement.to_string()),
                own.name.clone(),
                own.rating.map(|seen| whole(seen.value)).unwrap_or_default(),
                own.rating.map(|seen| span(&seen)).unwrap_or_default(),
                own.points_share.map(percent).unwrap_or_default(),
            ];
            if !knockout {
                row.push(next);
            }
            if budgets {
                row.push(own.budget.clone().unwrap_or_default());
            }
            row
        })
        .collect();
    let mut columns = vec![Figure(""), Text("Entrant"), Figure("Rating"), Figure("Interval"), Figure("Points")];
    if !knockout {
        columns.push(Figure("Stronger than the next"));
    }
    if budgets {
        columns.push(Text("Budget"));
    }
    let mut text = table(&columns, &rows, color);
    if ratings.len() > SHOWN {
        let _ = write!(text, "\n... and {} more; all are in summary.json and the figures", ratings.len() - SHOWN);
    }
    text
}

/// Who beats whom, in a small field.
pub(crate) fn pairs(summary: &Summary, color: bool) -> String {
    use Column::{Figure, Text};
    if summary.pairings.len() > PAIRS {
        return String::new();
    }
    // The stronger of each pair first, the pairs of the strongest first.
    let place = |name: &String| summary.ratings().iter().position(|rating| rating.name == *name).unwrap_or(0);
    let mut rows: Vec<((usize, usize), Vec<String>)> = summary
        .pairings
        .iter()
        .filter_map(|pairing| {
            let (seen, expected) = (pairing.win_rate?, pairing.expected?);
            let turned = place(&pairing.a) > place(&pairing.b);
            let (a, b) = if turned { (&pairing.b, &pairing.a) } else { (&pairing.a, &pairing.b) };
            let (seen, expected) = if turned { (seen.complement(), 1.0 - expected) } else { (seen, expected) };
            let row = vec![
                a.clone(),
                b.clone(),
                percent(seen.value),
                ends(&seen),
                percent(expected),
                if seen.holds(0.5) { "not separable yet".into() } else { String::new() },
            ];
            Some(((place(a), place(b)), row))
        })
        .collect();
    rows.sort_by_key(|(places, _)| *places);
    let rows: Vec<Vec<String>> = rows.into_iter().map(|(_, row)| row).collect();
    let columns =
        [Text("Entrant"), Text("Against"), Figure("Win rate"), Figure("Interval"), Figure("By rating"), Text("")];
    table(&columns, &rows, color)
}

/// What ratings hide, and what the seats are worth.
pub(crate) fn beyond(summary: &Summary) -> String {
    let Some(told) = summary.tournament() else { return String::new() };
    let mut lines = Vec::new();
    let zero = told.anchor.as_ref().map_or("the mean of the field".to_string(), Clone::clone);
    lines.push(format!("Rating 0 is {zero}; 200 points more mean about 76 % of the points."));
    if let Some(first) = &told.first_seat {
        lines.push(format!("The first seat is worth {} rating points ({}).", whole(first.value), span(first)));
    }
    let circles = &told.circles;
    lines.push(format!(
        "Circles among separable pairs: {} in {} threes; chance alone would give {:.1}.",
        count(circles.seen),
        count(circles.threes),
        circles.by_chance
    ));
    for worst in told.residuals.iter().filter(|worst| worst.p_adjusted < ODD).take(RESIDUALS) {
        lines.push(format!(
            "{} does better against {} than ratings say: {} ({}), expected {}.",
            worst.a,
            worst.b,
            percent(worst.seen.value),
            ends(&worst.seen),
            percent(worst.expected)
        ));
    }
    lines.join("\n")
}
