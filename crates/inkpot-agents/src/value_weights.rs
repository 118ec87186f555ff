//! The weights of a game's value of a state, as knobs of the agents that use it.

use inkpot_core::{AgentKind, Game, Knob, Knobs};

/// The weights of a value of a state, in the order in which the game reads them.
#[derive(Clone)]
pub(crate) struct ValueWeights(Vec<Knob>);

impl ValueWeights {
    /// These knobs, all numbers.
    pub(crate) fn of(knobs: &[Knob]) -> Self {
        Self(knobs.to_vec())
    }

    /// A kind with these knobs too.
    pub(crate) fn added_to<G: Game + 'static>(&self, kind: AgentKind<G>) -> AgentKind<G> {
        self.0.iter().cloned().fold(kind, AgentKind::knob)
    }

    /// Their values among those of all knobs.
    pub(crate) fn read(&self, knobs: &Knobs) -> Vec<f64> {
        self.0.iter().map(|knob| knobs.number(&knob.name)).collect()
    }
}
