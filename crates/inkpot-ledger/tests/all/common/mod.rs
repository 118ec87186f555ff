//! Made-up studies, and folders as they are at a moment.

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

use inkpot_core::{Outcome, Row, Rows};
use inkpot_ledger::{Ledger, Machine, Manifest, Naming, PartWriter, Span, Study};

/// Blocks of the study.
pub(crate) const BLOCKS: u64 = 8;

/// Names of its measures.
pub(crate) fn names() -> Vec<String> {
    vec!["length_s".into(), "margin".into()]
}

/// The rows of a block: one match of two seats, a function of the number alone.
pub(crate) fn block(number: u64) -> Rows {
    let row = |seat: u16| Row {
        cell: (number / 4) as u32,
        block: number % 4,
        rotation: 0,
        match_index: number,
        seat,
        entrant: seat,
        world_seed: number.wrapping_mul(0x9e37_79b9_7f4a_7c15),
        score: number as f64 + 0.5 * f64::from(seat),
        outcome: if (number + u64::from(seat)).is_multiple_of(2) { Outcome::Win } else { Outcome::Loss },
        placement: 1 + seat,
        ticks: 100 + number,
        ending: "touches".into(),
        cut_short: number == 3,
        faults: 0,
        late: 0,
        crashed: 0,
        decision_us: 0.25,
        decision_times: None,
        nodes: 0.0,
        leads: None,
        choices: None,
        incident: (number == 5 && seat == 1).then(|| "seat 1 gave up: \"no\", it said".to_string()),
    };
    let measures = (0..4).map(|x| number as f64 / 3.0 + f64::from(x)).collect();
    Rows { rows: vec![row(0), row(1)], measures, width: 2 }
}

/// A study that is begun.
pub(crate) fn begun(ledger: &Path, blocks: u64) -> (Study, Manifest) {
    let ledger = Ledger::at(ledger);
    let begun = ledger.begin(Naming::Named("birds")).expect("the name is free");
    begun.study().write("brief.toml", b"kind = \"batch\"\n").expect("the folder can be written");
    let manifest = Manifest::begin("batch", "piste", 11, blocks, Machine::default());
    let (study, manifest, _) = begun.settle(manifest).expect("the folder can be renamed");
    (study, manifest)
}

/// Plays these blocks into one part.
pub(crate) fn fill(study: &Study, manifest: &mut Manifest, span: Span) {
    let names = names();
    let mut writer = PartWriter::new(study, &names, manifest);
    for number in span {
        writer.take(number..number + 1, &mut block(number)).expect("the folder can be written");
    }
    writer.flush().expect("the folder can be written");
}

/// Goes on with a study as a runner does: damaged parts aside, what is missing played, summed up.
pub(crate) fn gone_on(study: &Study) -> Manifest {
    let mut manifest = study.manifest().expect("the manifest can be read");
    study.mend(&mut manifest, &names()).expect("parts can be renamed");
    for gap in study.missing(&manifest, manifest.blocks) {
        fill(study, &mut manifest, gap);
    }
    study.complete(&mut manifest, "{\"found\": 1}\n").expect("the folder can be written");
    manifest
}

/// All rows of a complete study.
pub(crate) fn rows(study: &Study, manifest: &Manifest) -> Rows {
    let mut all = Rows::new(names().len());
    study
        .visit(manifest, &names(), |rows| {
            all.append(&mut rows.clone());
            Ok(())
        })
        .expect("the study is complete");
    all
}

/// All files of a folder at a moment, by their paths in it.
pub(crate) type Files = BTreeMap<PathBuf, Vec<u8>>;

/// The files of a folder.
pub(crate) fn files(folder: &Path) -> Files {
    let mut found = Files::new();
    let mut open = vec![folder.to_path_buf()];
    while let Some(inner) = open.pop() {
        for entry in fs::read_dir(&inner).expect("the folder can be read") {
            let path = entry.expect("the entry can be read").path();
            if path.is_dir() {
                open.push(path);
            } else {
                let name = path.strip_prefix(folder).expect("it is in the folder").to_path_buf();
                found.insert(name, fs::read(&path).expect("the file can be read"));
            }
        }
    }
    found
}

/// A folder with these files.
pub(crate) fn laid(files: &Files) -> tempfile::TempDir {
    let folder = tempfile::tempdir().expect("a temporary folder");
    for (name, bytes) in files {
        let path = folder.path().join(name);
        fs::create_dir_all(path.parent().expect("it is in a folder")).expect("the folder is made");
        fs::write(path, bytes).expect("the file is written");
    }
    folder
}
