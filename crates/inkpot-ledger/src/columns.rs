//! Tables that are no tables of rows, as Parquet.

use std::sync::Arc;

use parquet::basic::{ConvertedType, Repetition, Type as Physical};
use parquet::data_type::{ByteArrayType, DoubleType, Int64Type};
use parquet::errors::ParquetError;
use parquet::file::writer::SerializedFileWriter;
use parquet::schema::types::Type;

use crate::LedgerError;
use crate::codec::{properties, put};

/// A column of such a table.
#[derive(Clone, Debug, PartialEq)]
pub enum Column {
    /// Text.
    Words(Vec<String>),
    /// Whole numbers.
    Wholes(Vec<i64>),
    /// Numbers, some of which may be missing.
    Numbers(Vec<Option<f64>>),
}

/// These columns by name as the bytes of a Parquet file. Errs where they are not of one length.
pub fn columns_as_parquet(columns: &[(String, Column)]) -> Result<Vec<u8>, LedgerError> {
    encoded(columns).map_err(|error| LedgerError::Encode(error.to_string()))
}

fn encoded(columns: &[(String, Column)]) -> Result<Vec<u8>, ParquetError> {
    let described = |(name, column): &(String, Column)| {
        let (physical, converted, repetition) = match column {
            Column::Words(_) => (Physical::BYTE_ARRAY, ConvertedType::UTF8, Repetition::REQUIRED),
            Column::Wholes(_) => (Physical::INT64, ConvertedType::NONE, Repetition::REQUIRED),
            Column::Numbers(_) => (Physical::DOUBLE, ConvertedType::NONE, Repetition::OPTIONAL),
        };
        let kind = Type::primitive_type_builder(name, physical).with_converted_type(converted);
        kind.with_repetition(repetition).build().map(Arc::new)
    };
    let fields = columns.iter().map(described).collect::<Result<Vec<_>, _>>()?;
    let schema = Type::group_type_builder("values").with_fields(fields).build()?;
    let mut writer = SerializedFileWriter::new(Vec::new(), Arc::new(schema), properties())?;
    let mut group = writer.next_row_group()?;
    for (_, column) in columns {
        match column {
            Column::Words(words) => {
                put::<ByteArrayType, _>(&mut group, words.iter().map(|word| word.as_str().into()), None)?;
            }
            Column::Wholes(wholes) => put::<Int64Type, _>(&mut group, wholes.iter().copied(), None)?,
            Column::Numbers(numbers) => {
                let levels: Vec<i16> = numbers.iter().map(|number| i16::from(number.is_some())).collect();
                put::<DoubleType, _>(&mut group, numbers.iter().flatten().copied(), Some(&levels))?;
            }
        }
    }
    group.close()?;
    writer.into_inner()
}
