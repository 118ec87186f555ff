//! `ledger verify`: checks the files of a study and plays a sample of its matches again.

use inkpot_core::{GameEntry, MatchRows, Record, Row, Rows};
use inkpot_lab::StudyPlan;
use inkpot_ledger::{LedgerError, Manifest, Study};
use serde_json::json;

use crate::args::VerifyArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::counted;
use crate::{hint, stored};

pub(super) fn run(args: &VerifyArgs, desk: &Desk) -> Result<(), Failure> {
    let stored = desk.ledger.open(&args.study)?;
    let (manifest, plan) = stored::open_as_far(&stored, desk)?;
    let changed = stored.changed_files(&manifest);
    let strays = stored.strays(&manifest)?;
    let game = desk.game(&plan.ground.game)?;
    let measures = game.measure_names();
    let replayed = replay(&stored, &manifest, (&plan, game), &measures, args.sample)?;
    let fine = changed.is_empty() && strays.is_empty() && replayed.differ.is_empty() && replayed.damaged.is_empty();
    if desk.json {
        let changed: Vec<_> = changed.iter().map(|(file, why)| json!({ "file": file, "why": why })).collect();
        desk.print_json(&json!({
            "study": stored.name(), "fine": fine, "files": manifest.file_count(), "changed": changed, "strays": strays,
            "damaged": replayed.damaged, "replayed": replayed.count, "differ": replayed.differ,
            "of_record": replayed.of_record, "by_the_clock": replayed.by_the_clock,
        }));
    } else {
        for (file, why) in &changed {
            desk.print(format!("{file}: {why}"));
        }
        for file in &strays {
            desk.print(format!("{file}: the manifest does not list it; its blocks will be played again"));
        }
        for why in &replayed.damaged {
            desk.print(why);
        }
        for index in &replayed.differ {
            desk.print(format!("match {index} comes out differently when it is played again"));
        }
        if replayed.by_the_clock > 0 {
            desk.print(format!(
                "{} of the sample cannot be played again: their agents think by the clock; with `--record` a study keeps \
                 what they chose",
                counted(replayed.by_the_clock, "match", "matches")
            ));
        }
    }
    if fine {
        if !desk.json {
            let anew = replayed.count - replayed.of_record;
            let of_record = match (replayed.of_record, anew) {
                (0, _) => String::new(),
                (recorded, 0) => format!(" ({recorded} by recorded choices)"),
                (recorded, anew) => format!(" ({anew} by their agents, {recorded} by recorded choices)"),
            };
            desk.print(format!(
                "{} is sound: {} as written, {} played again with the same rows{of_record}.",
                stored.name(),
                counted(manifest.file_count() as u64, "file", "files"),
                counted(replayed.count, "match", "matches"),
            ));
        }
        return Ok(());
    }
    let again = if replayed.differ.is_empty() {
        ""
    } else {
        "; matches that differ mean another version of the game or its agents"
    };
    let resume = hint::on_ledger(["resume", stored.name()]);
    Err(Failure::Failed(format!("{} is not sound\n  help: {resume} plays damaged parts again{again}", stored.name())))
}

#[derive(Default)]
struct Replayed {
    count: u64,
    differ: Vec<u64>,
    /// Those among them in which a seat was played by its record.
    of_record: u64,
    /// Matches of the sample that no two runs play alike.
    by_the_clock: u64,
    damaged: Vec<String>,
}

/// Plays matches evenly spread over the stored ones again.
fn replay(
    stored: &Study,
    manifest: &Manifest,
    (plan, game): (&StudyPlan, &dyn GameEntry),
    measures: &[String],
    sample: u64,
) -> Result<Replayed, Failure> {
    let stride = (manifest.matches_done / sample.max(1)).max(1);
    let mut replayed = Replayed::default();
    let mut seen = 0;
    // Of a round that could not be drawn, nothing is known to compare with.
    let drawn = plan.cells.len() as u64 * plan.blocks * plan.matches_a_block();
    for part in stored.parts(manifest) {
        let rows = match stored.read_part(&part, manifest, measures) {
            Ok(rows) => rows,
            Err(error @ LedgerError::DamagedPart { .. }) => {
                replayed.damaged.push(error.to_string());
                continue;
            }
            Err(other) => return Err(other.into()),
        };
        for stored in rows.matches() {
            let index = stored.seats()[0].match_index;
            if index >= drawn {
                break;
            }
            let spot = plan.spot(index);
            let wanted = seen % stride == 0 && replayed.count + replayed.by_the_clock < sample;
            let (cell, record) = (&plan.cells[spot.cell as usize], Record::of(stored.seats()));
            if wanted && !plan.repeats(cell) && !record.is_any() {
                replayed.by_the_clock += 1;
            } else if wanted {
                let stage = game.stage(&plan.setting(cell));
                let mut stage = stage.map_err(|error| Failure::Failed(error.to_string()))?;
                let mut again = Rows::new(measures.len());
                if record.is_any() {
                    let mut held = stage.open_recorded(spot, &record);
                    while held.turn() {}
                    held.close(&mut again);
                    replayed.of_record += 1;
                } else {
                    stage.play(spot, &mut again);
                }
                replayed.count += 1;
                if !alike(stored, &again) {
                    replayed.differ.push(index);
                }
            }
            seen += 1;
        }
    }
    Ok(replayed)
}

/// Whether rows agree in all but their times; NaN equals NaN.
fn alike(stored: MatchRows, again: &Rows) -> bool {
    let bits = |values: &[f64]| values.iter().map(|x| x.to_bits()).collect::<Vec<_>>();
    let untimed = |row: &Row| {
        let row = Row { decision_us: 0.0, decision_times: None, ..row.clone() };
        // What a record plays thinks of nothing, and is never late.
        if row.choices.is_some() { Row { faults: row.faults - row.late, late: 0, nodes: 0.0, ..row } } else { row }
    };
    let seats = stored.seats().iter().zip(&again.rows).enumerate();
    stored.seats().len() == again.rows.len()
        && seats.into_iter().all(|(seat, (kept, row))| {
            // A study of the first releases kept no leads.
            let row = Row { leads: row.leads.clone().filter(|_| kept.leads.is_some()), ..row.clone() };
            let (scored, same) = (row.score.to_bits(), kept.score.to_bits());
            let (row, kept) = (Row { score: 0.0, ..row }, Row { score: 0.0, ..kept.clone() });
            scored == same
                && untimed(&row) == untimed(&kept)
                && bits(again.measures_of(seat)) == bits(stored.measures(seat))
        })
}
