//! The stand-ins of sowing: people who overlook moves, misjudge what they are worth, and now and then do not think.

use inkpot_core::{Agent, AgentKind, Chance, GaveUp, Knob, Knobs, Person, Seat, Sight};

use super::board::Board;
use super::game::{Pit, Sowing};

/// The kind `standin` with its presets `hasty` and `careful`.
pub(crate) fn standin() -> AgentKind<Sowing> {
    knobs()
        .into_iter()
        .fold(
            AgentKind::new("standin", "plays like a person: overlooks, misjudges, sometimes just moves"),
            AgentKind::knob,
        )
        .preset("hasty", "takes what it sees at a glance", hasty())
        .preset("careful", "counts the other's answers too", Knobs::default())
        .factory(|knobs| {
            let crowd = Traits::new(knobs);
            let (spread, learning) = (knobs.number("spread"), knobs.number("learning"));
            Box::new(move |person| Box::new(Standin::new(crowd.drawn(person, spread, learning))))
        })
}

fn knobs() -> Vec<Knob> {
    vec![
        Knob::whole("lookahead", 1..=4, 2).unit("turns").help("turns that are counted through"),
        Knob::real("misjudge", 0.0..=12.0, 0.8).unit("seeds").help("standard deviation of what a move seems worth"),
        Knob::real("oversight", 0.0..=0.9, 0.1).help("share of its moves that it does not notice"),
        Knob::real("lapses", 0.0..=1.0, 0.01).help("share of its turns that it plays without a thought"),
        Knob::real("spread", 0.0..=1.0, 0.15)
            .help("how much people of the population differ: relative spread of every trait"),
        Knob::real("learning", 0.0..=1.0, 0.0)
            .help("how fast practice wears errors down over a series: they are multiplied by matches^(-learning)"),
    ]
}

fn hasty() -> Knobs {
    Knobs::default()
        .with("lookahead", 1.0)
        .with("misjudge", 1.6)
        .with("oversight", 0.25)
        .with("lapses", 0.06)
        .with("spread", 0.25)
}

/// What one person is like.
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

    /// A person of the population: every error times a log-normal factor, less what practice has worn down.
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

struct Standin {
    traits: Traits,
    chance: Chance,
    options: Vec<Pit>,
}

impl Standin {
    fn new(traits: Traits) -> Self {
        Self { traits, chance: Chance::from_seed(0), options: Vec::new() }
    }
}

impl Agent<Sowing> for Standin {
    fn begin(&mut self, _seat: Seat, chance: Chance) {
        self.chance = chance;
    }

    fn choose(&mut self, sight: &Sight<'_, Sowing>) -> Result<Pit, GaveUp> {
        sight.options(&mut self.options);
        let random = self.options[self.chance.below(self.options.len())];
        if self.chance.happens(self.traits.lapses) {
            return Ok(random);
        }
        let board = sight.view().0;
        let mut best: Option<(f64, Pit)> = None;
        for &pit in &self.options {
            if self.chance.happens(self.traits.oversight) {
                continue;
            }
            let worth = count(&board, pit, self.traits.lookahead) + self.traits.misjudge * self.chance.normal();
            if best.is_none_or(|(known, _)| worth > known) {
                best = Some((worth, pit));
            }
        }
        Ok(best.map_or(random, |(_, pit)| pit))
    }
}

/// What a move wins the mover in seeds, counted this many turns deep.
fn count(board: &Board, pit: Pit, turns: u32) -> f64 {
    let Some(side) = board.to_move() else { return 0.0 };
    let mut after = *board;
    after.sow(usize::from(pit.0) - 1);
    f64::from(lead(&after, side, turns - 1) - margin(board, side))
}

/// The lead of `side` after this many turns of best play.
fn lead(board: &Board, side: usize, turns: u32) -> i32 {
    let mover = board.to_move().filter(|_| turns > 0);
    let Some(mover) = mover else { return margin(board, side) };
    let replies = board.filled(mover).map(|pit| {
        let mut after = *board;
        after.sow(pit);
        lead(&after, side, turns - 1)
    });
    if mover == side { replies.max() } else { replies.min() }.unwrap_or_else(|| margin(board, side))
}

fn margin(board: &Board, side: usize) -> i32 {
    i32::from(board.store(side)) - i32::from(board.store(1 - side))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_turn_counts_the_seeds_that_a_move_banks() {
        let board = Board::start(6, 4);
        assert_eq!(count(&board, Pit(3), 1), 1.0); // its last seed falls into the store
        assert_eq!(count(&board, Pit(1), 1), 0.0); // it falls short of it
    }

    #[test]
    fn two_turns_count_the_best_answer() {
        let board = Board::start(6, 4);
        // After a move that banks nothing the other can bank one.
        assert_eq!(count(&board, Pit(1), 2), -1.0);
    }
}
