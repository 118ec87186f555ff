//! `report`: studies as one page that needs nothing beside itself.

use std::path::Path;

use serde_json::json;

use crate::args::ReportArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::{output, report};

pub(super) fn run(args: &ReportArgs, desk: &Desk) -> Result<(), Failure> {
    if let Some(path) = args.out.as_ref().filter(|path| !is_page(path)) {
        return Err(Failure::wrong(
            format!("a report is a page, and the name of {} stands for something else", path.display()),
            "end the name in .html; a browser prints the page as PDF",
        ));
    }
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

/// Whether a file is a page by its name.
fn is_page(path: &Path) -> bool {
    path.extension().is_none_or(|ending| ending.eq_ignore_ascii_case("html") || ending.eq_ignore_ascii_case("htm"))
}
