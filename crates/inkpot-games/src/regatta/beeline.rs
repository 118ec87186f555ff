//! `beeline`: steers straight at the mark.

use inkpot_core::{Agent, AgentKind, GaveUp, Knob, Person, Sight};

use super::game::{Helm, Regatta};

/// The kind `beeline`.
pub(crate) fn beeline() -> AgentKind<Regatta> {
    AgentKind::new("beeline", "steers straight at the next mark: fast where the wind allows it, stuck where not")
        .knob(
            Knob::real("gain", 0.1..=20.0, 2.0)
                .unit("1/rad")
                .help("rudder for each radian that the bow is off; a high one swings to and fro"),
        )
        .factory(|knobs| {
            let gain = knobs.number("gain");
            Box::new(move |_person| Box::new(Beeline { gain }))
        })
}

struct Beeline {
    gain: f64,
}

impl Agent<Regatta> for Beeline {
    fn renew(&mut self, _person: &Person) -> bool {
        true
    }

    fn choose(&mut self, sight: &Sight<'_, Regatta>) -> Result<Helm, GaveUp> {
        Ok(sight.repair(&Helm { rudder: self.gain * sight.view().mark_deg().to_radians() }))
    }
}
