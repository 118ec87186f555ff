//! The request of a study in a few words.

use inkpot_core::{GameEntry, Knob, KnobRange, Knobs};
use inkpot_lab::{StudyPlan, find_agent};

/// Entrants that are named.
const ENTRANTS: usize = 12;

/// Lists the entrants, each with the facts that its name does not show.
pub(crate) fn entrants(plan: &StudyPlan, game: &dyn GameEntry) -> Vec<(String, String)> {
    let each = plan.entrants.iter().take(ENTRANTS).map(|entrant| {
        // What a preset sets is in its name.
        let knobs = find_agent(game, &entrant.agent).map(|(sheet, preset)| {
            let settings = entrant.given.iter().filter(|(name, value)| preset.get(name) != Some(value));
            changed(&settings.map(|(name, value)| (name.to_string(), value.clone())).collect(), &sheet.knobs)
        });
        let knobs = knobs.filter(|knobs| !knobs.is_empty()).map(|knobs| format!(" with {knobs}")).unwrap_or_default();
        (entrant.name.clone(), format!("{}{knobs}", entrant.agent))
    });
    each.collect()
}

/// The values that are not the default.
pub(crate) fn changed(knobs: &Knobs, known: &[Knob]) -> String {
    let other = knobs.iter().filter(|(name, value)| {
        known.iter().find(|knob| knob.name == *name).is_none_or(|knob| match &knob.range {
            KnobRange::Choice { default, .. } => value.to_string() != *default,
            _ => knob.default_value().as_ref() != Some(value),
        })
    });
    other.map(|(name, value)| format!("{name} {value}")).collect::<Vec<_>>().join(", ")
}
