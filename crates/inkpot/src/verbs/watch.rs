//! `watch`: a match before somebody's eyes in the terminal.

use std::io::IsTerminal;

use inkpot_core::HeldMatch;
use inkpot_lab::StudyPlan;

use super::{matches, stored_match};
use crate::args::WatchArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::hint;
use crate::live::{About, Left, Live};

/// Seconds that each turn stays, where nothing is said.
const TURN_S: f64 = 0.8;

pub(super) fn run(args: &WatchArgs, desk: &Desk) -> Result<(), Failure> {
    let first = &args.what[0];
    let stored = super::replay::is_match(first);
    let chosen_match = if stored {
        if let Some(more) = args.what.get(1) {
            return Err(Failure::wrong(
                format!("`watch` shows one match, and `{more}` is one more"),
                format!("{} sets several side by side", hint::command(["replay"])),
            ));
        }
        super::replay::stored_as_it_was(&args.setting)?;
        stored_match(first, desk)?
    } else {
        matches::fresh(first, &args.what[1..], &args.setting, desk)?
    };
    let ground = &chosen_match.plan.ground;
    let rate = desk.game(&ground.game)?.sheet().ticks_per_second;
    if rate.is_none() && args.pace.is_some() {
        return Err(no_pace(ground.game.name()));
    }
    if rate.is_some() && args.delay.is_some() {
        let what = format!("`{}` is a real-time game; `--delay` is for games of turns", ground.game);
        return Err(Failure::wrong(what, "set `--pace`, as in `--pace 0.5`"));
    }
    let held = chosen_match.open(desk)?;
    let names = names(&chosen_match.plan, held.as_ref());
    if let Some(seat) = args.thoughts.filter(|seat| *seat >= names.len()) {
        return Err(no_seat(seat, names.len()));
    }
    terminal(
        "watch",
        &format!("{} writes a page, {} tells a match as text", hint::command(["replay"]), hint::command(["match"])),
    )?;
    let pace = if rate.is_some() { args.pace.unwrap_or(1.0) } else { 1.0 / args.delay.unwrap_or(TURN_S).max(1e-3) };
    let about = About {
        title: format!("{} on {}", ground.game, ground.level),
        names,
        rate,
        after: "The match is over: q leaves.".into(),
        color: desk.color,
    };
    let mut live = Live::new(held, about, None, pace);
    if let Some(seat) = args.thoughts {
        live.show(seat);
    }
    match live.run(Desk::halt_on_interrupt()).map_err(|error| drawn(&error))? {
        Left::Over | Left::Away => Ok(()),
        Left::Stopped => Err(Failure::Interrupted("interrupted".into())),
    }
}

/// Names by seat.
pub(super) fn names(plan: &StudyPlan, held: &dyn HeldMatch) -> Vec<String> {
    (0..held.seats()).map(|seat| plan.entrants[usize::from(held.entrant(seat))].name.clone()).collect()
}

/// A pace for a game that has none.
pub(super) fn no_pace(game: &str) -> Failure {
    let help = format!("leave it out; in {} `--delay` sets how long a turn stays", hint::command(["watch"]));
    Failure::wrong(format!("`{game}` goes by turns: `--pace` is for games in real time"), help)
}

/// A seat that does not exist.
pub(super) fn no_seat(seat: usize, seats: usize) -> Failure {
    let help = match seats {
        1 => "the only seat is 0".to_string(),
        _ => format!("seats are counted from 0 to {}", seats - 1),
    };
    Failure::wrong(format!("the match has no seat {seat}"), help)
}

/// A terminal that cannot be drawn on.
pub(super) fn drawn(error: &std::io::Error) -> Failure {
    Failure::Failed(format!("the terminal cannot be drawn on: {error}"))
}

/// Errs where there is no terminal to draw on and to listen to.
pub(super) fn terminal(verb: &str, help: &str) -> Result<(), Failure> {
    if std::io::stdout().is_terminal() && std::io::stdin().is_terminal() {
        return Ok(());
    }
    Err(Failure::wrong(format!("`{verb}` needs a terminal for its input and output"), help))
}
