//! From the draft of a fit to the fit: names looked up, the log looked at, all problems at once.

use inkpot_core::{GameSource, Knobs, Level, Registry};

use super::observed::Observed;
use super::{Fit, HumanLog};
use crate::checker::Checker;
use crate::kinds::batch::Batch;
use crate::kinds::tune::free_range;
use crate::{Across, Draft, EntrantDraft, Free, FreeDraft, FreeRange, Place, Plan, Problem, Side};

/// Matches of the proof against each opponent, where nothing is said.
const PROOF: u64 = 4000;
const MOST_MATCHES: u64 = 1_000_000_000;

/// A fit that is asked for.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct FitDraft {
    /// Name of the game.
    pub game: GameSource,
    /// Level, if not the game's first.
    pub level: Option<Level>,
    /// Seed from which all chance is drawn.
    pub seed: Option<u64>,
    /// Confidence of all intervals.
    pub confidence: Option<f64>,
    /// Rules knobs that are set.
    pub rules: Knobs,
    /// The stand-in.
    pub standin: EntrantDraft,
    /// The knobs that are fitted.
    pub free: Vec<FreeDraft>,
    /// Whom the people played.
    pub opponents: Vec<EntrantDraft>,
    /// The log of people's matches; none where it could not be read.
    pub log: Option<HumanLog>,
    /// Matches of the proof, against each opponent.
    pub proof: Option<u64>,
}

/// Checks the draft of a fit against the registry and its log. Errs with everything that is wrong with it.
pub fn resolve_fit(draft: &FitDraft, registry: &Registry) -> Result<Fit, Vec<Problem>> {
    let game = Checker::at(&draft.game, registry)?.game();
    let mut problems = Vec::new();
    let plan = field(draft, registry).map_err(|more| problems.extend(more)).ok();
    let kind = plan.as_ref().map_or("", |plan| plan.entrants[0].kind.as_str());
    let sheet = game.agents().iter().find(|sheet| sheet.name == kind);
    let knobs = sheet.map(|sheet| sheet.knobs.as_slice()).unwrap_or_default();
    let mut free = Vec::new();
    for (place, asked) in draft.free.iter().enumerate().filter(|_| sheet.is_some()) {
        let at = Place::item("free", place);
        let Some(knob) = knobs.iter().find(|knob| knob.name == asked.knob && knob.bounds().is_some()) else {
            let known: Vec<&str> =
                knobs.iter().filter(|knob| knob.bounds().is_some()).map(|knob| knob.name.as_str()).collect();
            let what = format!("the stand-in has no numeric knob `{}`", asked.knob);
            problems.push(Problem::new(at, what, format!("available: {}", known.join(", "))));
            continue;
        };
        let range = free_range(&mut problems, &at, asked, knob).map(|range| match range {
            // Surfaces are smooth; what is played is rounded by the knob itself.
            FreeRange::Number { low, high, .. } => FreeRange::Number { low, high, whole: false },
            words @ FreeRange::Words(_) => words,
        });
        free.extend(range.map(|range| Free {
            of: Side::Player,
            knob: asked.knob.clone(),
            range,
            across: Across::Any,
            step: None,
        }));
    }
    if draft.free.is_empty() {
        problems.push(Problem::new("free", "no knob is free", "add [[free]] with `knob`, `from` and `to`"));
    }
    let proof = draft.proof.unwrap_or(PROOF);
    if !(40..=MOST_MATCHES).contains(&proof) {
        let help = format!("it must be a whole number from 40 to {MOST_MATCHES}");
        problems.push(Problem::new("proof", format!("`proof` cannot be {proof}"), help));
    }
    let observed = draft.log.as_ref().map(|log| Observed::of(log, free.len(), game.sheet()));
    if let Some(Err(error)) = &observed {
        problems.push(Problem::new("log", error.to_string(), "docs/tune.md says what a log holds"));
    }
    match (plan, &draft.log, observed) {
        (Some(mut plan), Some(log), Some(Ok(observed))) if problems.is_empty() => {
            let standin = plan.entrants.remove(0);
            plan.ground.series = Some(observed.matches_each(log));
            let log = log.clone();
            Ok(Fit { ground: plan.ground, standin, free, opponents: plan.entrants, log, proof })
        }
        _ => Err(problems),
    }
}

/// The stand-in and its opponents as the entrants of a study, with places as they stand in a fit's brief.
fn field(draft: &FitDraft, registry: &Registry) -> Result<Plan, Vec<Problem>> {
    let study = Draft {
        game: draft.game.clone(),
        level: draft.level.clone(),
        seed: draft.seed,
        confidence: draft.confidence,
        rules: draft.rules.clone(),
        entrants: std::iter::once(&draft.standin).chain(&draft.opponents).cloned().collect(),
        ..Draft::default()
    };
    Batch::planned(&study, registry).map_err(|mut problems| {
        for problem in &mut problems {
            if let Some(place) = problem.at.item_of("entrant") {
                let to = place.checked_sub(1).map_or("standin".into(), |index| Place::item("opponent", index));
                problem.at = problem.at.moved(&Place::item("entrant", place), &to);
            }
        }
        problems
    })
}
