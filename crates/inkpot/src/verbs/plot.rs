//! `plot`: the figures of a study.

use std::path::PathBuf;

use clap::ValueEnum;
use inkpot_figures::Drawing;
use inkpot_ledger::Study;
use serde_json::json;

use crate::args::PlotArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::figure_name::Name;
use crate::kinds::found::searched::Searched;
use crate::kinds::found::together;
use crate::{plots, stored};

pub(super) fn run(args: &PlotArgs, desk: &Desk) -> Result<(), Failure> {
    check(args)?;
    if args.by.is_some() || args.studies.len() > 1 {
        return learning(args, desk);
    }
    let stored = desk.ledger.open(&args.studies[0])?;
    let summary = stored::stored_summary(&stored, desk)?;
    let gallery = plots::gallery(&stored, &summary, &args.measure, desk)?;
    let files = match args.figure {
        None => plots::draw_all(&gallery, &stored)?,
        Some(name) => save(&plots::draw(&gallery, name)?, &name.word(), args, &stored)?,
    };
    tell(&files, desk);
    Ok(())
}

/// Errs if an option has no effect on the drawing.
fn check(args: &PlotArgs) -> Result<(), Failure> {
    let searches = args.by.is_some() || args.studies.len() > 1;
    if let Some(name) = args.figure.filter(|name| *name != Name::Measures && !args.measure.is_empty()) {
        return Err(Failure::wrong(
            format!("the figure `{}` shows no measures", name.word()),
            "leave out `--measure`, or choose `--figure measures`",
        ));
    }
    if let Some(name) = args.figure.filter(|name| *name != Name::Learning && searches) {
        let what = if args.by.is_some() { "has no `--by`" } else { "is of one study" };
        return Err(Failure::wrong(format!("the figure `{}` {what}", name.word()), "choose `--figure learning`"));
    }
    if args.figure.is_none() && args.out.is_some() && !searches {
        return Err(Failure::wrong("`--out` takes one figure", "name it by `--figure`"));
    }
    Ok(())
}

/// Draws the learning curves of searches in one figure.
fn learning(args: &PlotArgs, desk: &Desk) -> Result<(), Failure> {
    let by = args.by.unwrap_or_default();
    let mut searched = Vec::new();
    for name in &args.studies {
        let study = desk.ledger.open(name)?;
        let summary = stored::stored_summary(&study, desk)?;
        let Some(opened) = Searched::open(&study, &summary, desk)? else {
            let what = format!("`{name}` is a {}, not an evolution", summary.kind().name());
            return Err(Failure::wrong(what, "name evolutions, or one study without `--by`"));
        };
        searched.push(opened);
    }
    let drawing = together::learning(&searched, by)?;
    let word = by.to_possible_value().map(|value| value.get_name().to_string()).unwrap_or_default();
    let name = [&[format!("learning-by-{word}")], &args.studies[1..]].concat().join("-");
    let files = save(&drawing, &name, args, &desk.ledger.open(&args.studies[0])?)?;
    if searched.len() == 1 {
        tell(&files, desk);
    } else if desk.json {
        let (found, ratios) = (together::compared(&searched, by), together::ratios(&searched, by));
        desk.print_json(&json!({ "files": files, "found": found, "ratios": ratios }));
    } else {
        desk.print(together::compared(&searched, by).join("\n"));
        tell(&files, desk);
    }
    Ok(())
}

/// Writes a figure where it was asked for, or into the study's folder as SVG and PNG.
fn save(drawing: &Drawing, name: &str, args: &PlotArgs, study: &Study) -> Result<Vec<PathBuf>, Failure> {
    let Some(path) = &args.out else { return Ok(plots::keep(drawing, name, study)?.into()) };
    plots::save(drawing, path)?;
    Ok(vec![path.clone()])
}

fn tell(files: &[PathBuf], desk: &Desk) {
    if desk.json {
        desk.print_json(&json!({ "files": files }));
    } else {
        desk.print(files.iter().map(|path| path.display().to_string()).collect::<Vec<_>>().join("\n"));
    }
}
