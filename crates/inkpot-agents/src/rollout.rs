//! Playouts from a state, for all searches.

use crate::budget::Meter;
use inkpot_core::{Appraise, Chance, Choices, Imagine, Knob, Options, Seat};

/// The share of random choices in greedy playouts, so that no two playouts are equal.
const STRAY: f64 = 0.2;
/// Steepness of the squashing of a margin into a points share: a lead of 4.4 gives three quarters.
const STEEPNESS: f64 = 0.25;

/// The policy of playouts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Playout {
    /// At random.
    Random,
    /// Mostly by the game's own value of the next state.
    Greedy,
    /// Not at all: the game's own value of the state stands for it.
    None,
}

impl Playout {
    /// The knob that says how.
    pub(crate) fn knob() -> Knob {
        Knob::choice("playout", &["random", "greedy", "none"])
            .help("how a line is played on: at random, mostly by the value of the next state, or valued at once")
    }

    /// The knob that says how long.
    pub(crate) fn length_knob() -> Knob {
        Knob::whole("length", 0..=100_000, 400).unit("turns").help("longest playout; the state is valued where it ends")
    }

    /// Reads the first knob.
    pub(crate) fn of(word: &str) -> Self {
        match word {
            "greedy" => Self::Greedy,
            "none" => Self::None,
            _ => Self::Random,
        }
    }
}

/// Plays states on; holds the buffers.
pub(crate) struct Roller<G: Options> {
    pub(crate) kind: Playout,
    pub(crate) length: u32,
    pub(crate) weights: Vec<f64>,
    choices: Choices<G::Action>,
    options: Vec<G::Action>,
    acting: Vec<Seat>,
}

impl<G: Options + Imagine + Appraise> Roller<G> {
    pub(crate) fn new(kind: Playout, length: u32, weights: Vec<f64>) -> Self {
        Self { kind, length, weights, choices: Choices::none(0), options: Vec::new(), acting: Vec::new() }
    }

    /// Plays on from `state` and writes each seat's points share, 0 to 1, into `into`.
    pub(crate) fn play(&mut self, mut state: G, meter: &mut Meter, chance: &mut Chance, into: &mut Vec<f64>) {
        if self.kind != Playout::None {
            let seats = state.seats();
            self.choices = std::mem::replace(&mut self.choices, Choices::none(0)).for_seats(seats);
            for _ in 0..self.length {
                self.acting.clear();
                state.acting().for_each(seats, |seat| self.acting.push(seat));
                if self.acting.is_empty() {
                    break;
                }
                self.choices.clear();
                for at in 0..self.acting.len() {
                    let seat = self.acting[at];
                    let action = self.choose(&state, seat, meter, chance);
                    self.choices.set(seat, action);
                }
                state.advance(&self.choices, chance);
                meter.advanced();
            }
        }
        self.value(&state, into);
    }

    fn choose(&mut self, state: &G, seat: Seat, meter: &mut Meter, chance: &mut Chance) -> G::Action {
        if self.kind == Playout::Random || chance.happens(STRAY) {
            return state.draw(seat, chance);
        }
        self.options.clear();
        state.options(seat, &mut self.options);
        let mut best = (f64::NEG_INFINITY, 0);
        let mut choices = Choices::none(state.seats());
        for (place, option) in self.options.iter().enumerate() {
            let mut next = state.clone();
            choices.clear();
            for &other in &self.acting {
                choices.set(other, state.draw(other, chance));
            }
            choices.set(seat, option.clone());
            next.advance(&choices, chance);
            meter.advanced();
            let value = next.appraise(seat, &self.weights) + 1e-9 * chance.unit();
            if value > best.0 {
                best = (value, place);
            }
        }
        self.options[best.1].clone()
    }

    /// Writes each seat's value of a state: its points share once the match is over, else an estimate from the
    /// appraisal.
    pub(crate) fn value(&self, state: &G, into: &mut Vec<f64>) {
        into.clear();
        let seats = state.seats();
        match state.verdict() {
            Some(_) if seats == 1 => into.push(squash(state.scores()[0])),
            Some(verdict) => into.extend(verdict.points()),
            None => into.extend((0..seats).map(|seat| squash(state.appraise(seat, &self.weights)))),
        }
    }
}

/// A margin as a share of the points: 1/2 when even, towards 0 and 1 when clear.
fn squash(margin: f64) -> f64 {
    1.0 / (1.0 + libm::exp(-STEEPNESS * margin))
}
