//! `ledger`: list, show, export, verify and remove studies.

mod champion;
mod export;
mod list;
mod show;
mod verify;

use inkpot_ledger::LedgerError;

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
    // A name that is wrong removes nothing.
    for name in &args.studies {
        match desk.ledger.open(name) {
            Ok(_) | Err(LedgerError::Leftover { .. }) => {}
            Err(other) => return Err(other.into()),
        }
    }
    for name in &args.studies {
        desk.ledger.remove(name)?;
        desk.say(format!("removed {name}"));
    }
    if desk.json {
        desk.print_json(&serde_json::json!({ "removed": args.studies }));
    }
    Ok(())
}
