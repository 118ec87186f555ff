//! `ledger export`: the rows of a study in an open format.

use std::io::{self, BufWriter, Write};
use std::path::Path;

use inkpot_core::KnobValue;
use inkpot_lab::Plan;
use inkpot_ledger::{ExportFormat, ExportLabels, export};

use crate::args::{ExportArgs, ExportTo};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::counted;
use crate::{outlet, output, stored};

pub(super) fn run(args: &ExportArgs, desk: &Desk) -> Result<(), Failure> {
    let format = format(args)?;
    let stored = desk.ledger.open(&args.study)?;
    let (manifest, plan) = stored::open(&stored, desk)?;
    let measures = desk.game(&plan.ground.game)?.measure_names();
    let labels = labels(&plan);
    if let Some(path) = &args.out {
        let failed = |error: io::Error| Failure::file("write", path, &error);
        let mut out = BufWriter::new(output::begin(path)?);
        let rows = export(&stored, &manifest, &measures, &labels, format, &mut out)?;
        let file = out.into_inner().map_err(|error| failed(error.into_error()))?;
        file.finish().map_err(failed)?;
        desk.say(format!("{} in {}", counted(rows, "row", "rows"), path.display()));
    } else {
        let mut out = BufWriter::new(Results);
        export(&stored, &manifest, &measures, &labels, format, &mut out)?;
        // What cannot be written is remembered, and told at the end.
        let _ = out.flush();
    }
    Ok(())
}

/// The format that was asked for, or else the one that the file's name ends with.
fn format(args: &ExportArgs) -> Result<ExportFormat, Failure> {
    let named = args.out.as_deref().and_then(|path| by_ending(path).map(|format| (path, format)));
    let asked = args.to.map(|to| match to {
        ExportTo::Csv => ExportFormat::Csv,
        ExportTo::Jsonl => ExportFormat::Jsonl,
        ExportTo::Parquet => ExportFormat::Parquet,
    });
    match (asked, named) {
        (Some(asked), Some((path, named))) if asked != named => Err(Failure::wrong(
            format!("the name of {} stands for another format than --to does", path.display()),
            "leave out --to, or end the name as the format does: .csv, .jsonl or .parquet",
        )),
        (Some(format), _) | (None, Some((_, format))) => Ok(format),
        (None, None) => Ok(ExportFormat::Csv),
    }
}

fn by_ending(path: &Path) -> Option<ExportFormat> {
    match path.extension()?.to_str()?.to_ascii_lowercase().as_str() {
        "csv" => Some(ExportFormat::Csv),
        "jsonl" => Some(ExportFormat::Jsonl),
        "parquet" => Some(ExportFormat::Parquet),
        _ => None,
    }
}

fn labels(plan: &Plan) -> ExportLabels {
    let column = |index: usize| -> Vec<KnobValue> { plan.cells.iter().map(|cell| cell.point[index].clone()).collect() };
    ExportLabels {
        entrants: plan.entrants.iter().map(|entrant| entrant.name.clone()).collect(),
        cells: plan.vary().iter().enumerate().map(|(index, vary)| (plan.vary_name(vary), column(index))).collect(),
    }
}

/// Standard output as one more place for results: what goes wrong with it is told at the end.
struct Results;

impl Write for Results {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        if !outlet::is_lost() {
            outlet::keep(io::stdout().write_all(bytes));
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        if !outlet::is_lost() {
            outlet::keep(io::stdout().flush());
        }
        Ok(())
    }
}
