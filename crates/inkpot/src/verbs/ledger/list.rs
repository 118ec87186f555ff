//! `ledger list`: all studies.

use inkpot_ledger::{LedgerError, Manifest, Phase};

use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::count;
use crate::show::table::{Column, table};
use crate::{hint, searching};

pub(super) fn run(desk: &Desk) -> Result<(), Failure> {
    let mut found: Vec<(String, Result<Manifest, LedgerError>)> = Vec::new();
    for name in desk.ledger.names()? {
        let manifest = desk.ledger.open(&name).and_then(|study| study.manifest());
        found.push((name, manifest));
    }
    if desk.json {
        let list: Vec<serde_json::Value> = found
            .iter()
            .map(|(name, manifest)| match manifest {
                Ok(manifest) => serde_json::json!(manifest),
                Err(error) => serde_json::json!({ "study": name, "error": error.to_string() }),
            })
            .collect();
        desk.print_json(&list.into());
        return Ok(());
    }
    if found.is_empty() {
        let (batch, run) = (hint::on_ledger(["batch"]), hint::on_ledger(["run"]));
        desk.print(format!("No studies in {} yet; {batch} or {run} makes one.", desk.ledger.folder().display()));
        return Ok(());
    }
    let rows: Vec<Vec<String>> = found.iter().map(|found| row(found, desk)).collect();
    let columns = vec![
        Column::text("Study"),
        Column::text("Kind"),
        Column::text("Game"),
        Column::figure("Matches"),
        Column::text("State"),
        Column::text("Begun (UTC)"),
    ];
    desk.print(table(columns, rows, desk.color));
    Ok(())
}

/// Describes the state and progress of a study.
fn state(name: &str, manifest: &Manifest, desk: &Desk) -> String {
    let word = manifest.state.word();
    let searched = (manifest.phase == Phase::Search).then(|| desk.ledger.open(name).ok()).flatten();
    if let Some(study) = searched {
        return match searching::progress(&study, manifest, desk) {
            Some(share) => format!("{word}, search at {:.0} %", (100.0 * share).floor()),
            None => format!("{word}, in its search"),
        };
    }
    match manifest.blocks_done {
        done if done < manifest.blocks => format!("{word}, {} %", done * 100 / manifest.blocks),
        _ => word.into(),
    }
}

fn row((name, manifest): &(String, Result<Manifest, LedgerError>), desk: &Desk) -> Vec<String> {
    match manifest {
        Ok(manifest) => vec![
            name.clone(),
            manifest.kind.clone(),
            manifest.game.clone(),
            count(manifest.matches_done),
            state(name, manifest, desk),
            manifest.started.replace('T', " ").trim_end_matches('Z').to_string(),
        ],
        Err(LedgerError::NewerFormat { .. }) => unreadable(name, "of a newer Inkpot"),
        Err(LedgerError::OlderFormat { .. }) => unreadable(name, "of an older Inkpot"),
        Err(LedgerError::Leftover { .. }) => unreadable(name, "left over, without a manifest"),
        Err(_) => unreadable(name, "damaged manifest"),
    }
}

/// The row of a study of which no more is known than its state.
fn unreadable(name: &str, state: &str) -> Vec<String> {
    let mut row = vec![String::new(); 6];
    (row[0], row[4]) = (name.into(), state.into());
    row
}
