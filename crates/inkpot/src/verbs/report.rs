//! `report`: studies as one page that needs nothing beside itself.

use serde_json::json;

use crate::args::ReportArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::{output, report};

pub(super) fn run(args: &ReportArgs, desk: &Desk) -> Result<(), Failure> {
    let page = report::page(&args.studies, desk)?;
    let html = page.html().map_err(Failure::Failed)?;
    let path = match &args.out {
        Some(path) => path.clone(),
        None => desk.ledger.open(&args.studies[0])?.folder().join("report.html"),
    };
    output::write(&path, html)?;
    if desk.json {
        desk.print_json(&json!({ "file": path }));
    } else {
        desk.print(path.display().to_string());
    }
    Ok(())
}
