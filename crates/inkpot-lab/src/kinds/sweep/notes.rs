//! What should be known before a sweep is believed.

use inkpot_core::{GameEntry, Knob};
use inkpot_stats::Model;

use super::{Subject, Sweep, SweepFinding};
use crate::Plan;
use crate::notes::{UNSEEN, percent};

/// What should be known of a sweep.
pub(super) fn notes(sweep: &Sweep, found: &SweepFinding) -> Vec<String> {
    let mut notes = Vec::new();
    let Some(curve) = &found.curve else {
        if sweep.vary.len() == 1 && sweep.target.is_some() {
            notes.push("no curve: it needs a numeric knob, at least four points and five blocks".into());
        }
        if sweep.vary.len() == 2 && sweep.target.is_some() {
            notes.push(
                "a surface has no single value that gives the target: see the points whose interval holds it".into(),
            );
        }
        return notes;
    };
    if curve.fit.effect_p > UNSEEN {
        notes.push(format!(
            "no effect of `{}` on the win rate is seen (p = {:.2}): the points differ no more than chance makes them",
            curve.knob, curve.fit.effect_p
        ));
    }
    if curve.model == Model::Isotonic {
        notes.push(format!(
            "a logistic curve does not describe the points ({}); straight lines after isotonic regression stand in its place",
            if curve.fit.misfit_p < 0.001 { "p < 0.001".into() } else { format!("p = {:.3}", curve.fit.misfit_p) }
        ));
    }
    if let Some(solved) = found.solved.as_ref().filter(|solved| solved.value.is_none()) {
        let rates: Vec<f64> = curve.band.iter().map(|at| at[1]).collect();
        let low = rates.iter().copied().fold(f64::INFINITY, f64::min);
        let high = rates.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        notes.push(format!(
            "no value of `{}` measured gives {}: the curve runs from {} to {}",
            solved.knob,
            percent(solved.target),
            percent(low),
            percent(high)
        ));
    }
    notes
}

/// Says which knobs a varied master does not move because they are set themselves: a setting that silently does less
/// than it seems.
pub(super) fn unmoved(sweep: &Sweep, plan: &Plan, game: &dyn GameEntry) -> Vec<String> {
    let mut notes = Vec::new();
    for vary in &sweep.vary {
        let Subject::Entrant(place) = vary.subject else { continue };
        let entrant = &plan.entrants[place];
        let sheet = game.agent(&entrant.kind);
        let follows =
            |knob: &&Knob| knob.master() == Some(vary.knob.as_str()) && entrant.given.get(&knob.name).is_some();
        let held: Vec<&str> =
            sheet.into_iter().flat_map(|sheet| &sheet.knobs).filter(follows).map(|knob| knob.name.as_str()).collect();
        if !held.is_empty() {
            notes.push(format!(
                "`{}` does not move {} of `{}`: set by {}",
                vary.knob,
                held.join(", "),
                entrant.name,
                if entrant.agent == entrant.kind { "hand" } else { "its preset or by hand" }
            ));
        }
    }
    notes
}
