//! `sweep`: the effect of a knob.

use inkpot_lab::{KindDraft, Place, SweepDraft};

use super::Typed;
use crate::args::SweepArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::spec;

pub(super) fn run(args: &SweepArgs, desk: &Desk) -> Result<(), Failure> {
    let entrants: Vec<String> = std::iter::once(&args.entrant).chain(&args.against).cloned().collect();
    let vary = args.vary.iter().map(|text| spec::vary(text)).collect::<Result<_, _>>()?;
    let kind = KindDraft::Sweep(SweepDraft { vary, target: args.target });
    let mut typed = Typed::new(kind, &args.game, &entrants, &args.study.setting, desk)?;
    for (index, text) in args.vary.iter().enumerate() {
        typed.argument(Place::item("vary", index), Some(format!("--vary {text}")));
    }
    typed.argument("target", args.target.map(|target| format!("--target {target}")));
    typed.study(&args.study, desk)
}
