//! The agent seam: a decision maker for one seat.

use std::time::Duration;

use crate::{Chance, Game, Imagine, Options, Seat, Spent, Thoughts, Verdict};

/// A decision maker for a seat of a game.
pub trait Agent<G: Game>: Send {
    /// Called once before the first tick, with the seat's own chance.
    fn begin(&mut self, _seat: Seat, _chance: Chance) {}
    /// Decides; called whenever the seat acts.
    fn choose(&mut self, sight: &Sight<'_, G>) -> G::Action;
    /// Called once after the last tick.
    fn end(&mut self, _verdict: &Verdict) {}
    /// How long its decisions take.
    fn pace(&self) -> Pace {
        Pace::Quick
    }
    /// What the last decision cost, if it searches.
    fn spent(&self) -> Option<Spent> {
        None
    }
    /// What it weighed at its last decision, or, when a panic ended that, as far as it got.
    fn thoughts(&self) -> Option<Thoughts<G::Action>> {
        None
    }
    /// From now on `thoughts` is to value every option, and what follows down to so many layers, even where the choice
    /// alone needs less. Makes it slower and changes no choice.
    fn reflect(&mut self, _layers: u32) {}
}

/// How long an agent's decisions take.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Pace {
    /// So short that only a sample of them is worth timing.
    Quick,
    /// Long enough to time each.
    Thinks,
    /// At most this long by the clock; one that takes longer by much is late, which is a fault.
    Within(Duration),
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

    /// A random action of the seat.
    pub fn draw(&self, chance: &mut Chance) -> G::Action {
        self.game.draw(self.seat, chance)
    }

    /// `action` if it is legal now, else the legal one most like it.
    pub fn repair(&self, action: &G::Action) -> G::Action {
        self.game.repair(self.seat, action)
    }
}

impl<G: Imagine> Sight<'_, G> {
    /// A state that fits all that the seat knows, for thinking ahead; none if the game cannot give one.
    pub fn imagine(&self, chance: &mut Chance) -> Option<G> {
        self.game.imagine(self.seat, chance)
    }
}
