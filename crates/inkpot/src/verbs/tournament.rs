//! `tournament`: ranks a field.

use inkpot_lab::{KindDraft, Place, TournamentDraft};

use super::Typed;
use crate::args::TournamentArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::pool::Pool;

pub(super) fn run(args: &TournamentArgs, desk: &Desk) -> Result<(), Failure> {
    let draft = TournamentDraft { format: Some(args.format.into()), rounds: args.rounds, anchor: args.anchor.clone() };
    let kind = KindDraft::Tournament(draft);
    let mut typed = Typed::new(kind, &args.game, &args.entrants, &args.study.setting, desk)?;
    if let Some(path) = &args.pool {
        let pool = Pool::load(path, desk)?;
        for place in 0..pool.entrants.len() {
            let entrant = Place::item("entrant", args.entrants.len() + place);
            typed.argument(entrant, Some(format!("--pool {}", path.display())));
        }
        pool.enter(&mut typed.draft)?;
    }
    typed.argument("rounds", args.rounds.map(|rounds| format!("--rounds {rounds}")));
    typed.argument("anchor", args.anchor.as_ref().map(|anchor| format!("--anchor {anchor}")));
    typed.study(&args.study, desk)
}
