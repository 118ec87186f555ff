//! A checked match: the common promises are tested at every tick.

use std::fmt::Write;

use serde::Serialize;
use serde::de::DeserializeOwned;

use super::broken::{Broken, in_words};
use crate::{
    Acting, Advance, Agent, Chance, Choices, Entry, Game, GameFactory, Knobs, Laying, MeasureOf, Person, Playable,
    Seat, Sight, Streams,
};

/// Draws an action that the game has to take as legal.
pub(super) type Draw<G> = fn(&G, Seat, &mut Chance) -> <G as Game>::Action;

/// The source of choices in a walk.
pub(super) enum Mover<G: Game> {
    /// Chance, by this way to draw.
    Draw(Draw<G>),
    /// An agent for each seat, and its name.
    Agents { name: String, seats: Vec<Box<dyn Agent<G>>> },
}

impl<G: Playable> Mover<G> {
    /// An agent kind of the game in all seats: the next one for each match.
    pub(super) fn agents(entry: &Entry<G>, number: u64, laying: &Laying) -> Result<Self, Broken> {
        let kinds: Vec<_> = entry.kinds().iter().filter(|kind| kind.sheet().plays_by_default()).collect();
        let Some(kind) = kinds.get(number as usize % kinds.len().max(1)) else {
            let what = "it has no agent to play it; register one by `.agent(...)`, or call `.options()`".into();
            return Err(Broken { at: "before the first match".into(), what });
        };
        let name = kind.sheet().name.clone();
        let make = kind.made(&Knobs::default(), laying);
        let make = make.map_err(|errors| Broken { at: format!("agent `{name}`"), what: in_words(&errors) })?;
        let streams = Streams::of_study(number);
        let person = |seat| Person { chance: streams.person(0, seat), matches_before: 0 };
        let broken = |what: String| Broken { at: format!("agent `{name}`"), what };
        let made =
            (0..*entry.seats().end()).map(|seat| make(person(seat)).map_err(|failed| broken(failed.to_string())));
        let seats = made.collect::<Result<_, _>>()?;
        Ok(Self::Agents { name, seats })
    }

    fn begin(&mut self, seats: usize, number: u64) {
        if let Self::Agents { seats: agents, .. } = self {
            let streams = Streams::of_study(number);
            agents.iter_mut().take(seats).enumerate().for_each(|(seat, agent)| {
                agent.begin(seat, streams.seat(0, 0, seat));
            });
        }
    }

    fn choose(&mut self, game: &G, seat: Seat, tick: u64, chance: &mut Chance) -> Result<G::Action, String> {
        match self {
            Self::Draw(draw) => Ok(draw(game, seat, chance)),
            Self::Agents { name, seats } => {
                let sight = Sight::new(game, seat, tick);
                seats[seat].choose(&sight).map_err(|reason| format!("`{name}` {reason}"))
            }
        }
    }

    fn who(&self, seat: Seat) -> String {
        match self {
            Self::Draw(_) => format!("seat {seat}, which was offered it,"),
            Self::Agents { name, .. } => format!("`{name}` in seat {seat}"),
        }
    }
}

/// Plays match `number`, of at most `ticks` ticks, and shows every state to `look`. Errs with the tick and the problem.
pub(super) fn walk<G: Playable>(
    entry: &Entry<G>,
    lay: &GameFactory<G>,
    number: u64,
    ticks: u64,
    mover: &mut Mover<G>,
    look: &mut impl FnMut(&G, &mut Chance) -> Result<(), String>,
) -> Result<(), (u64, String)> {
    // What looks on draws from a stream of its own, so that the match is the same whoever looks.
    let [mut world, mut chance, mut onlooker] = [0, 1, 2].map(|stream| Chance::from_seed(3 * number + stream));
    let mut game = lay(&mut world);
    mover.begin(game.seats(), number);
    for tick in 0..ticks {
        let at = |what| (tick, what);
        sound(entry, &game).map_err(at)?;
        look(&game, &mut onlooker).map_err(at)?;
        let seats = acting(&game).map_err(at)?;
        if seats.is_empty() {
            return Ok(());
        }
        let mut choices = Choices::none(game.seats());
        for &seat in &seats {
            let action = mover.choose(&game, seat, tick, &mut chance).map_err(at)?;
            reads_back(&action).map_err(at)?;
            choices.set(seat, action);
        }
        match game.advance(&choices, &mut world) {
            Advance::Fine => {}
            Advance::Fell(reason) => return Err((tick, format!("the game failed: {reason}"))),
            Advance::Faults(faults) => {
                let at_fault = seats.iter().find(|&&seat| faults.contains(seat)).copied();
                let seat = at_fault.ok_or_else(|| at("`advance` finds a seat at fault that did not act".into()))?;
                let choice = choices.get(seat).map(json).unwrap_or_default();
                return Err((tick, format!("{} chose {choice}, and `advance` finds it illegal", mover.who(seat))));
            }
        }
    }
    Ok(())
}

