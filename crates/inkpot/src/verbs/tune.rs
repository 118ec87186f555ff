//! `tune`: knob values that meet targets, rung by rung, proved; or a sheet measured again.

use std::fs;
use std::path::Path;

use inkpot_lab::Sheet;

use crate::args::TuneArgs;
use crate::brief::Asked;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds::tune::{again, words};
use crate::{brief, spec, study};

pub(super) fn run(args: &TuneArgs, desk: &Desk) -> Result<(), Failure> {
    if args.schema {
        desk.print_json(&Sheet::schema());
        return Ok(());
    }
    if let Some(path) = &args.verify {
        return verify(path, args, desk);
    }
    let Some(path) = &args.brief else {
        return Err(Failure::wrong("a brief or a sheet is missing", "as in `inkpot tune briefs/ladder.toml`"));
    };
    if let Some(log) = &args.fit_standin {
        return super::fit::run(path, log, args, desk);
    }
    let (text, asked) = brief::load(path, desk)?;
    if let Asked::Study(plan) = &asked {
        return Err(Failure::wrong(
            format!("{} is a {}, not a tuning", path.display(), plan.kind().name()),
            "a tuning says kind = \"tune\"; `inkpot run` runs any brief",
        ));
    }
    if args.print_brief {
        desk.print(study::resolved(&asked, desk)?);
        return Ok(());
    }
    let (made, summary) = study::make_asked(&asked, &text, args.name.as_deref(), desk)?;
    study::finish(&made, &summary, desk)
}

fn verify(path: &Path, args: &TuneArgs, desk: &Desk) -> Result<(), Failure> {
    let mut sheet = read_sheet(path)?;
    let before = sheet.clone();
    if let Some(text) = &args.rules {
        let rules = spec::assignments(text, text)?;
        sheet.rules = rules.over(&sheet.rules);
    }
    if let Some(seed) = args.seed {
        sheet.proof.seed = seed;
    }
    let base = path.parent().unwrap_or(Path::new(""));
    let (made, summary) = again::measure(&sheet, base, args.name.as_deref(), desk)?;
    study::print(&made, &summary, desk)?;
    let Some(told) = summary.tune() else { return Ok(()) };
    if !desk.json {
        desk.print(words::against(&before, told));
    }
    words::requirement(told)
}

/// Reads a sheet in either format.
pub(crate) fn read_sheet(path: &Path) -> Result<Sheet, Failure> {
    let text = fs::read_to_string(path).map_err(|error| Failure::file("read", path, &error))?;
    let wrong = |error: String| {
        Failure::wrong(
            format!("{} is no difficulty sheet: {}", path.display(), error.trim_end()),
            "`inkpot tune BRIEF` writes one; docs/schema/difficulty-sheet.json describes it",
        )
    };
    if path.extension().is_some_and(|ending| ending == "json") {
        serde_json::from_str(&text).map_err(|error| wrong(error.to_string()))
    } else {
        toml::from_str(&text).map_err(|error| wrong(error.to_string()))
    }
}
