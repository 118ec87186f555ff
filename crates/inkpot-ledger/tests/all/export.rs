//! Rows in open formats: whatever the parts, the same bytes.

use crate::common::{begun, block, fill, names};
use inkpot_core::KnobValue;
use inkpot_ledger::{Column, ExportFormat, ExportLabels, LedgerError, Manifest, Study, columns_as_parquet, export};
use parquet::data_type::{ByteArrayType, DataType, DoubleType, Int64Type};
use parquet::file::reader::{FileReader, RowGroupReader, SerializedFileReader};

fn labels() -> ExportLabels {
    ExportLabels {
        entrants: vec!["heron".into(), "a, \"quoted\" name".into()],
        cells: vec![("house.skill".into(), vec![KnobValue::Number(0.25), KnobValue::Word("none".into())])],
    }
}

fn exported(study: &Study, manifest: &Manifest, format: ExportFormat) -> Vec<u8> {
    let mut bytes = Vec::new();
    export(study, manifest, &names(), &labels(), format, &mut bytes).expect("the study is complete");
    bytes
}

fn study(spans: &[u64]) -> (tempfile::TempDir, Study, Manifest) {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = begun(folder.path(), 8);
    for pair in spans.windows(2) {
        fill(&study, &mut manifest, pair[0]..pair[1]);
    }
    (folder, study, manifest)
}

#[test]
fn where_parts_were_cut_does_not_show() {
    let (_a, first, one_manifest) = study(&[0, 8]);
    let (_b, many, many_manifest) = study(&[0, 1, 4, 7, 8]);
    for format in [ExportFormat::Csv, ExportFormat::Jsonl, ExportFormat::Parquet] {
        assert_eq!(exported(&first, &one_manifest, format), exported(&many, &many_manifest, format), "{format:?}");
    }
}

#[test]
fn csv_has_a_line_a_row_under_names_for_people() {
    let (_folder, study, manifest) = study(&[0, 8]);
    let bytes = exported(&study, &manifest, ExportFormat::Csv);
    let mut table = csv::Reader::from_reader(bytes.as_slice());
    let headings = table.headers().expect("a header").clone();
    let at = |name: &str| headings.iter().position(|other| other == name).unwrap_or_else(|| panic!("a column {name}"));
    let (entrant, skill, score, margin, incident) =
        (at("entrant"), at("house.skill"), at("score"), at("margin"), at("incident"));
    assert!(headings.iter().all(|name| name != "decision_us"), "what differs from run to run is left out");
    let records: Vec<csv::StringRecord> = table.records().map(|record| record.expect("a record")).collect();
    assert_eq!(records.len(), 16);
    for (index, record) in records.iter().enumerate() {
        let number = index as u64 / 2;
        let whole = block(number);
        assert_eq!(&record[entrant], labels().entrants[index % 2]);
        assert_eq!(&record[skill], if number < 4 { "0.25" } else { "none" });
        assert_eq!(record[score].parse(), Ok(whole.rows[index % 2].score));
        assert_eq!(record[margin].parse(), Ok(whole.measures_of(index % 2)[1]));
        let reason = if index == 11 { "seat 1 gave up: \"no\", it said" } else { "" };
        assert_eq!(&record[incident], reason);
    }
}

#[test]
fn every_line_of_jsonl_is_an_object_with_whole_numbers_kept_whole() {
    let (_folder, study, manifest) = study(&[0, 8]);
    let text = String::from_utf8(exported(&study, &manifest, ExportFormat::Jsonl)).expect("text");
    for (index, line) in text.lines().enumerate() {
        let row: serde_json::Value = serde_json::from_str(line).expect("an object");
        let whole = block(index as u64 / 2);
        assert_eq!(row["world_seed"].as_u64(), Some(whole.rows[0].world_seed), "all 64 bits");
        assert_eq!(row["match"].as_u64(), Some(index as u64 / 2));
        assert_eq!(row["length_s"].as_f64(), Some(whole.measures_of(index % 2)[0]));
        assert_eq!(row["cut_short"].as_bool(), Some(index / 2 == 3));
    }
    assert_eq!(text.lines().count(), 16);
}

#[test]
fn a_study_with_a_gap_is_not_exported() {
    let (_folder, study, manifest) = study(&[0, 4]);
    let mut bytes = Vec::new();
    let result = export(&study, &manifest, &names(), &labels(), ExportFormat::Csv, &mut bytes);
    assert!(matches!(result, Err(LedgerError::Incomplete { missing: 4, .. })), "{result:?}");
}

fn read<D: DataType>(group: &dyn RowGroupReader, column: usize) -> (Vec<D::T>, Vec<i16>) {
    let mut reader =
        parquet::column::reader::get_typed_column_reader::<D>(group.get_column_reader(column).expect("a column"));
    let (mut values, mut levels) = (Vec::new(), Vec::new());
    reader.read_records(10, Some(&mut levels), None, &mut values).expect("it can be read");
    (values, levels)
}

#[test]
fn columns_of_a_table_read_back() {
    let columns = [
        ("position", Column::Words(vec!["a,b".into(), "c".into(), "c".into()])),
        ("visits", Column::Wholes(vec![3, 0, -1])),
        ("value", Column::Numbers(vec![Some(0.5), None, Some(-1.0)])),
    ]
    .map(|(name, column)| (name.to_string(), column));
    let bytes = columns_as_parquet(&columns).expect("they are of one length");
    let reader = SerializedFileReader::new(bytes::Bytes::from(bytes)).expect("it is a Parquet file");
    let schema = reader.metadata().file_metadata().schema_descr();
    let names: Vec<&str> = schema.columns().iter().map(|column| column.name()).collect();
    assert_eq!(names, ["position", "visits", "value"]);
    let group = reader.get_row_group(0).expect("one group");
    let words = read::<ByteArrayType>(group.as_ref(), 0).0;
    assert_eq!(words.iter().map(|text| text.as_utf8().unwrap()).collect::<Vec<_>>(), ["a,b", "c", "c"]);
    assert_eq!(read::<Int64Type>(group.as_ref(), 1).0, [3, 0, -1]);
    assert_eq!(read::<DoubleType>(group.as_ref(), 2), (vec![0.5, -1.0], vec![1, 0, 1]));
    let uneven = [("a".to_string(), Column::Wholes(vec![1])), ("b".to_string(), Column::Wholes(vec![1, 2]))];
    assert!(matches!(columns_as_parquet(&uneven), Err(LedgerError::Encode(_))));
}
