//! The matches of a study by a measure.

use inkpot_core::{Measure, MeasureOf, nearest};
use inkpot_lab::{StudyPlan, suspense_of_matches, told_measures};
use inkpot_ledger::Study;

use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::count;
use crate::stored;

/// A match, or a seat's side of it.
#[derive(Clone)]
pub(crate) struct Found {
    pub(crate) value: f64,
    pub(crate) match_index: u64,
    pub(crate) cell: usize,
    /// Entrant and outcome, where the measure is a seat's.
    pub(crate) whose: Option<(usize, String)>,
}

/// Shows `take` every match of a study, or each seat's side of it, that has a value of a measure. Errs where the game
/// has no such measure.
pub(crate) fn by_measure(
    study: &Study,
    name: &str,
    desk: &Desk,
    take: &mut dyn FnMut(Found),
) -> Result<(StudyPlan, Measure), Failure> {
    let (manifest, plan) = stored::open(study, desk)?;
    let game = desk.game(&plan.ground.game)?;
    let mut measures = told_measures(game);
    let Some(index) = measures.iter().position(|measure| measure.name == name) else {
        let names: Vec<&str> = measures.iter().map(|measure| measure.name.as_str()).collect();
        let near =
            nearest(name, names.iter().copied()).map(|near| format!("did you mean `{near}`? ")).unwrap_or_default();
        return Err(Failure::wrong(
            format!("`{}` has no measure `{name}`", plan.ground.game),
            format!("{near}Available: {}", names.join(", ")),
        ));
    };
    let measure = measures.swap_remove(index);
    let columns = game.measure_names();
    if index >= columns.len() {
        // What is read off a study is of the matches whose leads are kept.
        let all = suspense_of_matches(study, &manifest, &plan, game)?;
        let (matches, of) = (count(all.len() as u64), count(manifest.matches_done));
        desk.say(format!("note: suspense is known for {matches} of {of} matches: those of the first blocks"));
        for (cell, match_index, value) in all {
            take(Found { value, match_index, cell, whose: None });
        }
        return Ok((plan, measure));
    }
    let of_match = measure.of == MeasureOf::Match;
    study.visit(&manifest, &columns, |rows| {
        for (at, row) in rows.rows.iter().enumerate() {
            let value = rows.measures_of(at)[index];
            if value.is_finite() && (!of_match || row.seat == 0) {
                take(Found {
                    value,
                    match_index: row.match_index,
                    cell: row.cell as usize,
                    whose: (!of_match).then(|| (usize::from(row.entrant), row.outcome.to_string())),
                });
            }
        }
        Ok(())
    })?;
    Ok((plan, measure))
}
