//! Rows in open formats, in canonical order and without columns that differ from run to run.

use std::io::Write;

use inkpot_core::{KnobValue, Row, Rows};
use parquet::errors::ParquetError;
use serde_json::{Map, Value};

use crate::codec::{FIELDS, Field, Kind, open, write_fields, write_measures};
use crate::{LedgerError, Manifest, Study};

/// An open format for rows.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ExportFormat {
    /// Comma-separated values with a header.
    Csv,
    /// One JSON object a line.
    Jsonl,
    /// Apache Parquet (without the columns of `ExportLabels`).
    Parquet,
}

/// Names for the numbers in rows.
#[derive(Clone, Debug, Default)]
pub struct ExportLabels {
    /// Names of the entrants.
    pub entrants: Vec<String>,
    /// Further columns: a name, and a value for each cell (the knobs varied by a sweep).
    pub cells: Vec<(String, Vec<KnobValue>)>,
}

/// Writes the rows of a complete study in order of cell, block, rotation and seat; the same bytes for the same brief.
/// Gives how many rows were written.
pub fn export(
    study: &Study,
    manifest: &Manifest,
    measures: &[String],
    labels: &ExportLabels,
    format: ExportFormat,
    mut out: impl Write + Send,
) -> Result<u64, LedgerError> {
    let mut written = 0;
    let failed = |what: &dyn std::fmt::Display| LedgerError::Encode(what.to_string());
    match format {
        ExportFormat::Csv => {
            let mut writer = csv::Writer::from_writer(out);
            writer.write_record(header(measures, labels)).map_err(|error| failed(&error))?;
            study.visit(manifest, measures, |rows| {
                written += rows.rows.len() as u64;
                each(rows, measures, labels, |values| {
                    writer.write_record(values.map(|(_, value)| plain(&value))).map_err(|error| failed(&error))
                })
            })?;
            writer.flush().map_err(|error| failed(&error))?;
        }
        ExportFormat::Jsonl => study.visit(manifest, measures, |rows| {
            written += rows.rows.len() as u64;
            each(rows, measures, labels, |values| {
                let object: Map<String, Value> = values.collect();
                writeln!(out, "{}", Value::Object(object)).map_err(|error| failed(&error))
            })
        })?,
        ExportFormat::Parquet => {
            let mut writer = open(out, measures, false).map_err(|error| failed(&error))?;
            // Row groups of even size, so that the bytes do not depend on where the part files were cut.
            let mut held = Rows::new(measures.len());
            study.visit(manifest, measures, |rows| {
                written += rows.rows.len() as u64;
                held.append(&mut rows.clone());
                while held.rows.len() >= GROUP {
                    let mut rest = held.split_off(GROUP);
                    std::mem::swap(&mut rest, &mut held);
                    write_group(&mut writer, &rest).map_err(|error| failed(&error))?;
                }
                Ok(())
            })?;
            write_group(&mut writer, &held).map_err(|error| failed(&error))?;
            writer.close().map_err(|error| failed(&error))?;
        }
    }
    Ok(written)
}

const GROUP: usize = 100_000;

fn write_group<W: Write + Send>(
    writer: &mut parquet::file::writer::SerializedFileWriter<W>,
    rows: &Rows,
) -> Result<(), ParquetError> {
    let mut group = writer.next_row_group()?;
    write_fields(&mut group, rows, false)?;
    write_measures(&mut group, rows)?;
    group.close().map(|_| ())
}

fn fields() -> impl Iterator<Item = &'static Field> {
    FIELDS.iter().filter(|field| field.exported)
}

fn header(measures: &[String], labels: &ExportLabels) -> Vec<String> {
    let names = fields().map(|field| field.name.to_string());
    names.chain(labels.cells.iter().map(|(name, _)| name.clone())).chain(measures.iter().cloned()).collect()
}

fn each(
    rows: &Rows,
    measures: &[String],
    labels: &ExportLabels,
    mut line: impl FnMut(&mut dyn Iterator<Item = (String, Value)>) -> Result<(), LedgerError>,
) -> Result<(), LedgerError> {
    for (index, row) in rows.rows.iter().enumerate() {
        let labelled = fields().map(|field| (field.name.to_string(), value(field, row, labels)));
        let cells = labels.cells.iter().map(|(name, values)| {
            let value = values.get(row.cell as usize).map_or(Value::Null, |value| match value {
                KnobValue::Number(x) => Value::from(*x),
                KnobValue::Word(word) | KnobValue::File { file: word, .. } => Value::from(word.as_str()),
            });
            (name.clone(), value)
        });
        let measured = measures.iter().zip(rows.measures_of(index)).map(|(name, x)| (name.clone(), Value::from(*x)));
        line(&mut labelled.chain(cells).chain(measured))?;
    }
    Ok(())
}

fn value(field: &Field, row: &Row, labels: &ExportLabels) -> Value {
    match field.kind {
        Kind::Int(..) if field.name == "entrant" => {
            labels.entrants.get(usize::from(row.entrant)).map_or(Value::Null, |name| Value::from(name.as_str()))
        }
        Kind::Long(..) if field.name == "world_seed" => Value::from(row.world_seed),
        Kind::Int(get, _) => Value::from(get(row)),
        Kind::Long(get, _) => Value::from(get(row)),
        Kind::Double(get, _) => Value::from(get(row)),
        Kind::Float(get, _) => Value::from(get(row)),
        Kind::Flag(get, _) => Value::from(get(row)),
        Kind::Word(get, _) => Value::from(get(row).as_ref()),
        Kind::Note(get, _) => Value::from(get(row)),
        Kind::Bytes(get, _) => Value::from(get(row)),
    }
}

fn plain(value: &Value) -> String {
    match value {
        Value::Null => String::new(),
        Value::String(text) => text.clone(),
        other => other.to_string(),
    }
}
