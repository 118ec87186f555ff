//! `plot`: the figures of a study.

use serde_json::json;

use crate::args::PlotArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::figures::name::Name;
use crate::{output, plots, stored};

pub(super) fn run(args: &PlotArgs, desk: &Desk) -> Result<(), Failure> {
    if let Some(name) = args.figure.filter(|name| *name != Name::Measures && !args.measure.is_empty()) {
        return Err(Failure::wrong(
            format!("the figure `{}` shows no measures", name.word()),
            "leave out `--measure`, or choose `--figure measures`",
        ));
    }
    let stored = desk.ledger.open(&args.study)?;
    let summary = stored::stored_summary(&stored)?;
    let gallery = plots::gallery(&stored, &summary, &args.measure, desk)?;
    let files = match args.figure {
        None => plots::draw_all(&gallery, &stored)?,
        Some(name) => {
            let drawing = plots::draw(&gallery, name)?;
            let path = args.out.clone().unwrap_or_else(|| stored.folder().join(format!("figures/{}.svg", name.word())));
            let bytes = plots::bytes(&drawing, &path)?;
            output::write(&path, bytes)?;
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
