//! The words of a tournament: the field by rating, and the facts that ratings hide.

use inkpot_lab::{Format, RatingSummary, StudySummary, TournamentFinding, TournamentSummary};
use inkpot_stats::Interval;

use crate::show::format::{count, ends, percent, whole};

/// Residuals in the output.
const RESIDUALS: usize = 3;

/// Names the leader, with its probability.
pub(super) fn sentence(found: &TournamentFinding, summary: &StudySummary) -> String {
    let (tournament, [first, rest @ ..]) = (&found.tournament, found.ratings.as_slice()) else {
        return "Nothing was played.".into();
    };
    let Some(second) = rest.first() else { return format!("{} stands alone.", first.name) };
    if tournament.format == Format::Knockout {
        return format!("{}{}.", won(tournament, &first.name), by_rating(&found.ratings));
    }
    if first.rating.is_none() {
        return "No entrant can be rated yet: fewer than two blocks count.".into();
    }
    let probability = first.stronger_than_next.unwrap_or(0.5);
    let ahead = first
        .above_next
        .map(|gap| format!("{} rating points ({}) above {}", whole(gap.value), span(&gap), second.name));
    let ahead = ahead.unwrap_or_else(|| format!("ahead of {}", second.name));
    let sure = chance(probability);
    if probability >= summary.sure() {
        format!("{} leads the field: {ahead}, stronger with probability {sure}.", first.name)
    } else {
        format!("{} is first, {ahead}: not separable yet, stronger with probability {sure}.", first.name)
    }
}

/// Names the leader in a few words.
pub(super) fn headline(found: &TournamentFinding, summary: &StudySummary) -> String {
    match found.ratings.as_slice() {
        [first, ..] if found.tournament.format == Format::Knockout => format!("{} wins the knockout", first.name),
        [first, second, ..] if first.stronger_than_next.unwrap_or(0.5) >= summary.sure() => {
            first.above_next.map_or(sentence(found, summary), |gap| {
                format!("{} leads by {} rating points ({})", first.name, whole(gap.value), span(&gap))
            })
        }
        [first, second, ..] if first.rating.is_some() => {
            format!("{} is first, not separable from {} yet", first.name, second.name)
        }
        _ => sentence(found, summary),
    }
}

/// The last table of a knockout.
fn won(tournament: &TournamentSummary, winner: &str) -> String {
    let last = tournament.rounds.last().and_then(|round| round.tables.first());
    let beaten = last.map(|table| {
        let others = table.entrants.iter().zip(&table.points).filter(|(name, _)| *name != winner);
        let points =
            table.entrants.iter().zip(&table.points).find(|(name, _)| *name == winner).map_or(0.0, |(_, p)| *p);
        let names: Vec<&str> = others.map(|(name, _)| name.as_str()).collect();
        format!(" against {} with {} of the points", names.join(", "), percent(points))
    });
    format!("{winner} wins the knockout, the last round{}", beaten.unwrap_or_default())
}

/// Whether the winner of a knockout is the highest rated too.
fn by_rating(ratings: &[RatingSummary]) -> String {
    let value = |rating: &&RatingSummary| rating.rating.map_or(f64::NEG_INFINITY, |interval| interval.value);
    let best = ratings.iter().max_by(|a, b| value(a).total_cmp(&value(b)));
    match best {
        Some(best) if best.name != ratings[0].name => format!("; by rating {} is the highest", best.name),
        _ => String::new(),
    }
}

/// A probability without false certainty.
pub(super) fn chance(p: f64) -> String {
    match p {
        p if p > 0.999 => "over 99.9 %".into(),
        p if p < 0.001 => "under 0.1 %".into(),
        p => percent(p),
    }
}

/// The ends of an interval of rating points.
pub(super) fn span(interval: &Interval) -> String {
    format!("{} to {}", whole(interval.low), whole(interval.high))
}

/// Describes the facts that ratings hide, and the value of the seats.
pub(super) fn beyond(found: &TournamentFinding, summary: &StudySummary) -> String {
    let tournament = &found.tournament;
    let mut lines = Vec::new();
    let zero = tournament.anchor.as_ref().map_or("the mean of the field".to_string(), Clone::clone);
    lines.push(format!("Rating 0 is {zero}; 200 points more mean about 76 % of the points."));
    if let Some(first) = &tournament.first_seat {
        lines.push(format!("The first seat adds {} rating points ({}).", whole(first.value), span(first)));
    }
    let circles = &tournament.circles;
    lines.push(format!(
        "Circles among separable pairs: {} in {} threes; chance alone would give {:.1}.",
        count(circles.count),
        count(circles.threes),
        circles.by_chance
    ));
    for worst in tournament.residuals.iter().filter(|worst| worst.p_adjusted < summary.unlikely()).take(RESIDUALS) {
        lines.push(format!(
            "{} does better against {} than ratings predict: {} ({}), expected {}.",
            worst.a,
            worst.b,
            percent(worst.share.value),
            ends(&worst.share),
            percent(worst.expected)
        ));
    }
    lines.join("\n")
}
