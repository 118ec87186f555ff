//! `tournament`: ranks a field.

use inkpot_lab::StudyKind;

use super::Typed;
use crate::args::TournamentArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::pool::Pool;

pub(super) fn run(args: &TournamentArgs, desk: &Desk) -> Result<(), Failure> {
    let mut typed = Typed::new(StudyKind::Tournament, &args.game, &args.entrants, &args.study.setting, desk)?;
    typed.draft.format = Some(args.format.into());
    typed.draft.rounds = args.rounds;
    typed.draft.anchor.clone_from(&args.anchor);
    if let Some(path) = &args.pool {
        let pool = Pool::load(path, desk)?;
        for place in 0..pool.entrants.len() {
            typed
                .arguments
                .insert(format!("entrant[{}]", args.entrants.len() + place), format!("--pool {}", path.display()));
        }
        pool.enter(&mut typed.draft)?;
    }
    typed.argument("rounds", args.rounds.map(|rounds| format!("--rounds {rounds}")));
    typed.argument("anchor", args.anchor.as_ref().map(|anchor| format!("--anchor {anchor}")));
    typed.study(&args.study, desk)
}
