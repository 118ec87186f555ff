//! Rows as Parquet: one column a field, one a measure.

use std::borrow::Cow;
use std::panic::{self, AssertUnwindSafe};
use std::sync::Arc;

use inkpot_core::{Outcome, Row, Rows};
use parquet::basic::{Compression, ConvertedType, Repetition, Type as Physical};
use parquet::column::reader::get_typed_column_reader;
use parquet::data_type::{BoolType, ByteArray, ByteArrayType, DataType, DoubleType, FloatType, Int32Type, Int64Type};
use parquet::errors::ParquetError;
use parquet::file::properties::{EnabledStatistics, WriterProperties, WriterPropertiesPtr};
use parquet::file::reader::{FileReader, RowGroupReader, SerializedFileReader};
use parquet::file::writer::{SerializedFileWriter, SerializedRowGroupWriter};
use parquet::schema::types::{ColumnPath, Type};

/// A field of a row: its column and how it is read and written.
pub(crate) struct Field {
    pub(crate) name: &'static str,
    pub(crate) kind: Kind,
    /// Whether exports have it.
    pub(crate) exported: bool,
}

pub(crate) enum Kind {
    Int(fn(&Row) -> i32, fn(&mut Row, i32)),
    Long(fn(&Row) -> i64, fn(&mut Row, i64)),
    Double(fn(&Row) -> f64, fn(&mut Row, f64)),
    Float(fn(&Row) -> f32, fn(&mut Row, f32)),
    Flag(fn(&Row) -> bool, fn(&mut Row, bool)),
    Word(fn(&Row) -> Cow<'static, str>, fn(&mut Row, &str)),
    Note(fn(&Row) -> Option<&str>, fn(&mut Row, Option<String>)),
    Bytes(fn(&Row) -> Option<&[u8]>, fn(&mut Row, Option<Vec<u8>>)),
}

/// Columns that studies of the first releases do not have.
const LATER: [&str; 4] = ["late", "crashed", "leads", "choices"];

/// Every field of a row, in the order of the columns.
pub(crate) const FIELDS: &[Field] = &[
    field("cell", Kind::Int(|row| row.cell as i32, |row, value| row.cell = value as u32)),
    field("block", Kind::Long(|row| row.block as i64, |row, value| row.block = value as u64)),
    field("rotation", Kind::Int(|row| i32::from(row.rotation), |row, value| row.rotation = value as u16)),
    field("match", Kind::Long(|row| row.match_index as i64, |row, value| row.match_index = value as u64)),
    field("seat", Kind::Int(|row| i32::from(row.seat), |row, value| row.seat = value as u16)),
    field("entrant", Kind::Int(|row| i32::from(row.entrant), |row, value| row.entrant = value as u16)),
    field("world_seed", Kind::Long(|row| row.world_seed as i64, |row, value| row.world_seed = value as u64)),
    field("score", Kind::Double(|row| row.score, |row, value| row.score = value)),
    field(
        "outcome",
        Kind::Word(
            |row| Cow::Borrowed(row.outcome.word()),
            |row, word| row.outcome = word.parse().unwrap_or(Outcome::Void),
        ),
    ),
    field("placement", Kind::Int(|row| i32::from(row.placement), |row, value| row.placement = value as u16)),
    field("ticks", Kind::Long(|row| row.ticks as i64, |row, value| row.ticks = value as u64)),
    field("ending", Kind::Word(|row| row.ending.clone(), |row, word| row.ending = Cow::Owned(word.into()))),
    field("cut_short", Kind::Flag(|row| row.cut_short, |row, value| row.cut_short = value)),
    field("faults", Kind::Int(|row| row.faults as i32, |row, value| row.faults = value as u32)),
    field("late", Kind::Int(|row| row.late as i32, |row, value| row.late = value as u32)),
    field("crashed", Kind::Int(|row| row.crashed as i32, |row, value| row.crashed = value as u32)),
    Field {
        name: "decision_us",
        kind: Kind::Float(|row| row.decision_us, |row, value| row.decision_us = value),
        exported: false,
    },
    Field {
        name: "decision_times",
        kind: Kind::Bytes(|row| row.decision_times.as_deref(), |row, bytes| row.decision_times = bytes),
        exported: false,
    },
    field("nodes", Kind::Double(|row| row.nodes, |row, value| row.nodes = value)),
    Field {
        name: "leads",
        kind: Kind::Bytes(|row| row.leads.as_deref(), |row, bytes| row.leads = bytes),
        exported: false,
    },
    Field {
        name: "choices",
        kind: Kind::Note(|row| row.choices.as_deref(), |row, note| row.choices = note),
        exported: false,
    },
    field("incident", Kind::Note(|row| row.incident.as_deref(), |row, note| row.incident = note)),
];

const fn field(name: &'static str, kind: Kind) -> Field {
    Field { name, kind, exported: true }
}

/// Rows as the bytes of a Parquet file; `measures` names the measure columns.
pub(crate) fn encode(rows: &Rows, measures: &[String]) -> Result<Vec<u8>, ParquetError> {
    let mut writer = open(Vec::new(), measures, true)?;
    let mut group = writer.next_row_group()?;
    write_fields(&mut group, rows, true)?;
    write_measures(&mut group, rows)?;
    group.close()?;
    writer.into_inner()
}

/// A Parquet writer with the columns of rows; `all` says whether those that are not exported are among them.
pub(crate) fn open<W: std::io::Write + Send>(
    into: W,
    measures: &[String],
    all: bool,
) -> Result<SerializedFileWriter<W>, ParquetError> {
    let columns = FIELDS
        .iter()
        .filter(|field| all || field.exported)
        .map(column_type)
        .chain(measures.iter().map(|name| {
            Type::primitive_type_builder(name, Physical::DOUBLE).with_repetition(Repetition::REQUIRED).build()
        }))
        .map(|column| column.map(Arc::new))
        .collect::<Result<Vec<_>, _>>()?;
    let schema = Type::group_type_builder("rows").with_fields(columns).build()?;
    SerializedFileWriter::new(into, Arc::new(schema), properties())
}

pub(crate) fn properties() -> WriterPropertiesPtr {
    // Dictionaries only where words repeat: for seeds, scores and floats they cost time and save nothing.
    let words = |builder: parquet::file::properties::WriterPropertiesBuilder, name: &str| {
        builder.set_column_dictionary_enabled(ColumnPath::from(name), true)
    };
    let builder = WriterProperties::builder()
        .set_compression(Compression::LZ4_RAW)
        .set_dictionary_enabled(false)
        .set_statistics_enabled(EnabledStatistics::None);
    Arc::new(["outcome", "ending"].into_iter().fold(builder, words).build())
}

fn column_type(field: &Field) -> Result<Type, ParquetError> {
    let (physical, converted) = match field.kind {
        Kind::Int(..) => (Physical::INT32, ConvertedType::NONE),
        Kind::Long(..) if field.name == "world_seed" => (Physical::INT64, ConvertedType::UINT_64),
        Kind::Long(..) => (Physical::INT64, ConvertedType::NONE),
        Kind::Double(..) => (Physical::DOUBLE, ConvertedType::NONE),
        Kind::Float(..) => (Physical::FLOAT, ConvertedType::NONE),
        Kind::Flag(..) => (Physical::BOOLEAN, ConvertedType::NONE),
        Kind::Word(..) | Kind::Note(..) => (Physical::BYTE_ARRAY, ConvertedType::UTF8),
        Kind::Bytes(..) => (Physical::BYTE_ARRAY, ConvertedType::NONE),
    };
    let repetition = if matches!(field.kind, Kind::Note(..) | Kind::Bytes(..)) {
        Repetition::OPTIONAL
    } else {
        Repetition::REQUIRED
    };
    Type::primitive_type_builder(field.name, physical)
        .with_converted_type(converted)
        .with_repetition(repetition)
        .build()
}

type Group<'a, W> = SerializedRowGroupWriter<'a, W>;

/// Writes the columns of the fields.
pub(crate) fn write_fields<W: std::io::Write + Send>(
    group: &mut Group<'_, W>,
    rows: &Rows,
    all: bool,
) -> Result<(), ParquetError> {
    let fields = FIELDS.iter().filter(|field| all || field.exported);
    fields.into_iter().try_for_each(|field| write_field(group, field, &rows.rows))
}

fn write_field<W: std::io::Write + Send>(
    group: &mut Group<'_, W>,
    field: &Field,
    rows: &[Row],
) -> Result<(), ParquetError> {
    match field.kind {
        Kind::Int(get, _) => put::<Int32Type, _>(group, rows.iter().map(get), None)?,
        Kind::Long(get, _) => put::<Int64Type, _>(group, rows.iter().map(get), None)?,
        Kind::Double(get, _) => put::<DoubleType, _>(group, rows.iter().map(get), None)?,
        Kind::Float(get, _) => put::<FloatType, _>(group, rows.iter().map(get), None)?,
        Kind::Flag(get, _) => put::<BoolType, _>(group, rows.iter().map(get), None)?,
        Kind::Word(get, _) => {
            put::<ByteArrayType, _>(group, rows.iter().map(|row| word(get(row))), None)?;
        }
        Kind::Note(get, _) => {
            let levels: Vec<i16> = rows.iter().map(|row| i16::from(get(row).is_some())).collect();
            let notes = rows.iter().filter_map(get).map(ByteArray::from);
            put::<ByteArrayType, _>(group, notes, Some(&levels))?;
        }
        Kind::Bytes(get, _) => {
            let levels: Vec<i16> = rows.iter().map(|row| i16::from(get(row).is_some())).collect();
            let bytes = rows.iter().filter_map(get).map(|bytes| ByteArray::from(bytes.to_vec()));
            put::<ByteArrayType, _>(group, bytes, Some(&levels))?;
        }
    }
    Ok(())
}

/// Writes the columns of the measures.
pub(crate) fn write_measures<W: std::io::Write + Send>(
    group: &mut Group<'_, W>,
    rows: &Rows,
) -> Result<(), ParquetError> {
    for column in 0..rows.width {
        put::<DoubleType, _>(group, rows.measures.iter().skip(column).step_by(rows.width).copied(), None)?;
    }
    Ok(())
}

pub(crate) fn put<D: DataType, W: std::io::Write + Send>(
    group: &mut Group<'_, W>,
    values: impl Iterator<Item = D::T>,
    levels: Option<&[i16]>,
) -> Result<(), ParquetError> {
    let values: Vec<D::T> = values.collect();
    let mut column =
        group.next_column()?.ok_or_else(|| ParquetError::General("more columns than the schema".into()))?;
    column.typed::<D>().write_batch(&values, levels, None)?;
    column.close()
}

/// The columns to read; the others keep blank values, and measures NaN.
#[derive(Clone, Debug, Default)]
pub struct Columns {
    /// Fields of a row by the name of their column (`cell`, `score`, ...).
    pub fields: Vec<&'static str>,
    /// Measures by their place.
    pub measures: Vec<usize>,
}

/// The rows of a Parquet file, in full or only some columns. Errs with a reason when the bytes are not one, or not of
/// these columns.
pub(crate) fn decode(bytes: Vec<u8>, measures: &[String], only: Option<&Columns>) -> Result<Rows, String> {
    // Bytes that were tampered with may lead the decoder astray in ways that it meets with a panic.
    let decoded = panic::catch_unwind(AssertUnwindSafe(|| read(bytes, measures, only)));
    decoded.map_err(|_| "it cannot be decoded".to_string())?.map_err(|error| error.to_string())
}

fn read(bytes: Vec<u8>, measures: &[String], only: Option<&Columns>) -> Result<Rows, ParquetError> {
    let reader = SerializedFileReader::new(bytes::Bytes::from(bytes))?;
    let schema = reader.metadata().file_metadata().schema_descr();
    let found: Vec<&str> = schema.columns().iter().map(|column| column.name()).collect();
    let fields: Vec<&Field> =
        FIELDS.iter().filter(|field| !LATER.contains(&field.name) || found.contains(&field.name)).collect();
    let wanted = fields.iter().map(|field| field.name).chain(measures.iter().map(String::as_str));
    if !found.iter().copied().eq(wanted) {
        return Err(ParquetError::General(format!("its columns are not those of this study: {}", found.join(", "))));
    }
    let mut all = Rows::new(measures.len());
    for index in 0..reader.num_row_groups() {
        let group = reader.get_row_group(index)?;
        all.append(&mut read_group(group.as_ref(), &fields, measures.len(), only)?);
    }
    Ok(all)
}

fn read_group(
    group: &dyn RowGroupReader,
    fields: &[&Field],
    width: usize,
    only: Option<&Columns>,
) -> Result<Rows, ParquetError> {
    let count =
        usize::try_from(group.metadata().num_rows()).map_err(|error| ParquetError::General(error.to_string()))?;
    let mut rows = vec![Row { score: 0.0, ..Row::blank() }; count];
    let wanted = |field: &Field| only.is_none_or(|only| only.fields.contains(&field.name));
    for (index, field) in fields.iter().enumerate().filter(|(_, field)| wanted(field)) {
        match field.kind {
            Kind::Int(_, set) => fill::<Int32Type>(group, index, &mut rows, set)?,
            Kind::Long(_, set) => fill::<Int64Type>(group, index, &mut rows, set)?,
            Kind::Double(_, set) => fill::<DoubleType>(group, index, &mut rows, set)?,
            Kind::Float(_, set) => fill::<FloatType>(group, index, &mut rows, set)?,
            Kind::Flag(_, set) => fill::<BoolType>(group, index, &mut rows, set)?,
            Kind::Word(_, set) => {
                let (words, _) = get::<ByteArrayType>(group, index, count)?;
                for (row, word) in rows.iter_mut().zip(&words) {
                    set(row, word.as_utf8()?);
                }
            }
            Kind::Note(_, set) => {
                let (notes, levels) = get::<ByteArrayType>(group, index, count)?;
                let mut notes = notes.into_iter();
                for (row, _) in rows.iter_mut().zip(levels).filter(|(_, level)| *level == 1) {
                    set(row, notes.next().as_ref().map(text).transpose()?);
                }
            }
            Kind::Bytes(_, set) => {
                let (bytes, levels) = get::<ByteArrayType>(group, index, count)?;
                let mut bytes = bytes.into_iter();
                for (row, _) in rows.iter_mut().zip(levels).filter(|(_, level)| *level == 1) {
                    set(row, bytes.next().map(|bytes| bytes.data().to_vec()));
                }
            }
        }
    }
    let mut measures = vec![f64::NAN; count * width];
    for column in (0..width).filter(|column| only.is_none_or(|only| only.measures.contains(column))) {
        let (values, _) = get::<DoubleType>(group, fields.len() + column, count)?;
        for (slot, value) in measures.iter_mut().skip(column).step_by(width).zip(values) {
            *slot = value;
        }
    }
    Ok(Rows { rows, measures, width })
}

fn fill<D: DataType>(
    group: &dyn RowGroupReader,
    index: usize,
    rows: &mut [Row],
    set: fn(&mut Row, D::T),
) -> Result<(), ParquetError> {
    let (values, _) = get::<D>(group, index, rows.len())?;
    rows.iter_mut().zip(values).for_each(|(row, value)| set(row, value));
    Ok(())
}

fn get<D: DataType>(
    group: &dyn RowGroupReader,
    index: usize,
    count: usize,
) -> Result<(Vec<D::T>, Vec<i16>), ParquetError> {
    let mut reader = get_typed_column_reader::<D>(group.get_column_reader(index)?);
    let (mut values, mut levels) = (Vec::with_capacity(count), Vec::with_capacity(count));
    let mut records = 0;
    while records < count {
        let (read, _, _) = reader.read_records(count - records, Some(&mut levels), None, &mut values)?;
        if read == 0 {
            return Err(ParquetError::EOF(format!("column {index} ends early")));
        }
        records += read;
    }
    Ok((values, levels))
}

/// A word for the writer; one that is part of the program is not copied.
fn word(word: Cow<'static, str>) -> ByteArray {
    match word {
        Cow::Borrowed(word) => bytes::Bytes::from_static(word.as_bytes()).into(),
        Cow::Owned(word) => word.into_bytes().into(),
    }
}

fn text(bytes: &ByteArray) -> Result<String, ParquetError> {
    bytes.as_utf8().map(str::to_string)
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;

    /// Two made-up rows of match `match_index`, with values at the edges of their types.
    pub(crate) fn sample(match_index: u64) -> Rows {
        let row = |seat: u16| Row {
            cell: 3,
            block: match_index / 2,
            rotation: (match_index % 2) as u16,
            match_index,
            seat,
            entrant: seat,
            world_seed: u64::MAX - match_index,
            score: 0.1 + f64::from(seat),
            outcome: Outcome::ALL[usize::from(seat) * 2],
            placement: seat + 1,
            ticks: 1 << 40,
            ending: "touches".into(),
            cut_short: seat == 1,
            faults: 2 * u32::from(seat),
            late: u32::from(seat),
            crashed: u32::from(seat),
            decision_us: 0.5,
            decision_times: (seat == 0).then(|| vec![0, 255]),
            nodes: 17.5,
            leads: (seat == 0).then(|| vec![7; 80]),
            choices: (seat == 1).then(|| "[[3,2]]".to_string()),
            incident: (seat == 1).then(|| "seat 1 panicked, \"quoted\"".to_string()),
        };
        Rows { rows: vec![row(0), row(1)], measures: vec![1.5, f64::NEG_INFINITY, -0.0, 1e-300], width: 2 }
    }

    pub(crate) fn names() -> Vec<String> {
        vec!["length_s".into(), "margin".into()]
    }

    #[test]
    fn rows_come_back_as_they_went() {
        let mut rows = sample(0);
        rows.append(&mut sample(1));
        let back = decode(encode(&rows, &names()).unwrap(), &names(), None).unwrap();
        assert_eq!(back, rows);
    }

    #[test]
    fn rows_of_the_first_releases_which_lack_some_columns_are_read_too() {
        let mut old = sample(0);
        old.rows.iter_mut().for_each(|row| (row.leads, row.choices, row.late, row.crashed) = (None, None, 0, 0));
        let columns = FIELDS.iter().filter(|field| !LATER.contains(&field.name)).map(column_type);
        let measures = names().into_iter().map(|name| {
            Type::primitive_type_builder(&name, Physical::DOUBLE).with_repetition(Repetition::REQUIRED).build()
        });
        let all = columns.chain(measures).map(|column| column.map(Arc::new)).collect::<Result<Vec<_>, _>>().unwrap();
        let schema = Type::group_type_builder("rows").with_fields(all).build().unwrap();
        let mut writer = SerializedFileWriter::new(Vec::new(), Arc::new(schema), properties()).unwrap();
        let mut group = writer.next_row_group().unwrap();
        for field in FIELDS.iter().filter(|field| !LATER.contains(&field.name)) {
            write_field(&mut group, field, &old.rows).unwrap();
        }
        write_measures(&mut group, &old).unwrap();
        group.close().unwrap();
        assert_eq!(decode(writer.into_inner().unwrap(), &names(), None).unwrap(), old);
    }

    #[test]
    fn damaged_bytes_are_an_error_wherever_they_are_cut_or_changed() {
        let whole = encode(&sample(7), &names()).unwrap();
        for cut in [0, 1, 3, whole.len() / 2, whole.len() - 1] {
            assert!(decode(whole[..cut].to_vec(), &names(), None).is_err(), "cut at {cut}");
        }
        assert!(decode(whole, &["other".into(), "margin".into()], None).is_err());
    }

    #[test]
    fn only_the_columns_asked_for_are_read() {
        let rows = sample(3);
        let only = Columns { fields: vec!["score", "cell"], measures: vec![1] };
        let some = decode(encode(&rows, &names()).unwrap(), &names(), Some(&only)).unwrap();
        for (index, (some, full)) in some.rows.iter().zip(&rows.rows).enumerate() {
            assert_eq!((some.score, some.cell, some.ticks), (full.score, full.cell, 0), "row {index}");
        }
        assert!(some.measures_of(0)[0].is_nan());
        assert_eq!(some.measures_of(1)[1], rows.measures_of(1)[1]);
    }
}
