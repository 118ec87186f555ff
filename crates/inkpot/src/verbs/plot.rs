//! `plot`: the figures of a study.

use std::fs;

use serde_json::json;

use crate::args::PlotArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::figures::name::Name;
use crate::{plots, stored};

pub(super) fn run(args: &PlotArgs, desk: &Desk) -> Result<(), Failure> {
    if let Some(name) = args.figure.filter(|name| *name != Name::Measures && !args.measure.is_empty()) {
        return Err(Failure::wrong(
            format!("the figure `{}` shows no measures", name.word()),
            "leave out `--measure`, or choose `--figure measures`",
        ));
    }
    let stored = desk.ledger.open(&args.study)?;
    let summary = stored::stored_summary(&stored, desk)?;
    let gallery = plots::gallery(&stored, &summary, &args.measure, desk)?;
    let files = match args.figure {
        None => plots::draw_all(&gallery, &stored)?,
        Some(name) => {
            let drawing = plots::draw(&gallery, name)?;
            let path = args.out.clone().unwrap_or_else(|| stored.folder().join(format!("figures/{}.svg", name.word())));
            let bytes = plots::bytes(&drawing, &path)?;
            if let Some(folder) = path.parent().filter(|folder| !folder.as_os_str().is_empty()) {
                fs::create_dir_all(folder).map_err(|error| Failure::file("create", folder, &error))?;
            }
            fs::write(&path, bytes).map_err(|error| Failure::file("write", &path, &error))?;
            vec![path]
        }
    };
    if desk.json {
        desk.print_json(&json!({ "files": files }));
    } else {
        desk.print(files.iter().map(|path| path.display().to_string()).collect::<Vec<_>>().join("\n"));
    }
    Ok(())
}
