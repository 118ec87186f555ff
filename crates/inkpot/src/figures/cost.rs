//! Strength against cost, from a stored study.

use inkpot_figures::{Cost, CostMark, Strength, Words};
use inkpot_stats::Interval;

use super::{Gallery, estimate};
use crate::show::costs::{duration, frame_us};
use crate::show::entrants::ranked;

/// Win rates against the time of a decision: of the entrants of a field, of the first one over the points of a sweep.
pub(super) fn cost(gallery: &Gallery) -> Cost {
    let sweep = gallery.summary.sweep().is_some();
    let marks = if sweep { points(gallery) } else { entrants(gallery) };
    let whose = if sweep {
        format!("of {} over {}", gallery.summary.entrants[0].name, gallery.plan.vary_name(&gallery.plan.vary()[0]))
    } else {
        "of each entrant".to_string()
    };
    let rated = !gallery.summary.ratings().is_empty();
    let strength = if rated { Strength::Rating } else { Strength::WinRate };
    let each = gallery.each();
    let a = if sweep { "point" } else { "pairing" };
    Cost {
        words: Words {
            title: title(&marks, strength),
            subtitle: format!(
                "{} {whose} against the time it takes to decide; {each} a {a}",
                if strength == Strength::Rating { "Rating" } else { "Win rate" }
            ),
            caption: gallery.caption(&format!("Times of one machine, good to 9 %.{}", untimed(gallery, &marks))),
        },
        strength,
        marks,
        joined: sweep,
        frame_us: frame_us(&gallery.plan),
    }
}

/// What the strongest one costs, against the cheapest.
fn title(marks: &[CostMark], strength: Strength) -> String {
    let by_rate = |a: &&CostMark, b: &&CostMark| a.rate.value.total_cmp(&b.rate.value);
    let by_time = |a: &&CostMark, b: &&CostMark| a.mean_us.total_cmp(&b.mean_us);
    let (Some(best), Some(cheapest)) = (marks.iter().max_by(by_rate), marks.iter().min_by(by_time)) else {
        return "No decision was timed".into();
    };
    let rate = |mark: &CostMark| match strength {
        Strength::WinRate => format!("wins {:.0} %", mark.rate.value * 100.0),
        Strength::Rating => format!("is rated {:.0}", mark.rate.value),
    };
    if best.name == cheapest.name {
        return format!(
            "{} is both the strongest and the quickest: it {} at {} a decision",
            best.name,
            rate(best),
            duration(best.mean_us)
        );
    }
    format!(
        "{} {} at {} a decision; {} {} at {}",
        best.name,
        rate(best),
        duration(best.mean_us),
        cheapest.name,
        rate(cheapest),
        duration(cheapest.mean_us)
    )
}

/// Which entrants were so quick that none of their decisions was timed.
fn untimed(gallery: &Gallery, marks: &[CostMark]) -> String {
    if gallery.summary.sweep().is_some() {
        return String::new();
    }
    let drawn = |name: &String| marks.iter().any(|mark| mark.name == *name);
    let names: Vec<&str> =
        gallery.summary.entrants.iter().map(|e| &e.name).filter(|name| !drawn(name)).map(String::as_str).collect();
    if names.is_empty() { String::new() } else { format!(" Too quick to be timed: {}.", names.join(", ")) }
}

fn entrants(gallery: &Gallery) -> Vec<CostMark> {
    let mark = |(name, rate): (&String, Option<Interval>)| {
        let times = gallery.manifest.decision_times.iter();
        let time = times.clone().find(|time| time.point.is_none() && time.entrant == *name)?;
        Some(CostMark { name: name.clone(), rate: estimate(&rate?), mean_us: time.mean_us, p99_us: time.p99_us })
    };
    if gallery.summary.ratings().is_empty() {
        return ranked(gallery.summary)
            .into_iter()
            .filter_map(|entrant| mark((&entrant.name, entrant.win_rate)))
            .collect();
    }
    gallery.summary.ratings().iter().filter_map(|own| mark((&own.name, own.rating))).collect()
}

fn points(gallery: &Gallery) -> Vec<CostMark> {
    let first = &gallery.summary.entrants[0].name;
    let points = gallery.plan.cells.iter().zip(gallery.summary.points());
    let mark = |(cell, point): (&inkpot_lab::Cell, &inkpot_lab::PointSummary)| {
        let name = gallery.plan.cell_name(cell);
        let mut times = gallery.manifest.decision_times.iter();
        let time = times.find(|time| time.entrant == *first && time.point.as_ref() == Some(&name))?;
        Some(CostMark { name, rate: estimate(&point.win_rate?), mean_us: time.mean_us, p99_us: time.p99_us })
    };
    points.filter_map(mark).collect()
}
