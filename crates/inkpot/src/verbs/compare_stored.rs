//! `compare STUDY/X STUDY/Y`: two stored entrants as they stand.

use inkpot_core::nearest;
use inkpot_lab::{ComparisonSummary, Requirement, Stored, StoredError, StudyPlan, compare_stored};
use inkpot_ledger::{Manifest, Study};
use serde_json::json;

use crate::args::CompareArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::junit;
use crate::kinds::compare::words::{lines, requirement, sentence};
use crate::stored;

pub(super) fn run(args: &CompareArgs, desk: &Desk) -> Result<(), Failure> {
    if !args.against.is_empty() || args.until.is_some() || args.smallest.is_some() || args.study.matches.is_some() {
        return Err(Failure::wrong(
            "comparing stored entrants plays no matches",
            "leave out --against, --until, --smallest and --matches; or name GAME X Y to play",
        ));
    }
    let sides = args.what.iter().map(|text| Side::open(text, desk)).collect::<Result<Vec<_>, _>>()?;
    let [a, b] = sides.as_slice() else { return Err(usage(&args.what.join(" "))) };
    let require: Option<Requirement> = args.require.map(Into::into);
    let margin = (Requirement::margin(require, args.equal_within), require);
    let comparison = compare_stored(a.stored(), b.stored(), desk.game(&a.plan.ground.game)?, margin)
        .map_err(|error| explained(&error))?;
    let confidence = a.plan.ground.confidence;
    let written = junit::write(args.junit.as_deref(), a.study.name(), &comparison, confidence);
    print(&comparison, confidence, desk);
    written?;
    requirement(&comparison)
}

fn print(comparison: &ComparisonSummary, confidence: f64, desk: &Desk) {
    if desk.json {
        desk.print_json(&json!({ "kind": "compare", "confidence": confidence, "comparison": comparison }));
    } else {
        desk.print(format!("{}\n\n{}", sentence(comparison, confidence), lines(comparison)));
    }
}

/// One of the two: its study, and its place there.
struct Side {
    study: Study,
    manifest: Manifest,
    plan: StudyPlan,
    place: usize,
}

impl Side {
    fn open(text: &str, desk: &Desk) -> Result<Self, Failure> {
        let (name, entrant) = text.split_once('/').ok_or_else(|| usage(text))?;
        let study = desk.ledger.open(name)?;
        stored::stored_summary(&study, desk)?;
        let (manifest, plan) = stored::open(&study, desk)?;
        let names: Vec<&str> = plan.entrants.iter().map(|entrant| entrant.name.as_str()).collect();
        let Some(place) = names.iter().position(|name| *name == entrant) else {
            let near = nearest(entrant, names.iter().copied()).map(|near| format!("did you mean `{near}`? "));
            return Err(Failure::wrong(
                format!("`{name}` has no entrant `{entrant}`"),
                format!("{}Available: {}", near.unwrap_or_default(), names.join(", ")),
            ));
        };
        Ok(Self { study, manifest, plan, place })
    }

    fn stored(&self) -> Stored<'_> {
        Stored { study: &self.study, manifest: &self.manifest, plan: &self.plan, place: self.place }
    }
}

fn usage(text: &str) -> Failure {
    Failure::wrong(
        format!("`{text}` is neither GAME X Y nor two stored entrants"),
        "write `compare piste heron godwit`, or `compare monday/house tuesday/house`",
    )
}

fn explained(error: &StoredError) -> Failure {
    let help = match error {
        StoredError::Ledger(_) => return Failure::Failed(error.to_string()),
        StoredError::Rules { .. } => "play both at one game, level and rules",
        StoredError::NobodyInCommon { .. } => "let both meet the same opponents: `compare GAME X Y --against Z` does",
        StoredError::Same { .. } => "name two entrants, as `ledger show STUDY` lists them",
        StoredError::Sweep { .. } => "compare entrants of a batch, a tournament or a comparison",
    };
    Failure::wrong(error.to_string(), help)
}
