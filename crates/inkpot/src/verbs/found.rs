//! `evolve` and `train`: searches for an agent.

use inkpot_lab::StudyKind;

use super::of_kind;
use crate::args::FoundArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::{briefs, study};

pub(super) fn run(kind: StudyKind, args: &FoundArgs, desk: &Desk) -> Result<(), Failure> {
    let (text, parsed) = briefs::load(&args.brief, desk)?;
    let wrong = if kind == StudyKind::Train { "this is not a training" } else { "this is not an evolution" };
    of_kind(&parsed, kind, wrong, &args.brief)?;
    if args.print_brief {
        desk.print(study::resolved(&parsed, desk)?);
        return Ok(());
    }
    let (made, summary) = study::make_asked(&parsed, &text, args.name.as_deref(), desk)?;
    study::finish(&made, &summary, Ok(()), desk)
}