/// The seats that act, which exist and stand there once each.
pub(super) fn acting<G: Game>(game: &G) -> Result<Vec<Seat>, String> {
    let mut seats = Vec::new();
    game.acting().for_each(game.seats(), |seat| seats.push(seat));
    if let Some(seat) = seats.iter().find(|&&seat| seat >= game.seats()) {
        return Err(format!("seat {seat} acts, and there are {} seats, counted from 0", game.seats()));
    }
    if !seats.is_sorted_by(|a, b| a < b) {
        return Err(format!("the seats that act are {seats:?}; list each once, in rising order"));
    }
    if seats.is_empty() && game.acting() != Acting::Nobody {
        return Err("no seat acts, and the match is not over; answer `Acting::Nobody` if it is".into());
    }
    Ok(seats)
}

/// Checks the invariants of a state of any game.
fn sound<G: Playable>(entry: &Entry<G>, game: &G) -> Result<(), String> {
    let (seats, scores) = (game.seats(), game.scores());
    if !entry.seats().contains(&seats) {
        return Err(format!("it has {seats} seats, and its sheet says {:?}", entry.seats()));
    }
    if scores.len() != seats || scores.iter().any(|score| !score.is_finite()) {
        return Err(format!("its scores are {scores:?}; give one finite number for each of {seats} seats"));
    }
    measured(entry, game)?;
    match (acting(game)?.is_empty(), game.verdict()) {
        (true, None) => Err("nobody acts, yet there is no verdict".into()),
        (true, Some(verdict)) => verdict.check(scores),
        (false, _) => Ok(()),
    }
}

fn measured<G: Playable>(entry: &Entry<G>, game: &G) -> Result<(), String> {
    let measures = entry.own_measures();
    let mut first = Vec::new();
    for seat in 0..game.seats() {
        let mut figures = Vec::new();
        game.measures(seat, &mut figures);
        if figures.len() != measures.len() {
            let names: Vec<&str> = measures.iter().map(|measure| measure.name.as_str()).collect();
            return Err(format!("`measures` gives {} figures, and the sheet has {names:?}", figures.len()));
        }
        if seat == 0 {
            first.clone_from(&figures);
        }
        let differs = |(a, b): (&f64, &f64)| a.total_cmp(b).is_ne() && !(a.is_nan() && b.is_nan());
        for (measure, pair) in measures.iter().zip(first.iter().zip(&figures)) {
            if measure.of == MeasureOf::Match && differs(pair) {
                let (a, b) = pair;
                let name = &measure.name;
                return Err(format!("`{name}` is a measure of the match, yet seat 0 has {a} and seat {seat} has {b}"));
            }
        }
    }
    Ok(())
}

/// Describes the observable state: acting seats, views, scores and measures.
pub(super) fn described<G: Playable>(game: &G) -> String {
    let mut text = String::new();
    let _ = write!(text, "{:?} to act, scores {:?}", acting(game).unwrap_or_default(), game.scores());
    for seat in acting(game).unwrap_or_default() {
        let _ = write!(text, ", seat {seat} sees {}", json(&game.view(seat)));
    }
    let mut figures = Vec::new();
    (0..game.seats()).for_each(|seat| game.measures(seat, &mut figures));
    let _ = write!(text, ", measures {figures:?}");
    text
}

pub(super) fn reads_back<A: Serialize + DeserializeOwned + PartialEq>(action: &A) -> Result<(), String> {
    let text = serde_json::to_string(action).map_err(|error| format!("an action cannot be written: {error}"))?;
    match serde_json::from_str::<A>(&text) {
        Ok(back) if back == *action => Ok(()),
        Ok(back) => Err(format!("the action {text} reads back as another, {}", json(&back))),
        Err(error) => Err(format!("the action {text} cannot be read back: {error}")),
    }
}

pub(super) fn json(value: &impl Serialize) -> String {
    serde_json::to_string(value).unwrap_or_else(|error| format!("what cannot be written: {error}"))
}
