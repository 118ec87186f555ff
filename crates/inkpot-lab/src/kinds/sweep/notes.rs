//! Notes on sweeps.

use inkpot_core::{GameEntry, Knob};

use super::asked::{Subject, Sweep};
use super::finding::SweepFinding;
use crate::Plan;
use crate::note::Note;

/// Returns the notes on a sweep.
pub(super) fn notes(sweep: &Sweep, found: &SweepFinding, plan: &Plan, unlikely: f64) -> Vec<String> {
    let mut notes = Vec::new();
    let Some(curve) = &found.curve else {
        if sweep.vary.len() == 1 && sweep.target.is_some() {
            notes.push(Note::NoCurve.says("a curve needs a numeric knob, at least four points and five blocks"));
        }
        if sweep.vary.len() == 2 && sweep.target.is_some() {
            notes
                .push(Note::NoCurve.says(
                    "two knobs have no single value for the target; look for the points whose interval holds it",
                ));
        }
        return notes;
    };
    if let (Some([low, high]), Some(vary)) = (found.solved.as_ref().and_then(|solved| solved.gap), sweep.vary.first()) {
        notes.push(Note::Gap.says(format!(
            "the curve bends between {low} and {high}, where nothing was played, and that makes the interval wide. Vary `{}` from \
             {low} to {high} to narrow it; more matches at the same points will not",
            vary.name(plan)
        )));
    }
    if curve.fit.effect_p > unlikely {
        notes.push(Note::NoEffect.says(format!(
            "no effect of `{}` on the win rate is seen (p = {:.2}); more matches might show one",
            curve.knob, curve.fit.effect_p
        )));
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
            notes.push(Note::Unmoved.says(format!(
                "`{}` does not move {} of `{}`, which {} sets",
                vary.knob,
                held.join(", "),
                entrant.name,
                if entrant.agent == entrant.kind { "its spec" } else { "its preset or spec" }
            )));
        }
    }
    notes
}
