//! `run`: a brief of any kind.

use crate::args::RunArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::{briefs, study};

pub(super) fn run(args: &RunArgs, desk: &Desk) -> Result<(), Failure> {
    let (text, parsed) = briefs::load(&args.brief, desk)?;
    if args.print_brief {
        desk.print(study::resolved(&parsed, desk)?);
        return Ok(());
    }
    let (made, summary) = study::make_asked(&parsed, &text, args.name.as_deref(), desk)?;
    study::finish(&made, &summary, Ok(()), desk)
}
