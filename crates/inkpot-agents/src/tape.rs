//! `tape`: plays a fixed sequence of actions.

use std::sync::Arc;

use inkpot_core::{ActionSpace, Agent, AgentKind, Chance, Features, GaveUp, Intent, Knob, Knobs, Person, Seat, Sight};
use inkpot_learn::{Body, Tape, largest};

use crate::policy::{differs, features, read};

/// The kind `tape` for any game in real time with features: it sees nothing and carries out one step after the other.
pub fn tape<G: Features + 'static>() -> AgentKind<G> {
    AgentKind::new("tape", "carries out a fixed sequence of actions and sees nothing")
        .knob(Knob::file("file", "a tape (safetensors)").help("the sequence, as a search wrote it"))
        .knob(
            Knob::whole("hold", 1..=6000, 10)
                .unit("ticks")
                .help("ticks for which each step of the sequence lasts; after the last it begins again"),
        )
        .factory_for(|knobs, laying| {
            let weights = read(knobs)?;
            let actions = &features(laying)?.actions;
            differs("gives", &weights.actions, &actions.names())?;
            let Body::Tape(tape) = weights.body else {
                return Err("the file holds a network and not a tape; play it by the agent `policy`".into());
            };
            let (tape, discrete) = (Arc::new(tape), matches!(actions, ActionSpace::Discrete(_)));
            let hold = knobs.number("hold") as u64;
            Ok(Box::new(move |_person| Box::new(Player { tape: tape.clone(), discrete, hold, ticks: 0 })))
        })
        .without_chance(Knobs::default())
}

struct Player {
    tape: Arc<Tape>,
    discrete: bool,
    hold: u64,
    ticks: u64,
}

impl<G: Features> Agent<G> for Player {
    fn begin(&mut self, _seat: Seat, _chance: Chance) {
        self.ticks = 0;
    }

    fn renew(&mut self, _person: &Person) -> bool {
        true
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        let Tape { width, values } = self.tape.as_ref();
        let steps = values.len() / width;
        let step = (self.ticks / self.hold) as usize % steps;
        self.ticks += 1;
        let values = &values[step * width..(step + 1) * width];
        let intent = if self.discrete { Intent::Option(largest(values)) } else { Intent::Values(values) };
        Ok(sight.act(intent))
    }
}
