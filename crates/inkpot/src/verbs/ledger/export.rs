//! `ledger export`: the rows of a study in an open format.

use std::fs::File;
use std::io::{self, BufWriter, Write};

use inkpot_core::KnobValue;
use inkpot_lab::Plan;
use inkpot_ledger::{ExportFormat, ExportLabels, export};

use crate::args::{ExportArgs, ExportTo};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::stored;

pub(super) fn run(args: &ExportArgs, desk: &Desk) -> Result<(), Failure> {
    let stored = desk.ledger.open(&args.study)?;
    let (manifest, plan) = stored::open(&stored, desk)?;
    let measures: Vec<String> =
        desk.game(&plan.ground.game)?.sheet().measures.iter().map(|measure| measure.name.clone()).collect();
    let format = match args.to {
        ExportTo::Csv => ExportFormat::Csv,
        ExportTo::Jsonl => ExportFormat::Jsonl,
        ExportTo::Parquet => ExportFormat::Parquet,
    };
    let labels = labels(&plan);
    if let Some(path) = &args.out {
        // Written aside, so that an export that fails leaves no half file under the name.
        let aside = path.with_extension("aside");
        let file = File::create(&aside).map_err(|error| Failure::file("write", &aside, &error))?;
        let mut out = BufWriter::new(file);
        let done = export(&stored, &manifest, &measures, &labels, format, &mut out);
        let flushed = out.flush();
        if done.is_err() || flushed.is_err() {
            let _ = std::fs::remove_file(&aside);
        }
        done?;
        flushed.and_then(|()| std::fs::rename(&aside, path)).map_err(|error| Failure::file("write", path, &error))?;
        desk.say(format!("{} rows in {}", manifest.matches_done * plan.seats(), path.display()));
    } else {
        let mut out = BufWriter::new(Pipe(io::stdout()));
        export(&stored, &manifest, &measures, &labels, format, &mut out)?;
        out.flush().map_err(|error| Failure::Failed(error.to_string()))?;
    }
    Ok(())
}

fn labels(plan: &Plan) -> ExportLabels {
    let column = |index: usize| -> Vec<KnobValue> { plan.cells.iter().map(|cell| cell.point[index].clone()).collect() };
    ExportLabels {
        entrants: plan.entrants.iter().map(|entrant| entrant.name.clone()).collect(),
        cells: plan.vary().iter().enumerate().map(|(index, vary)| (plan.vary_name(vary), column(index))).collect(),
    }
}

/// Standard output whose reader may leave early, as `head` does: that ends the process without a complaint.
struct Pipe(io::Stdout);

impl Write for Pipe {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.write(bytes).inspect_err(leave_if_closed)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.flush().inspect_err(leave_if_closed)
    }
}

fn leave_if_closed(error: &io::Error) {
    if error.kind() == io::ErrorKind::BrokenPipe {
        std::process::exit(0);
    }
}
