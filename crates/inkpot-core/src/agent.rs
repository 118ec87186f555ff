//! The agent seam: a decision maker for one seat.

use crate::{Chance, Game, Options, Seat, Verdict};

/// A decision maker for a seat of a game.
pub trait Agent<G: Game>: Send {
    /// Called once before the first tick, with the seat's own chance.
    fn begin(&mut self, _seat: Seat, _chance: Chance) {}
    /// Decides; called whenever the seat acts.
    fn choose(&mut self, sight: &Sight<'_, G>) -> G::Action;
    /// Called once after the last tick.
    fn end(&mut self, _verdict: &Verdict) {}
    /// Whether its decisions are slow enough that each is worth timing; otherwise only a sample is.
    fn thinks(&self) -> bool {
        false
    }
}

/// All that an agent gets at a decision: what its seat perceives and what the game lets it derive from that.
///
/// The true state is out of reach: an agent cannot peek.
pub struct Sight<'a, G: Game> {
    game: &'a G,
    view: &'a G::View,
    seat: Seat,
    tick: u64,
}

impl<'a, G: Game> Sight<'a, G> {
    #[inline]
    pub(crate) fn new(game: &'a G, view: &'a G::View, seat: Seat, tick: u64) -> Self {
        Self { game, view, seat, tick }
    }

    /// What the seat perceives now.
    #[inline]
    pub fn view(&self) -> &'a G::View {
        self.view
    }

    /// The seat that decides.
    pub fn seat(&self) -> Seat {
        self.seat
    }

    /// Ticks or turns since the match began.
    pub fn tick(&self) -> u64 {
        self.tick
    }
}

impl<G: Options> Sight<'_, G> {
    /// The seat's legal options now, written over `into`.
    pub fn options(&self, into: &mut Vec<G::Action>) {
        into.clear();
        self.game.options(self.seat, into);
    }
}
