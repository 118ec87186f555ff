//! `compare`: which of two is better.

use std::fs;

use inkpot_lab::{ComparisonSummary, StudyKind};

use super::Typed;
use crate::args::CompareArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::{junit, study};

pub(super) fn run(args: &CompareArgs, desk: &Desk) -> Result<(), Failure> {
    let [game, x, y] = args.what.as_slice() else {
        return super::compare_stored::run(args, desk);
    };
    let entrants: Vec<String> = [x, y].into_iter().chain(&args.against).cloned().collect();
    let mut typed = Typed::new(StudyKind::Compare, game, &entrants, &args.study.setting, desk)?;
    typed.draft.until_clear = args.until.is_some();
    typed.draft.equal_within = args.equal_within;
    typed.draft.require = args.require.map(Into::into);
    typed.argument("equal_within", args.equal_within.map(|within| format!("--equal-within {within}")));
    let Some((made, summary)) = typed.made(&args.study, desk)? else { return Ok(()) };
    if let Some(told) = &summary.comparison {
        write_junit(args, made.name(), told, summary.confidence)?;
    }
    study::finish(&made, &summary, desk)
}

/// Writes the outcome for a build server, if that was asked for.
pub(super) fn write_junit(
    args: &CompareArgs,
    study: &str,
    told: &ComparisonSummary,
    confidence: f64,
) -> Result<(), Failure> {
    let Some(path) = &args.junit else { return Ok(()) };
    let written = junit::report(study, told, confidence).and_then(|text| fs::write(path, text));
    written.map_err(|error| Failure::file("write", path, &error))
}
