//! Strength against decision costs, from a stored study.

use inkpot_figures::{Cost, CostMark, CostOf, Strength, Words};
use inkpot_ledger::DecisionTime;
use inkpot_stats::Interval;

use super::gallery::{Gallery, estimate};
use crate::show::costs::{duration, frame_us};
use crate::show::entrants::ranked;
use crate::show::format::count;

/// Strength against the states that a decision advances, or the time it takes: of the entrants of a field, of the first
/// one over the points of a sweep.
pub(super) fn cost(gallery: &Gallery, of: CostOf) -> Cost {
    let sweep = gallery.summary.sweep().is_some();
    let marks = if sweep { points(gallery, of) } else { entrants(gallery, of) };
    let whose = if sweep {
        format!("of {} over {}", gallery.summary.entrants[0].name, gallery.plan.vary()[0].name(&gallery.plan))
    } else {
        "of each entrant".to_string()
    };
    let rated = !gallery.summary.ratings().is_empty();
    let (strength, said) = if rated { (Strength::Rating, "Rating") } else { (Strength::WinRate, "Win rate") };
    let (against, method) = match of {
        CostOf::States => ("the states that a decision advances", "States are means over all decisions.".into()),
        CostOf::Time => {
            let quick = if marks.iter().any(|mark| mark.most.is_none()) {
                " Of quick agents, which are timed by sample, the mean."
            } else {
                ""
            };
            let untimed = untimed(gallery, &marks);
            ("the time it takes to decide", format!("Times of one machine, good to 9 %.{quick}{untimed}"))
        }
    };
    let a = if sweep { "point" } else { "pairing" };
    Cost {
        words: Words {
            title: title(&marks, strength, of),
            subtitle: format!("{said} {whose} against {against}; {} a {a}", gallery.each()),
            caption: gallery.caption(&method),
        },
        strength,
        of,
        marks,
        joined: sweep,
        frame_us: frame_us(&gallery.plan).filter(|_| of == CostOf::Time),
    }
}

/// Names the cost of the strongest, relative to the cheapest.
fn title(marks: &[CostMark], strength: Strength, of: CostOf) -> String {
    let cost = |mark: &CostMark| mark.cost.unwrap_or(0.0);
    let by_rate = |a: &&CostMark, b: &&CostMark| a.rate.value.total_cmp(&b.rate.value);
    let by_cost = |a: &&CostMark, b: &&CostMark| cost(a).total_cmp(&cost(b));
    let (Some(best), Some(cheapest)) = (marks.iter().max_by(by_rate), marks.iter().min_by(by_cost)) else {
        return "What decisions cost is not known yet".into();
    };
    let rate = |mark: &CostMark| match strength {
        Strength::WinRate => format!("wins {:.0} %", mark.rate.value * 100.0),
        Strength::Rating => format!("is rated {:.0}", mark.rate.value),
    };
    let price = |mark: &CostMark| match (mark.cost, of) {
        (None, _) => "without a search".to_string(),
        (Some(states), CostOf::States) => format!("at {} states a decision", count(states.round() as u64)),
        (Some(us), CostOf::Time) => format!("at {} a decision", duration(us)),
    };
    if best.name == cheapest.name {
        let near = marks.iter().filter(|mark| mark.name != best.name && mark.rate.high >= best.rate.low).count();
        return match near {
            0 => format!("{} is the strongest at the least cost: it {} {}", best.name, rate(best), price(best)),
            1 => format!(
                "{} {} {}, the least cost; one other is not separable from it",
                best.name,
                rate(best),
                price(best)
            ),
            near => {
                format!(
                    "{} {} {}, the least cost; {near} others are not separable from it",
                    best.name,
                    rate(best),
                    price(best)
                )
            }
        };
    }
    format!("{} {} {}; {} {} {}", best.name, rate(best), price(best), cheapest.name, rate(cheapest), price(cheapest))
}

/// Names the entrants without a timed decision.
fn untimed(gallery: &Gallery, marks: &[CostMark]) -> String {
    if gallery.summary.sweep().is_some() {
        return String::new();
    }
    let drawn = |name: &String| marks.iter().any(|mark| mark.name == *name);
    let names: Vec<&str> =
        gallery.summary.entrants.iter().map(|e| &e.name).filter(|name| !drawn(name)).map(String::as_str).collect();
    if names.is_empty() { String::new() } else { format!(" Too quick to be timed: {}.", names.join(", ")) }
}

/// A mark, where strength and cost are known; `states` are those of a mean decision, if it searches.
fn mark(
    name: &str,
    rate: Option<Interval>,
    of: CostOf,
    states: Option<f64>,
    time: Option<&DecisionTime>,
) -> Option<CostMark> {
    let (cost, most) = match of {
        CostOf::States => (states, None),
        CostOf::Time => time.map(|time| (Some(time.p50_us.unwrap_or(time.mean_us)), time.p99_us))?,
    };
    Some(CostMark { name: name.into(), rate: estimate(&rate?), cost, most })
}

fn entrants(gallery: &Gallery, of: CostOf) -> Vec<CostMark> {
    let point = |(name, rate): (&String, Option<Interval>)| {
        let time = gallery.manifest.decision_times.iter().find(|time| time.point.is_none() && time.entrant == *name);
        let entrant = gallery.summary.entrants.iter().find(|entrant| entrant.name == *name)?;
        mark(name, rate, of, entrant.nodes.map(|nodes| nodes.value), time)
    };
    let ratings = gallery.summary.ratings();
    if ratings.is_empty() {
        return ranked(gallery.summary)
            .into_iter()
            .filter_map(|entrant| point((&entrant.name, entrant.win_rate)))
            .collect();
    }
    ratings.iter().filter_map(|rated| point((&rated.name, rated.rating))).collect()
}

fn points(gallery: &Gallery, of: CostOf) -> Vec<CostMark> {
    let first = &gallery.summary.entrants[0].name;
    let points = gallery.plan.cells.iter().zip(gallery.summary.points());
    let point = |(cell, point): (&inkpot_lab::Cell, &inkpot_lab::PointSummary)| {
        let name = gallery.plan.cell_name(cell);
        let mut times = gallery.manifest.decision_times.iter();
        let time = times.find(|time| time.entrant == *first && time.point.as_ref() == Some(&name));
        mark(&name, point.win_rate, of, point.nodes.map(|nodes| nodes.value), time)
    };
    points.filter_map(point).collect()
}
