//! `ledger show`: a study's finding, or its most extreme matches.

use inkpot_core::{Measure, MeasureOf};
use inkpot_lab::StudyPlan;
use inkpot_ledger::{Phase, State, Study};
use serde_json::json;

use crate::args::ShowArgs;
use crate::by_measure::{Found, by_measure};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::{capital, count, plain};
use crate::show::study_view::StudyView;
use crate::show::table::{Column, table};
use crate::{hint, stored, study, telling};

pub(super) fn run(args: &ShowArgs, desk: &Desk) -> Result<(), Failure> {
    let stored = desk.ledger.open(&args.study)?;
    match &args.by {
        None => whole_or_part(&stored, desk),
        Some(measure) => extremes(&stored, measure, args.most, desk),
    }
}

/// Prints the finding of a study, or the part known so far.
fn whole_or_part(stored: &Study, desk: &Desk) -> Result<(), Failure> {
    let manifest = stored.manifest()?;
    let whole = manifest.phase == Phase::Search || manifest.state == State::Complete;
    let part = if whole { None } else { stored::partial_summary(stored, desk)? };
    let Some((mut summary, blocks)) = part else {
        return study::print(stored, &stored::stored_summary(stored, desk)?, desk);
    };
    let part = format!("partial results: {} of {} blocks have been played", count(blocks), count(manifest.blocks));
    summary.notes.insert(0, part.clone());
    if desk.json {
        return study::print(stored, &summary, desk);
    }
    // What its sentence says is said of the whole.
    let resume = hint::on_ledger(["resume", stored.name()]);
    let view = StudyView { summary: &summary, game: desk.game(&summary.game)?, times: &[] };
    desk.print(format!("{}; {resume} continues the study.\n\n{}", capital(&part), telling::tables(&view, desk.color)));
    Ok(())
}

fn extremes(stored: &Study, name: &str, most: usize, desk: &Desk) -> Result<(), Failure> {
    let (mut low, mut high): (Vec<Found>, Vec<Found>) = (Vec::new(), Vec::new());
    let mut take = |found: Found| {
        keep(&mut low, found.clone(), most, |a, b| a.value.total_cmp(&b.value));
        keep(&mut high, found, most, |a, b| b.value.total_cmp(&a.value));
    };
    let (plan, measure) = by_measure(stored, name, desk, &mut take)?;
    print(stored, &plan, &measure, &high, &low, desk);
    Ok(())
}

/// Keeps the first `most` in this order; among equals those that came first.
fn keep(list: &mut Vec<Found>, found: Found, most: usize, order: impl Fn(&Found, &Found) -> std::cmp::Ordering) {
    let place = list.partition_point(|other| order(other, &found).is_le());
    if place < most {
        list.insert(place, found);
        list.truncate(most);
    }
}

fn print(stored: &Study, plan: &StudyPlan, measure: &Measure, high: &[Found], low: &[Found], desk: &Desk) {
    let of_match = measure.of == MeasureOf::Match;
    let again =
        |found: &Found| hint::bare_on_ledger(["match", "--again", &format!("{}/{}", stored.name(), found.match_index)]);
    if desk.json {
        let list = |found: &[Found]| -> Vec<serde_json::Value> {
            found
                .iter()
                .map(|found| {
                    let mut listed = json!({
                        "value": found.value, "match": found.match_index,
                        "cell": plan.cell_name(&plan.cells[found.cell]), "again": again(found),
                    });
                    if let Some((entrant, outcome)) = &found.whose {
                        listed["entrant"] = json!(plan.entrants[*entrant].name);
                        listed["outcome"] = json!(outcome);
                    }
                    listed
                })
                .collect()
        };
        desk.print_json(
            &json!({ "study": stored.name(), "measure": measure.name, "highest": list(high), "lowest": list(low) }),
        );
        return;
    }
    let listed = |(what, found): (&str, &[Found])| {
        let names =
            if of_match { &["In", "Play it again"][..] } else { &["Entrant", "In", "Outcome", "Play it again"] };
        let columns = std::iter::once(Column::figure("Value")).chain(names.iter().map(|&name| Column::text(name)));
        let row = |found: &Found| {
            let (value, cell) = (plain(found.value), plan.cell_name(&plan.cells[found.cell]));
            match &found.whose {
                None => vec![value, cell, again(found)],
                Some((entrant, outcome)) => {
                    vec![value, plan.entrants[*entrant].name.clone(), cell, outcome.clone(), again(found)]
                }
            }
        };
        let (columns, rows) = (columns.collect(), found.iter().map(row).collect());
        format!("{what} {}\n{}\n", measure.titled(), table(columns, rows, desk.color))
    };
    desk.print([("Highest", high), ("Lowest", low)].map(listed).join("\n"));
}
