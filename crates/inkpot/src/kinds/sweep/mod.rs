//! Sweeps: the effect of a knob.

mod brief;
mod figures;
mod words;

use inkpot_core::GameEntry;
use inkpot_core::KnobValue;
use inkpot_lab::{PointDifference, PointSummary, StudyPlan, StudySummary, SweepFinding};

pub(super) use self::brief::{KEYS, read};
use crate::failure::Failure;
use crate::figure_name::Name;
use crate::figures::{Fitting, Gallery};
use crate::kinds::kind::{Part, Tells};
use crate::show::asked::entrants;
use crate::show::costs;
use crate::show::format::percent;
use crate::show::study_view::StudyView;
use crate::show::table::{Cell, Column, On, Table, counts};

impl Tells for SweepFinding {
    fn question(&self, who: &str, plan: &StudyPlan) -> String {
        let varied: Vec<String> = plan.vary().iter().map(|vary| vary.name(plan)).collect();
        format!("What {} does: {who}", varied.join(" and "))
    }

    fn sentence(&self, summary: &StudySummary) -> String {
        words::sentence(self, summary)
    }

    fn parts(&self, view: &StudyView) -> Vec<Part> {
        vec![Part::Table(points(self, view.summary)), Part::Table(costs::table(view)), Part::Lines(words::curve(self))]
    }

    fn asked(&self, plan: &StudyPlan, game: &dyn GameEntry) -> Vec<(String, String)> {
        let target = plan.target().map(|target| ("Target".to_string(), percent(target)));
        let mut targets: Vec<_> = target.into_iter().collect();
        for vary in plan.vary() {
            let values: Vec<String> = vary.values.iter().map(KnobValue::to_string).collect();
            let text = match values.as_slice() {
                [first, .., last] if values.len() > 6 => format!("{first} to {last}, {} values", values.len()),
                _ => values.join(", "),
            };
            targets.push((vary.name(plan), text));
        }
        targets.extend(entrants(plan, game));
        targets
    }

    fn method(&self) -> Option<String> {
        Some(
            "Curve: parabolas in the logit through neighbouring points, blended; its band by Student's t over blocks."
                .into(),
        )
    }

    fn has_entrants(&self) -> bool {
        false
    }

    fn figures<'g>(&'g self, gallery: &'g Gallery) -> Result<Vec<Fitting<'g>>, Failure> {
        if gallery.plan.vary().len() > 1 {
            return Ok(vec![Fitting::new(Name::Surface, || Ok(gallery.surface().draw()))]);
        }
        let mut fitting = vec![Fitting::new(Name::Response, || Ok(gallery.response().draw()))];
        fitting.extend(gallery.common());
        Ok(fitting)
    }
}

fn points(found: &SweepFinding, summary: &StudySummary) -> Table {
    let knobs = knobs(&found.points);
    let mut columns: Vec<Column> = knobs.iter().map(|knob| Column::figure(*knob)).collect();
    columns.extend([Column::figure("Win rate"), Column::figure("Interval"), Column::text("").only(On::Terminal)]);
    columns.extend(["Won", "Drawn", "Lost"].map(|heading| Column::figure(heading).only(On::Page)));
    columns.push(Column::text("Change from the point before").optional());
    let row = |(index, point): (usize, &PointSummary)| {
        let mut cells: Vec<Cell> = knobs.iter().map(|knob| Cell::of(point.knobs.get(*knob), Cell::knob)).collect();
        cells.extend([
            Cell::of(point.win_rate, |rate| Cell::Share(rate.value)),
            Cell::of(point.win_rate, Cell::Ends),
            Cell::Bar(point.win_rate.map_or(0.0, |rate| rate.value)),
        ]);
        cells.extend(counts(point.wins, point.draws, point.losses));
        let before = index.checked_sub(1).and_then(|before| found.differences.get(before));
        cells.push(Cell::of(before, |step| Cell::Text(change(step, summary))));
        (point.knobs.values().map(KnobValue::to_string).collect::<Vec<_>>().join(", "), cells)
    };
    Table::new("Points; changes are paired by block", columns)
        .at_most(usize::MAX)
        .with(found.points.iter().enumerate().map(row))
}

/// The knobs that are varied; the one that changes from row to row stands last.
fn knobs(points: &[PointSummary]) -> Vec<&str> {
    let mut knobs: Vec<&str> = points.iter().take(1).flat_map(|point| point.knobs.keys().map(String::as_str)).collect();
    if let [first, second, ..] = points {
        knobs.sort_by_key(|knob| first.knobs.get(*knob) != second.knobs.get(*knob));
    }
    knobs
}

fn change(step: &PointDifference, summary: &StudySummary) -> String {
    let d = step.difference.difference;
    let clear = if step.p_adjusted < summary.unlikely() { "" } else { "  not separable yet" };
    format!("{:+.1}  {:+.1} to {:+.1}{clear}", d.value * 100.0, d.low * 100.0, d.high * 100.0)
}
