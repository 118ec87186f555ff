//! `ledger export`: the rows of a study, or its champion's network or table, in an open format.

use std::io::{self, BufWriter, Write};
use std::path::Path;

use inkpot_core::KnobValue;
use inkpot_lab::StudyPlan;
use inkpot_ledger::{ExportFormat, ExportLabels, export};

use super::champion;
use crate::args::{ExportArgs, ExportTo};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::counted;
use crate::{outlet, output, stored};

pub(super) fn run(args: &ExportArgs, desk: &Desk) -> Result<(), Failure> {
    let to = format(args)?;
    let stored = desk.ledger.open(&args.study)?;
    let (manifest, plan) = stored::open(&stored, desk)?;
    let rows = match to {
        _ if args.champion => None,
        Some(ExportTo::Onnx) => None,
        None | Some(ExportTo::Csv) => Some(ExportFormat::Csv),
        Some(ExportTo::Jsonl) => Some(ExportFormat::Jsonl),
        Some(ExportTo::Parquet) => Some(ExportFormat::Parquet),
    };
    let Some(format) = rows else {
        let champion::Exported { bytes, vectors } = champion::written(&stored, &manifest, &plan, to)?;
        match &args.out {
            Some(path) => {
                output::write(path, bytes)?;
                desk.say(format!("The champion is in {}", path.display()));
                if let Some(vectors) = vectors {
                    let beside = path.with_extension("vectors.csv");
                    output::write(&beside, vectors)?;
                    desk.say(format!(
                        "Observations with what it gives for each, to check by, are in {}",
                        beside.display()
                    ));
                }
            }
            None => drop(Results.write_all(&bytes)),
        }
        return Ok(());
    };
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
fn format(args: &ExportArgs) -> Result<Option<ExportTo>, Failure> {
    let named = args.out.as_deref().and_then(|path| by_ending(path).map(|format| (path, format)));
    if let (None, None, Some(path)) = (args.to, named, args.out.as_deref().filter(|path| path.extension().is_some())) {
        return Err(Failure::wrong(
            format!("the name of {} stands for no format that can be written", path.display()),
            "end the name in .csv, .jsonl, .parquet or .onnx, or say the format by --to",
        ));
    }
    match (args.to, named) {
        (Some(asked), Some((path, named))) if asked != named => Err(Failure::wrong(
            format!("the name of {} stands for another format than --to does", path.display()),
            "leave out --to, or end the name as the format does: .csv, .jsonl, .parquet or .onnx",
        )),
        (asked, named) => Ok(asked.or(named.map(|(_, format)| format))),
    }
}

fn by_ending(path: &Path) -> Option<ExportTo> {
    match path.extension()?.to_str()?.to_ascii_lowercase().as_str() {
        "csv" | "txt" => Some(ExportTo::Csv),
        "jsonl" => Some(ExportTo::Jsonl),
        "parquet" => Some(ExportTo::Parquet),
        "onnx" => Some(ExportTo::Onnx),
        _ => None,
    }
}

fn labels(plan: &StudyPlan) -> ExportLabels {
    let column = |index: usize| -> Vec<KnobValue> { plan.cells.iter().map(|cell| cell.point[index].clone()).collect() };
    ExportLabels {
        entrants: plan.entrants.iter().map(|entrant| entrant.name.clone()).collect(),
        cells: plan.vary().iter().enumerate().map(|(index, vary)| (vary.name(plan), column(index))).collect(),
    }
}

/// Standard output as a sink of results: its errors are reported at the end.
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
