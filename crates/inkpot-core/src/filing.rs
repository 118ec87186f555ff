//! Positions filed for learners of single positions: once for all equivalent ones.

use crate::{Game, Keyed, Noted, Options, Seat, folded};

/// A position that is filed once for all that its symmetries turn into each other.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Position {
    /// It as text.
    pub note: String,
    /// Options there, which [`Lessons::take`](crate::Lessons::take) counts.
    pub options: usize,
}

/// The functions by which a game offers single positions to a learner.
pub(crate) struct Filing<G: Game> {
    pub(crate) position: fn(&G, Seat) -> Position,
    pub(crate) action: fn(&G, Seat, usize) -> G::Action,
}

impl<G: Game> Clone for Filing<G> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<G: Game> Copy for Filing<G> {}

impl<G: Keyed + Noted + Options + Clone> Filing<G> {
    pub(crate) fn new() -> Self {
        Self {
            position: |game, seat| {
                let filed = game.turned(folded(game).1);
                let mut options = Vec::new();
                filed.options(seat, &mut options);
                Position { note: filed.note(), options: options.len() }
            },
            action: |game, seat, option| {
                let (_, symmetry) = folded(game);
                let mut options = Vec::new();
                game.turned(symmetry).options(seat, &mut options);
                game.turn_back(symmetry, &options[option.min(options.len() - 1)])
            },
        }
    }
}
