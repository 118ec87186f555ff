//! The `grabber`: rules of thumb, one move ahead.

use inkpot_agents::Graded;
use inkpot_core::{AgentKind, Knob, Knobs};

use super::board::Board;
use super::game::{Pit, Sowing};
use crate::thumb::{ByThumb, Thumb};

/// The kind `grabber`: values each move by banked seeds, the extra move, captures and the other's possible captures,
/// and plays the heaviest.
pub(crate) fn grabber() -> AgentKind<Sowing> {
    AgentKind::new("grabber", "greedy by rules of thumb: an extra move, a capture, nothing left to be taken")
        .knob(Knob::real("extra", 0.0..=10.0, 2.0).unit("seeds").help("worth of moving again"))
        .knob(Knob::real("capture", 0.0..=3.0, 1.0).help("worth of a captured seed"))
        .knob(Knob::real("deny", 0.0..=3.0, 0.8).help("cost of a seed that the other could capture next"))
        .factory(|knobs| {
            let grabs = Grabs::new(knobs);
            Box::new(move |_person| Box::new(ByThumb::new(grabs)))
        })
        .graded_by_values()
}

/// Its rules of thumb.
#[derive(Clone, Copy)]
struct Grabs {
    extra: f64,
    capture: f64,
    deny: f64,
}

impl Grabs {
    fn new(knobs: &Knobs) -> Self {
        Self { extra: knobs.number("extra"), capture: knobs.number("capture"), deny: knobs.number("deny") }
    }
}

impl Thumb<Sowing> for Grabs {
    /// In seeds.
    fn weigh(&self, game: &Sowing, &pit: &Pit) -> f64 {
        let Some(side) = game.board().to_move() else { return 0.0 };
        let (board, sown) = game.after(pit);
        let banked = f64::from(board.store(side)) - f64::from(game.board().store(side)) - f64::from(sown.captured);
        let again = sown.again && board.to_move().is_some();
        let exposed = if again { 0 } else { exposed(&board, 1 - side) };
        banked + self.capture * f64::from(sown.captured) + self.extra * f64::from(u8::from(again))
            - self.deny * f64::from(exposed)
    }
}

/// The most seeds of the other side that `side` could capture with one move, were it to move.
fn exposed(board: &Board, side: usize) -> u8 {
    if board.to_move() != Some(side) {
        return 0;
    }
    let taken = |pit: usize| {
        let mut after = *board;
        after.sow(pit).captured.saturating_sub(1)
    };
    board.filled(side).map(taken).max().unwrap_or(0)
}
