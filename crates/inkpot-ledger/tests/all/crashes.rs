//! A process that dies, or a machine that loses power, at every step of writing a study.

use std::fs;
use std::path::{Path, PathBuf};

use crate::common::{BLOCKS, Files, begun, block, files, fill, gone_on, laid, names, rows};
use inkpot_core::Rows;
use inkpot_ledger::{Ledger, LedgerError, State};

/// The list of parts, which is appended.
const LIST: &str = "rows/parts.txt";

/// The files of a ledger after each file that was written, in order of writing.
fn written_one_by_one() -> Vec<Files> {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = begun(folder.path(), BLOCKS);
    let mut moments = vec![files(folder.path())];
    let mut keep = |order: &[&str]| {
        // Several files may have been written since: each had its moment, in this order.
        let after = files(folder.path());
        let mut moment = moments.last().expect("a first moment").clone();
        for name in order {
            let path = Path::new("birds").join(name);
            let bytes = after.get(&path).unwrap_or_else(|| panic!("{name} was written")).clone();
            moment.insert(path, bytes);
            moments.push(moment.clone());
        }
        assert_eq!(moment, after, "nothing else was written");
    };
    for (span, part) in [
        (0..3, "rows/blocks-000000000000-000000000003.parquet"),
        (3..8, "rows/blocks-000000000003-000000000008.parquet"),
    ] {
        fill(&study, &mut manifest, span);
        keep(&[part, LIST]);
    }
    study.complete(&mut manifest, "{\"found\": 1}\n").expect("the folder can be written");
    keep(&["summary.json", "manifest.json"]);
    moments
}

/// The one file that differs between two moments, with its bytes after.
fn changed(before: &Files, after: &Files) -> (PathBuf, Vec<u8>) {
    let mut changed = after.iter().filter(|(name, bytes)| before.get(*name) != Some(*bytes));
    let (name, bytes) = changed.next().expect("a file was written");
    assert!(changed.next().is_none(), "one file at a time");
    (name.clone(), bytes.clone())
}

/// Its name while it is written aside.
fn aside(path: &Path) -> PathBuf {
    let name = path.file_name().expect("a file has a name").to_string_lossy();
    path.with_file_name(format!(".{name}.Xa9.aside"))
}

/// Everything that a death between two moments can leave: the file aside, cut anywhere, or whole and not renamed yet; of
/// what is appended, any part of it.
fn deaths(before: &Files, after: &Files) -> Vec<Files> {
    let (name, bytes) = changed(before, after);
    let cuts = [0, 1, bytes.len() / 2, bytes.len() - 1, bytes.len()];
    let old = before.get(&name).map_or(0, Vec::len);
    let left = cuts.map(|cut| {
        let mut files = before.clone();
        if name.ends_with(LIST) {
            files.insert(name.clone(), bytes[..cut.max(old)].to_vec());
        } else {
            files.insert(aside(&name), bytes[..cut].to_vec());
        }
        files
    });
    left.into_iter().chain([before.clone(), after.clone()]).collect()
}

fn whole() -> Rows {
    let mut all = Rows::new(2);
    (0..BLOCKS).for_each(|number| all.append(&mut block(number)));
    all
}

#[test]
fn a_death_at_any_step_of_writing_loses_at_most_what_was_not_written_yet() {
    let moments = written_one_by_one();
    assert_eq!(moments.len(), 7, "a study begun, two parts with the list after each, a summary with the manifest");
    let mut tried = 0;
    for pair in moments.windows(2) {
        for left in deaths(&pair[0], &pair[1]) {
            let folder = laid(&left);
            let study = Ledger::at(folder.path()).open("birds").expect("the study is there");
            let parts = left.keys().filter(|name| name.extension().is_some_and(|ending| ending == "parquet")).count();
            let manifest = study.manifest().expect("the manifest is whole");
            let (known, strays) =
                (study.parts(&manifest).len(), study.strays(&manifest).expect("it can be read").len());
            assert_eq!(known + strays, parts, "what stands aside is no part");
            let manifest = gone_on(&study);
            assert!(!files(folder.path()).keys().any(|name| name.to_string_lossy().ends_with(".aside")));
            assert_eq!(rows(&study, &manifest), whole());
            assert_eq!((manifest.state, manifest.blocks_done), (State::Complete, BLOCKS));
            assert_eq!(study.changed_files(&manifest), []);
            tried += 1;
        }
    }
    assert_eq!(tried, 6 * 7);
}

