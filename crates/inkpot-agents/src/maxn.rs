//! Max-n (Luckhardt & Irani 1986): look-ahead for three and more seats that take turns, each after its own good.

use crate::budget::Meter;
use inkpot_core::{Appraise, Chance, Choices, Imagine, Options, Seat, margin};

use crate::alphabeta::mover;

/// One search after another; nothing is pruned.
pub(crate) struct MaxN<G: Options> {
    pub(crate) weights: Vec<f64>,
    pub(crate) meter: Meter,
    pub(crate) open: bool,
    choices: Choices<G::Action>,
}

impl<G: Options + Imagine + Appraise> MaxN<G> {
    pub(crate) fn new(weights: Vec<f64>, seats: usize) -> Self {
        Self { weights, meter: Meter::free(), open: false, choices: Choices::none(seats) }
    }

    /// The state after an option.
    pub(crate) fn advanced(&mut self, state: &G, seat: Seat, option: &G::Action, chance: &mut Chance) -> G {
        let mut next = state.clone();
        self.choices.clear();
        self.choices.set(seat, option.clone());
        next.advance(&self.choices, chance);
        self.meter.advanced();
        next
    }

    /// The value of a state to every seat, `depth` turns ahead, and the best line from it.
    pub(crate) fn value(&mut self, state: &G, depth: u32, chance: &mut Chance) -> (Vec<f64>, Vec<G::Action>) {
        let seats = state.seats();
        let Some(seat) = mover(state) else {
            return ((0..seats).map(|seat| margin(state.scores(), seat)).collect(), Vec::new());
        };
        if depth == 0 {
            self.open = true;
            return ((0..seats).map(|seat| state.appraise(seat, &self.weights)).collect(), Vec::new());
        }
        let mut options = Vec::new();
        state.options(seat, &mut options);
        let mut best: Option<(Vec<f64>, Vec<G::Action>)> = None;
        for option in options {
            let child = self.advanced(state, seat, &option, chance);
            let (values, mut line) = self.value(&child, depth - 1, chance);
            if self.meter.out {
                break;
            }
            if best.as_ref().is_none_or(|(most, _)| values[seat] > most[seat]) {
                line.insert(0, option);
                best = Some((values, line));
            }
        }
        best.unwrap_or_else(|| (vec![f64::NAN; seats], Vec::new()))
    }
}
