//! A match in which nobody chooses: every seat due to choose is at fault, and the match goes on.

use super::walk::acting;
use crate::{Advance, Chance, Choices, Game, GameFactory, SeatSet};

/// Ticks without a choice that are enough to see it.
const ENOUGH: u64 = 50;

pub(super) fn check<G: Game>(lay: &GameFactory<G>, ticks: u64) -> Result<(), String> {
    let mut world = Chance::from_seed(0);
    let mut game = lay(&mut world);
    for _ in 0..ticks.min(ENOUGH) {
        let seats = acting(&game)?;
        if seats.is_empty() {
            break;
        }
        let due: SeatSet = seats.iter().copied().collect();
        let advance = game.advance(&Choices::none(game.seats()), &mut world);
        if advance != Advance::Faults(due) {
            return Err(format!(
                "the seats {seats:?} made no choice, and `advance` gives {advance:?}; put them into the faults, and a \
                 harmless choice in their place"
            ));
        }
    }
    Ok(())
}
