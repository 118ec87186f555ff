//! `compare`: which of two is better.

use inkpot_lab::{CompareDraft, KindDraft};

use super::Typed;
use crate::args::CompareArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::{junit, study};

pub(super) fn run(args: &CompareArgs, desk: &Desk) -> Result<(), Failure> {
    let [game, x, y] = args.what.as_slice() else {
        return super::compare_stored::run(args, desk);
    };
    let entrants: Vec<String> = [x, y].into_iter().chain(&args.against).cloned().collect();
    let draft = CompareDraft {
        until_clear: args.until.is_some(),
        equal_within: args.equal_within,
        require: args.require.map(Into::into),
        smallest: args.smallest,
    };
    let mut typed = Typed::new(KindDraft::Compare(draft), game, &entrants, &args.study.setting, desk)?;
    typed.argument("equal_within", args.equal_within.map(|within| format!("--equal-within {within}")));
    typed.argument("smallest", args.smallest.map(|smallest| format!("--smallest {smallest}")));
    let Some((made, summary)) = typed.made(&args.study, desk)? else { return Ok(()) };
    let write = |comparison| junit::write(args.junit.as_deref(), made.name(), comparison, summary.confidence);
    let written = summary.comparison().map_or(Ok(()), write);
    study::finish(&made, &summary, written, desk)
}
