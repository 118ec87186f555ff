//! What the champion of a search plays by, in an open format: a network as ONNX, a table of values as CSV or Parquet.

use std::path::Path;

use inkpot_core::Knobs;
use inkpot_lab::{Design, StudyPlan};
use inkpot_learn::Weights;
use inkpot_ledger::{Column, Manifest, Study, columns_as_parquet};

use crate::args::ExportTo;
use crate::failure::Failure;
use crate::{hint, weights};

/// The columns of a table of values that come before those of earlier states.
const WORDS: &str = "position";
const WHOLES: [&str; 2] = ["option", "visits"];

/// The champion's network or table, in this format or else in the one that fits.
pub(super) fn written(
    study: &Study,
    manifest: &Manifest,
    plan: &StudyPlan,
    to: Option<ExportTo>,
) -> Result<Vec<u8>, Failure> {
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
        (None | Some(ExportTo::Csv), true) => Ok(bytes),
        (Some(ExportTo::Parquet), true) => parquet(&bytes),
        (None | Some(ExportTo::Onnx), false) => onnx(&bytes, plan, manifest, &proof.given),
        (Some(_), true) => {
            Err(Failure::wrong("the champion plays by a table of values", "use --to csv or --to parquet"))
        }
        (Some(_), false) => Err(Failure::wrong("the champion plays by a network or a tape", "use --to onnx")),
    }
}

/// A network, with what one has to know beside it to play it elsewhere.
fn onnx(bytes: &[u8], plan: &StudyPlan, manifest: &Manifest, knobs: &Knobs) -> Result<Vec<u8>, Failure> {
    let mut facts = vec![("study", manifest.study.clone()), ("game", plan.ground.game.to_string())];
    facts.push(("level", plan.ground.level.to_string()));
    facts.extend(knobs.get("decide_every").map(|every| ("decide_every", every.to_string())));
    let wrong = |error: inkpot_learn::WeightsError| {
        Failure::wrong(format!("the champion cannot be exported: {error}"), "its champion.toml plays here")
    };
    Weights::from_bytes(bytes).and_then(|weights| weights.to_onnx(&facts)).map_err(wrong)
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
