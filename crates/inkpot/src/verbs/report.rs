//! `report`: studies as one page that needs nothing beside itself.

use std::fs;

use serde_json::json;

use crate::args::ReportArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::report;

pub(super) fn run(args: &ReportArgs, desk: &Desk) -> Result<(), Failure> {
    let page = report::page(&args.studies, desk)?;
    let html = page.html().map_err(Failure::Failed)?;
    let path = match &args.out {
        Some(path) => path.clone(),
        None => desk.ledger.open(&args.studies[0])?.folder().join("report.html"),
    };
    if let Some(folder) = path.parent().filter(|folder| !folder.as_os_str().is_empty()) {
        fs::create_dir_all(folder).map_err(|error| Failure::file("create", folder, &error))?;
    }
    fs::write(&path, html).map_err(|error| Failure::file("write", &path, &error))?;
    if desk.json {
        desk.print_json(&json!({ "file": path }));
    } else {
        desk.print(path.display().to_string());
    }
    Ok(())
}
