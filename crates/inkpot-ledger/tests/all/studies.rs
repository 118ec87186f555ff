//! Studies that are written in any order, cut, listed, removed and read by column.

use crate::common::{BLOCKS, begun, block, fill, names, rows};
use inkpot_core::Rows;
use inkpot_ledger::{Columns, Ledger, LedgerError, Machine, Manifest, Naming, Phase, Span, State};
use proptest::prelude::*;

/// Spans that cover `0..blocks` without overlap, given where it is cut.
fn spans(cuts: &[u64], blocks: u64) -> Vec<Span> {
    let mut ends: Vec<u64> = cuts.iter().map(|cut| cut % blocks).chain([0, blocks]).collect();
    ends.sort_unstable();
    ends.dedup();
    ends.windows(2).map(|pair| pair[0]..pair[1]).collect()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    #[test]
    fn parts_of_any_size_in_any_order_give_the_same_rows(cuts in prop::collection::vec(0u64..40, 0..6), order in any::<u64>()) {
        let folder = tempfile::tempdir().expect("a temporary folder");
        let (study, mut manifest) = begun(folder.path(), 40);
        let mut spans = spans(&cuts, 40);
        let turned = order as usize % spans.len();
        spans.rotate_left(turned);
        if order % 2 == 1 {
            spans.reverse();
        }
        for (written, span) in spans.iter().enumerate() {
            let missing: u64 = study.missing(&manifest, 40).iter().map(|gap| gap.end - gap.start).sum();
            let so_far: u64 = spans[..written].iter().map(|span| span.end - span.start).sum();
            prop_assert_eq!(missing, 40 - so_far);
            fill(&study, &mut manifest, span.clone());
        }
        prop_assert_eq!(study.missing(&manifest, 40), []);
        let mut whole = Rows::new(2);
        (0..40).for_each(|number| whole.append(&mut block(number)));
        prop_assert_eq!(rows(&study, &manifest), whole);
        prop_assert_eq!((manifest.blocks_done, manifest.matches_done), (40, 40));
    }

    #[test]
    fn a_stretch_gives_every_row_of_its_blocks(cuts in prop::collection::vec(0u64..40, 0..6), ends in (0u64..40, 1u64..41)) {
        let folder = tempfile::tempdir().expect("a temporary folder");
        let (study, mut manifest) = begun(folder.path(), 40);
        for span in spans(&cuts, 40) {
            fill(&study, &mut manifest, span);
        }
        let stretch = ends.0.min(ends.1 - 1)..ends.1.max(ends.0 + 1);
        let mut seen = Vec::new();
        study.visit_stretch(&manifest, &names(), None, stretch.clone(), |rows| {
            seen.extend(rows.rows.iter().map(|row| row.match_index));
            Ok(())
        }).unwrap();
        prop_assert!(stretch.clone().all(|number| seen.iter().filter(|block| **block == number).count() == 2));
        prop_assert!(seen.is_sorted());
    }
}

#[test]
fn a_stretch_with_a_gap_is_incomplete_and_one_beside_it_is_not() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = begun(folder.path(), BLOCKS);
    fill(&study, &mut manifest, 0..3);
    fill(&study, &mut manifest, 5..BLOCKS);
    let visit = |stretch: Span| study.visit_stretch(&manifest, &names(), None, stretch, |_| Ok(()));
    assert!(visit(0..3).is_ok() && visit(6..8).is_ok());
    assert!(matches!(visit(2..4), Err(LedgerError::Incomplete { missing: 1, total: BLOCKS, .. })));
    assert!(matches!(visit(0..8), Err(LedgerError::Incomplete { missing: 2, .. })));
    let message = visit(0..8).expect_err("a gap").to_string();
    assert_eq!(message, "`birds` is not complete: 2 of 8 blocks are missing");
}

#[test]
fn a_study_that_is_cut_keeps_what_begins_before() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = begun(folder.path(), BLOCKS);
    for start in [0, 2, 4, 6] {
        fill(&study, &mut manifest, start..start + 2);
    }
    study.cut(&mut manifest, 4).expect("parts can be removed");
    assert_eq!(study.missing(&manifest, BLOCKS), std::slice::from_ref(&(4..8)));
    assert_eq!((manifest.file_count(), study.parts(&manifest).len()), (3, 2), "{:?}", manifest.files);
    assert_eq!(study.changed_files(&manifest), []);
}

