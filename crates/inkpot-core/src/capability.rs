//! Small capabilities a game may offer beside its rules, so that a generic agent asks for just what it needs.

use crate::{Game, Scene, Seat};

/// Finitely many legal actions, or a coarse finite set where the true one is continuous.
pub trait Options: Game {
    /// Appends the options of a seat that acts now; never empty for such a seat.
    fn options(&self, seat: Seat, into: &mut Vec<Self::Action>);
}

/// Behaviour figures by seat.
pub trait Measured: Game {
    /// Appends one figure a measure, in the order of the game's sheet; readable at any tick. A figure that has no
    /// value yet (a share of nothing) is NaN.
    fn measures(&self, seat: Seat, into: &mut Vec<f64>);
}

/// A picture of the state made of plain shapes.
pub trait Pictured: Game {
    /// Writes the scene of this tick over `into`.
    fn scene(&self, into: &mut Scene);
}
