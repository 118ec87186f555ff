//! `run`: a brief, whatever its kind.

use crate::args::RunArgs;
use crate::brief::Asked;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::{brief, study, tuning};

pub(super) fn run(args: &RunArgs, desk: &Desk) -> Result<(), Failure> {
    let (text, asked) = brief::load(&args.brief, desk)?;
    let plan = match asked {
        Asked::Study(plan) => plan,
        Asked::Tune(tune) => {
            if args.print_brief {
                desk.print(brief::write_tune(&tune));
                return Ok(());
            }
            let (made, summary) = tuning::make(&tune, &text, args.name.as_deref(), desk)?;
            return study::finish(&made, &summary, desk);
        }
    };
    if args.print_brief {
        desk.print(brief::write(&plan, desk.game(&plan.ground.game)?));
        return Ok(());
    }
    let (made, summary) = study::make(&plan, &text, args.name.as_deref(), desk)?;
    study::finish(&made, &summary, desk)
}