#[test]
fn columns_that_are_not_asked_for_are_left_empty() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = begun(folder.path(), BLOCKS);
    fill(&study, &mut manifest, 0..BLOCKS);
    let only = Columns { fields: vec!["match", "score"], measures: vec![1] };
    study
        .visit_columns(&manifest, &names(), Some(&only), |rows| {
            for (index, row) in rows.rows.iter().enumerate() {
                let whole = block(row.match_index);
                let side = index % 2;
                assert_eq!(row.score.to_bits(), whole.rows[side].score.to_bits());
                assert_eq!(rows.measures_of(index)[1].to_bits(), whole.measures_of(side)[1].to_bits());
                assert_eq!((row.ticks, row.incident.as_deref()), (0, None));
            }
            Ok(())
        })
        .expect("the study is complete");
}

#[test]
fn a_manifest_comes_back_as_it_was_written() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = begun(folder.path(), BLOCKS);
    manifest.phase = Phase::Search;
    manifest.state = State::Interrupted;
    manifest.seed = u64::MAX;
    manifest.seconds = 0.1 + 0.2;
    manifest.machine = Machine { os: "linux".into(), arch: "x86_64".into(), threads: 2 };
    study.write_manifest(&manifest).expect("the folder can be written");
    assert_eq!(study.manifest().expect("it can be read"), manifest);
}

#[test]
fn a_complete_study_has_a_checksum_of_all_it_was_made_from() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = begun(folder.path(), 2);
    study.write("notes.txt", b"mine").expect("the folder can be written");
    study.write_kept(&mut manifest, "standin.toml", b"kind = 1\n").expect("the folder can be written");
    fill(&study, &mut manifest, 0..2);
    study.complete(&mut manifest, "{}\n").expect("the folder can be written");
    let names: Vec<&str> = manifest.files.keys().map(String::as_str).collect();
    assert_eq!(names, ["brief.toml", "rows/parts.txt", "standin.toml", "summary.json"]);
    assert!(manifest.ended.is_some());
    std::fs::write(study.folder().join("brief.toml"), "other").expect("the file is written");
    std::fs::remove_file(study.folder().join("standin.toml")).expect("the file is there");
    let changed: Vec<String> =
        study.changed_files(&manifest).into_iter().map(|(name, why)| format!("{name}: {why}")).collect();
    assert_eq!(
        changed,
        ["brief.toml: its bytes are not those that were written", "standin.toml: it is missing or cannot be read"]
    );
}

fn make(ledger: &Ledger, naming: Naming) -> String {
    let begun = ledger.begin(naming).expect("the folder can be written");
    let manifest = Manifest::begin("batch", "piste", 1, 1, Machine::default());
    begun.settle(manifest).expect("the name is free").0.name().to_string()
}

#[test]
fn a_ledger_lists_what_has_a_manifest_and_suggests_a_name() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let ledger = Ledger::at(folder.path());
    assert_eq!(ledger.names().expect("no folder is an empty ledger"), Vec::<String>::new());
    for name in ["skill", "how-hard"] {
        make(&ledger, Naming::Named(name));
    }
    std::fs::create_dir(folder.path().join("figures")).expect("the folder is made");
    std::fs::write(folder.path().join("figures/one.svg"), "<svg/>").expect("the file is written");
    assert_eq!(ledger.names().expect("it can be read"), ["how-hard", "skill"]);
    let message = |name: &str| ledger.open(name).expect_err("no such study").to_string();
    assert!(message("skil").ends_with("did you mean `skill`?"), "{}", message("skil"));
    assert!(message("figures").contains("there is no study `figures`"), "{}", message("figures"));
    ledger.remove("skill").expect("it can be removed");
    assert_eq!(ledger.names().expect("it can be read"), ["how-hard"]);
}

#[test]
fn two_that_create_one_name_do_not_both_get_it() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let ledger = Ledger::at(folder.path());
    let made: Vec<String> = std::thread::scope(|scope| {
        let make_ten = || (0..10).map(|_| make(&ledger, Naming::Numbered("batch-piste")));
        let threads: Vec<_> = (0..4).map(|_| scope.spawn(move || make_ten().collect::<Vec<_>>())).collect();
        threads.into_iter().flat_map(|thread| thread.join().expect("no panic")).collect()
    });
    let mut names = made.clone();
    names.sort();
    names.dedup();
    assert_eq!(names.len(), 40, "{made:?}");
}
