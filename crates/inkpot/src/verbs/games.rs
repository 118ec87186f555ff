//! `games`: what games there are.

use crate::args::GamesArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::describe;

pub(super) fn run(args: &GamesArgs, desk: &Desk) -> Result<(), Failure> {
    match &args.game {
        None if desk.json => {
            desk.print_json(&desk.registry.games().map(describe::game_json).collect::<Vec<_>>().into());
        }
        None => {
            desk.print(describe::games(desk.registry.games(), desk.color));
            desk.print("\n`inkpot games GAME` shows rules, levels and measures.");
        }
        Some(name) if desk.json => desk.print_json(&describe::game_json(desk.game(name)?)),
        Some(name) => desk.print(describe::game(desk.game(name)?, desk.color)),
    }
    Ok(())
}
