//! `resume`: goes on where a study stopped.

use crate::args::StudyArg;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::study;

pub(super) fn run(args: &StudyArg, desk: &Desk) -> Result<(), Failure> {
    let stored = desk.ledger.open(&args.study)?;
    let summary = study::resume(&stored, desk)?;
    study::finish(&stored, &summary, Ok(()), desk)
}
