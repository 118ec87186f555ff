//! `batch`: many matches, every pair of entrants meets.

use inkpot_lab::KindDraft;

use super::Typed;
use crate::args::BatchArgs;
use crate::desk::Desk;
use crate::failure::Failure;

pub(super) fn run(args: &BatchArgs, desk: &Desk) -> Result<(), Failure> {
    Typed::new(KindDraft::Batch, &args.game, &args.entrants, &args.study.setting, desk)?.study(&args.study, desk)
}
