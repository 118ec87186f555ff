//! The `harbourmaster`: a rule of thumb, one move ahead.

use inkpot_agents::Graded;
use inkpot_core::{AgentKind, Knob, Knobs};

use super::basin::Mooring;
use super::game::Berths;
use crate::thumb::{ByThumb, Thumb};

/// The kind `harbourmaster`: keeps its own safe moves, spoils the other's.
pub(crate) fn harbourmaster() -> AgentKind<Berths> {
    AgentKind::new("harbourmaster", "by a rule of thumb: keeps its own safe moves, spoils the other's")
        .knob(Knob::real("keep", 0.0..=5.0, 2.0).unit("options").help("worth of a safe option of its own"))
        .knob(Knob::real("spoil", 0.0..=5.0, 1.0).unit("options").help("worth of an option that the other loses"))
        .factory(|knobs| {
            let rule = Rule::new(knobs);
            Box::new(move |_person| Box::new(ByThumb::new(rule)))
        })
        .graded_by_values()
}

#[derive(Clone, Copy)]
struct Rule {
    keep: f64,
    spoil: f64,
}

impl Rule {
    fn new(knobs: &Knobs) -> Self {
        Self { keep: knobs.number("keep"), spoil: knobs.number("spoil") }
    }
}

impl Thumb<Berths> for Rule {
    /// Its options left, `keep` times the safe ones gained and `spoil` times the options that the other loses.
    fn weigh(&self, game: &Berths, &mooring: &Mooring) -> f64 {
        let (before, after) = (game.basin(), game.after(mooring));
        let side = before.side();
        let gained = |now: u32, then: u32| f64::from(now) - f64::from(then);
        let left = gained(after.options(side).size(), before.options(side).size());
        let safe = gained(after.safe(side).size(), before.safe(side).size());
        let lost = gained(before.options(1 - side).size(), after.options(1 - side).size());
        left + self.keep * safe + self.spoil * lost
    }
}
