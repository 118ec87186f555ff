//! `evolve`: a search for an agent by evolution.

use inkpot_lab::StudyKind;

use super::of_kind;
use crate::args::EvolveArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::{briefs, study};

pub(super) fn run(args: &EvolveArgs, desk: &Desk) -> Result<(), Failure> {
    let (text, asked) = briefs::load(&args.brief, desk)?;
    of_kind(&asked, StudyKind::Evolve, "this is not an evolution", &args.brief)?;
    if args.print_brief {
        desk.print(study::resolved(&asked, desk)?);
        return Ok(());
    }
    let (made, summary) = study::make_asked(&asked, &text, args.name.as_deref(), desk)?;
    study::finish(&made, &summary, Ok(()), desk)
}
