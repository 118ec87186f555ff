//! `ledger`: list, show, export, verify and remove studies.

mod export;
mod list;
mod show;
mod verify;

use crate::args::{LedgerVerb, RemoveArgs};
use crate::desk::Desk;
use crate::failure::Failure;

pub(super) fn run(verb: &LedgerVerb, desk: &Desk) -> Result<(), Failure> {
    match verb {
        LedgerVerb::List(_) => list::run(desk),
        LedgerVerb::Show(args) => show::run(args, desk),
        LedgerVerb::Export(args) => export::run(args, desk),
        LedgerVerb::Verify(args) => verify::run(args, desk),
        LedgerVerb::Remove(args) => remove(args, desk),
    }
}

fn remove(args: &RemoveArgs, desk: &Desk) -> Result<(), Failure> {
    let studies = args.studies.iter().map(|name| desk.ledger.open(name)).collect::<Result<Vec<_>, _>>()?;
    for study in &studies {
        let lock = study.lock()?;
        desk.ledger.remove(study)?;
        drop(lock);
        desk.say(format!("removed {}", study.name()));
    }
    if desk.json {
        desk.print_json(&serde_json::json!({ "removed": args.studies }));
    }
    Ok(())
}