#[test]
fn a_part_that_is_not_listed_is_played_again_whatever_its_bytes() {
    let moments = written_one_by_one();
    // The part is renamed, and the process dies before it is listed; then a bit rots.
    let (name, bytes) = changed(&moments[2], &moments[3]);
    for at in [None, Some(0), Some(bytes.len() / 3), Some(bytes.len() - 9)] {
        let mut rotten = bytes.clone();
        if let Some(at) = at {
            rotten[at] ^= 4;
        }
        let mut files = moments[2].clone();
        files.insert(name.clone(), rotten);
        let folder = laid(&files);
        let study = Ledger::at(folder.path()).open("birds").expect("the study is there");
        let mut manifest = study.manifest().expect("the manifest is whole");
        assert_eq!(study.missing(&manifest, BLOCKS), std::slice::from_ref(&(3..8)));
        assert_eq!(study.strays(&manifest).expect("the folder can be read").len(), 1);
        assert_eq!(study.mend(&mut manifest, &names()).expect("files can be removed"), Vec::<String>::new());
        assert_eq!(manifest.blocks_done, 3);
        let manifest = gone_on(&study);
        assert_eq!(rows(&study, &manifest), whole());
        assert_eq!(study.strays(&manifest).expect("the folder can be read"), Vec::<String>::new());
    }
}

#[test]
fn a_flipped_bit_in_any_part_is_seen() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = begun(folder.path(), BLOCKS);
    fill(&study, &mut manifest, 0..BLOCKS);
    let part = study.parts(&manifest).remove(0);
    let bytes = fs::read(&part.path).expect("the part is there");
    for at in (0..bytes.len()).step_by(97) {
        let mut flipped = bytes.clone();
        flipped[at] ^= 1 << (at % 8);
        fs::write(&part.path, flipped).expect("the part can be written");
        let read = study.read_part(&part, &manifest, &names());
        assert!(matches!(read, Err(LedgerError::DamagedPart { .. })), "byte {at}");
        assert_eq!(study.changed_files(&manifest).len(), 1, "byte {at}");
    }
    fs::write(&part.path, bytes).expect("the part can be written");
    assert!(study.read_part(&part, &manifest, &names()).is_ok());
}

#[test]
fn a_damaged_manifest_is_an_error_that_names_it() {
    let moments = written_one_by_one();
    let last = moments.last().expect("moments");
    let manifest = PathBuf::from("birds/manifest.json");
    for cut in [0, 1, last[&manifest].len() / 2, last[&manifest].len() - 3] {
        let mut files = last.clone();
        files.insert(manifest.clone(), last[&manifest][..cut].to_vec());
        let folder = laid(&files);
        let study = Ledger::at(folder.path()).open("birds").expect("the study is there");
        let message = study.manifest().expect_err("it is cut short").to_string();
        assert!(message.contains("manifest.json is damaged"), "{message}");
    }
}

#[test]
fn a_write_that_cannot_be_made_is_told_and_leaves_the_file_as_it_was() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = begun(folder.path(), BLOCKS);
    study.write("history.csv", b"round\n1\n").expect("the folder can be written");
    // A folder stands where the file should be.
    fs::create_dir(study.folder().join("notes.csv")).expect("the folder is made");
    let error = study.write("notes.csv", b"round\n1\n2\n").expect_err("it cannot be written");
    assert!(error.to_string().ends_with("it is a folder, not a file"), "{error}");
    assert_eq!(study.read_text("history.csv").expect("it is there"), "round\n1\n");
    // A file stands where the folder of the parts would be.
    fs::write(study.folder().join("rows"), "no folder").expect("the file is written");
    let names = names();
    let mut writer = inkpot_ledger::PartWriter::new(&study, &names, &mut manifest);
    writer.take(0..1, &mut block(0)).expect("it is only held");
    let error = writer.flush().expect_err("it cannot be written");
    assert!(error.to_string().contains("a file is where a folder should be"), "{error}");
    assert_eq!(
        study.manifest().expect("the manifest is whole").blocks_done,
        0,
        "nothing is claimed that was not written"
    );
}
