//! `run`: a brief, whatever its kind.

use crate::args::RunArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::{brief, study};

pub(super) fn run(args: &RunArgs, desk: &Desk) -> Result<(), Failure> {
    let (text, plan) = brief::load(&args.brief, desk)?;
    if args.print_brief {
        desk.print(brief::write(&plan, desk.game(&plan.game)?));
        return Ok(());
    }
    let (made, summary) = study::make(&plan, &text, args.name.as_deref(), desk)?;
    study::finish(&made, &summary, desk)
}
