//! The stand-ins of games of turns: people who overlook moves, misjudge them, and sometimes do not think.

use inkpot_core::{Agent, AgentKind, Chance, GaveUp, Imagine, Knob, Knobs, Options, Person, Seat, Sight};

/// A game whose moves a person counts through.
pub(crate) trait Counting: Options + Imagine {
    /// Returns the state after a legal move of the mover.
    fn moved(&self, action: &Self::Action) -> Self;
    /// Whose turn it is; none once the match is over.
    fn mover(&self) -> Option<Seat>;
    /// Returns the seat's lead at a glance.
    fn lead(&self, seat: Seat) -> f64;
}

/// The people of a game.
pub(crate) struct Crowd {
    /// The unit of a lead.
    pub(crate) unit: &'static str,
    /// Standard deviation of a careful person's misjudgement.
    pub(crate) misjudge: f64,
    /// Standard deviation of a hasty person's misjudgement.
    pub(crate) hasty: f64,
    /// The most that can be set.
    pub(crate) most: f64,
}

/// The kind `standin` with its presets `hasty` and `careful`.
pub(crate) fn standin<G: Counting + 'static>(crowd: &Crowd) -> AgentKind<G> {
    knobs(crowd)
        .into_iter()
        .fold(
            AgentKind::new("standin", "plays like a person: overlooks, misjudges, sometimes just moves"),
            AgentKind::knob,
        )
        .preset("hasty", "takes what it sees at a glance", hasty(crowd))
        .preset("careful", "counts the other's answers too", Knobs::default())
        .factory(|knobs| {
            let crowd = Traits::new(knobs);
            let (spread, learning) = (knobs.number("spread"), knobs.number("learning"));
            Box::new(move |person| Box::new(Standin::new(crowd.drawn(person, spread, learning))))
        })
}

fn knobs(crowd: &Crowd) -> Vec<Knob> {
    vec![
        Knob::whole("lookahead", 1..=4, 2).unit("turns").help("turns that are counted through"),
        Knob::real("misjudge", 0.0..=crowd.most, crowd.misjudge)
            .unit(crowd.unit)
            .help("standard deviation of what a move seems worth"),
        Knob::real("oversight", 0.0..=0.9, 0.1).help("share of its moves that it does not notice"),
        Knob::real("lapses", 0.0..=1.0, 0.01).help("share of its turns that it plays without a thought"),
        Knob::real("spread", 0.0..=1.0, 0.15)
            .help("how much people of the population differ: relative spread of every trait"),
        Knob::real("learning", 0.0..=1.0, 0.0)
            .help("how fast practice wears errors down over a series: they are multiplied by matches^(-learning)"),
    ]
}

fn hasty(crowd: &Crowd) -> Knobs {
    Knobs::default()
        .with("lookahead", 1.0)
        .with("misjudge", crowd.hasty)
        .with("oversight", 0.25)
        .with("lapses", 0.06)
        .with("spread", 0.25)
}

/// The traits of one person.
#[derive(Clone, Copy)]
struct Traits {
    lookahead: u32,
    misjudge: f64,
    oversight: f64,
    lapses: f64,
}

impl Traits {
    fn new(knobs: &Knobs) -> Self {
        Self {
            lookahead: knobs.number("lookahead") as u32,
            misjudge: knobs.number("misjudge"),
            oversight: knobs.number("oversight"),
            lapses: knobs.number("lapses"),
        }
    }

    /// Draws a person of the population: every error times a log-normal factor, reduced by practice.
    fn drawn(self, mut person: Person, spread: f64, learning: f64) -> Self {
        let left = person.practised(learning);
        let mut vary = |error: f64| left * error * libm::exp(spread * person.chance.normal());
        Self {
            misjudge: vary(self.misjudge),
            oversight: vary(self.oversight).min(0.9),
            lapses: vary(self.lapses).min(1.0),
            ..self
        }
    }
}

struct Standin<A> {
    traits: Traits,
    chance: Chance,
    /// The options, and while it counts those of the lines looked at after them.
    options: Vec<A>,
}

impl<A> Standin<A> {
    fn new(traits: Traits) -> Self {
        Self { traits, chance: Chance::from_seed(0), options: Vec::new() }
    }
}

impl<G: Counting> Agent<G> for Standin<G::Action> {
    fn begin(&mut self, _seat: Seat, chance: Chance) {
        self.chance = chance;
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        sight.options(&mut self.options);
        let random = self.options[self.chance.below(self.options.len())].clone();
        if self.chance.happens(self.traits.lapses) {
            return Ok(random);
        }
        let Some(state) = sight.imagine(&mut self.chance) else { return Ok(random) };
        let mut best: Option<(f64, usize)> = None;
        for option in 0..self.options.len() {
            if self.chance.happens(self.traits.oversight) {
                continue;
            }
            let counted = count(&state, option, self.traits.lookahead, &mut self.options);
            let value = counted + self.traits.misjudge * self.chance.normal();
            if best.is_none_or(|(known, _)| value > known) {
                best = Some((value, option));
            }
        }
        Ok(best.map_or(random, |(_, option)| self.options[option].clone()))
    }
}

/// Returns the mover's gain by an option, searched this many turns deep.
fn count<G: Counting>(state: &G, option: usize, turns: u32, options: &mut Vec<G::Action>) -> f64 {
    let Some(seat) = state.mover() else { return 0.0 };
    let after = state.moved(&options[option]);
    lead(&after, seat, turns - 1, options) - state.lead(seat)
}

/// The lead of a seat after this many turns of best play; `options` is left as it was.
fn lead<G: Counting>(state: &G, seat: Seat, turns: u32, options: &mut Vec<G::Action>) -> f64 {
    let Some(mover) = state.mover().filter(|_| turns > 0) else { return state.lead(seat) };
    let first = options.len();
    state.options(mover, options);
    let mut best: Option<f64> = None;
    for option in first..options.len() {
        let after = state.moved(&options[option]);
        let reply = lead(&after, seat, turns - 1, options);
        let better = |best| if mover == seat { reply > best } else { reply < best };
        if best.is_none_or(better) {
            best = Some(reply);
        }
    }
    options.truncate(first);
    best.unwrap_or_else(|| state.lead(seat))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::berths::{Berths, Mooring, WON};
    use crate::sowing::{Pit, Sowing};

    fn counted<G: Counting>(state: &G, action: G::Action, turns: u32) -> f64 {
        count(state, 0, turns, &mut vec![action])
    }

    #[test]
    fn one_turn_counts_what_a_move_wins() {
        let board = Sowing::start(6, 4);
        assert_eq!(counted(&board, Pit(3), 1), 1.0); // its last seed falls into the store
        assert_eq!(counted(&board, Pit(1), 1), 0.0); // it falls short of it
        assert_eq!(counted(&Berths::start(2, 2), Mooring::at(0, 0), 1), WON); // it blocks both columns
        // Of six options a side it uses up two of its own and blocks two of the other's.
        assert_eq!(counted(&Berths::start(3, 3), Mooring::at(0, 0), 1), 0.0);
    }

    #[test]
    fn two_turns_count_the_best_answer() {
        let board = Sowing::start(6, 4);
        // After a move that banks nothing the other can bank one.
        assert_eq!(counted(&board, Pit(1), 2), -1.0);
    }
}
