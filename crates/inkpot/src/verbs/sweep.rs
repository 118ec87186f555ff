//! `sweep`: what a knob does.

use inkpot_lab::StudyKind;

use super::Typed;
use crate::args::SweepArgs;
use crate::desk::Desk;
use crate::failure::Failure;

pub(super) fn run(args: &SweepArgs, desk: &Desk) -> Result<(), Failure> {
    let entrants: Vec<String> = std::iter::once(&args.entrant).chain(&args.against).cloned().collect();
    let mut typed = Typed::new(StudyKind::Sweep, &args.game, &entrants, &args.study.setting, desk)?;
    typed.vary(&args.vary)?;
    typed.draft.target = args.target;
    if let Some(target) = args.target {
        typed.arguments.insert("target".into(), format!("--target {target}"));
    }
    typed.study(&args.study, desk)
}
