//! The champion's network or table in an open format: ONNX, CSV or Parquet.

use std::path::Path;

use inkpot_core::{Chance, Knobs};
use inkpot_lab::{Design, StudyPlan};
use inkpot_learn::{Body, Memory, Weights};
use inkpot_ledger::{Column, Manifest, Study, columns_as_parquet};

use crate::args::ExportTo;
use crate::failure::Failure;
use crate::{hint, weights};

/// The columns of a table of values that come before those of earlier states.
const WORDS: &str = "position";
const WHOLES: [&str; 2] = ["option", "visits"];

/// Number of drawn observations for ports of a network to other programs.
const VECTORS: usize = 100;

/// A champion's network or table, to be written.
pub(super) struct Exported {
    /// The file itself.
    pub(super) bytes: Vec<u8>,
    /// Observations with a network's outputs, as CSV; none for a table.
    pub(super) vectors: Option<String>,
}

/// The champion's network or table, in this format or else in the one that fits.
pub(super) fn written(
    study: &Study,
    manifest: &Manifest,
    plan: &StudyPlan,
    to: Option<ExportTo>,
) -> Result<Exported, Failure> {
    let (Design::Evolve(proof) | Design::Train(proof)) = &plan.design else {
        return Err(Failure::wrong(
            format!("`{}` has no champion: it is neither an evolution nor a training", manifest.study),
            "leave out --champion for the rows of its matches",
        ));
    };
    let Some(file) = proof.given.iter().find_map(|(_, value)| weights::is_file(value)) else {
        let show = hint::on_ledger(["ledger", "show", &manifest.study]);
        return Err(Failure::wrong(
            "the champion consists of knobs alone, and has no file to export",
            format!("{show} names them"),
        ));
    };
    let bytes = study.read_kept_bytes(manifest, file)?;
    let table = Path::new(file).extension().is_some_and(|ending| ending == "csv");
    match (to, table) {
        (None | Some(ExportTo::Csv), true) => Ok(Exported { bytes, vectors: None }),
        (Some(ExportTo::Parquet), true) => Ok(Exported { bytes: parquet(&bytes)?, vectors: None }),
        (None | Some(ExportTo::Onnx), false) => onnx(&bytes, plan, manifest, &proof.given),
        (Some(_), true) => {
            Err(Failure::wrong("the champion plays by a table of values", "use --to csv or --to parquet"))
        }
        (Some(_), false) => Err(Failure::wrong("the champion plays by a network or a tape", "use --to onnx")),
    }
}

/// Writes a network, with the metadata for playing it elsewhere.
fn onnx(bytes: &[u8], plan: &StudyPlan, manifest: &Manifest, knobs: &Knobs) -> Result<Exported, Failure> {
    let mut facts = vec![("study", manifest.study.clone()), ("game", plan.ground.game.to_string())];
    facts.push(("level", plan.ground.level.to_string()));
    facts.extend(knobs.get("decide_every").map(|every| ("decide_every", every.to_string())));
    let wrong = |error: inkpot_learn::WeightsError| {
        Failure::wrong(format!("the champion cannot be exported: {error}"), "its champion.toml plays here")
    };
    let weights = Weights::from_bytes(bytes).map_err(wrong)?;
    Ok(Exported { bytes: weights.to_onnx(&facts).map_err(wrong)?, vectors: vectors(&weights) })
}

/// Writes a line for each of some drawn observations: its figures from -1 to 1, then the network's outputs. None
/// without a network.
fn vectors(weights: &Weights) -> Option<String> {
    let Body::Network(network) = &weights.body else { return None };
    let given = weights.actions.iter().map(|name| format!("gives {name}"));
    let mut text: Vec<String> = weights.observation.iter().cloned().chain(given).collect();
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(&text).ok()?;
    let (mut chance, mut memory) = (Chance::from_seed(1), Memory::default());
    for _ in 0..VECTORS {
        let observed: Vec<f32> = weights.observation.iter().map(|_| chance.between(-1.0, 1.0) as f32).collect();
        memory.forget();
        let outputs = network.forward(&observed, &mut memory);
        text = observed.iter().chain(outputs).map(ToString::to_string).collect();
        writer.write_record(&text).ok()?;
    }
    String::from_utf8(writer.into_inner().ok()?).ok()
}

/// A table of values, column by column.
fn parquet(bytes: &[u8]) -> Result<Vec<u8>, Failure> {
    let wrong = |error: csv::Error| Failure::Failed(format!("the champion's table cannot be read: {error}"));
    let mut reader = csv::Reader::from_reader(bytes);
    let names: Vec<String> = reader.headers().map_err(wrong)?.iter().map(String::from).collect();
    let rows: Vec<csv::StringRecord> = reader.records().collect::<Result<_, _>>().map_err(wrong)?;
    let columns: Vec<(String, Column)> = names
        .into_iter()
        .enumerate()
        .map(|(place, name)| {
            let cells = rows.iter().map(|row| row.get(place).unwrap_or_default());
            let column = if name == WORDS {
                Column::Words(cells.map(String::from).collect())
            } else if WHOLES.contains(&name.as_str()) {
                Column::Wholes(cells.map(|cell| cell.parse().unwrap_or_default()).collect())
            } else {
                Column::Numbers(cells.map(|cell| cell.parse().ok()).collect())
            };
            (name, column)
        })
        .collect();
    Ok(columns_as_parquet(&columns)?)
}
