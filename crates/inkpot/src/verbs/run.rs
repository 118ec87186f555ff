//! `run`: a brief, whatever its kind.

use crate::args::RunArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::{briefs, study};

pub(super) fn run(args: &RunArgs, desk: &Desk) -> Result<(), Failure> {
    let (text, asked) = briefs::load(&args.brief, desk)?;
    if args.print_brief {
        desk.print(study::resolved(&asked, desk)?);
        return Ok(());
    }
    let (made, summary) = study::make_asked(&asked, &text, args.name.as_deref(), desk)?;
    study::finish(&made, &summary, Ok(()), desk)
}
