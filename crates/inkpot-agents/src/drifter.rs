//! The random agent: the floor that every other agent has to rise above.

use inkpot_core::{Agent, AgentKind, Chance, GaveUp, Knob, Options, Person, Seat, Sight};

/// The kind `drifter` for any game with finite options: picks one at random and holds on to it for a while, `hold`
/// decisions on average unless the knob says otherwise (1 for turns; in real time a new pick each tick only trembles).
pub fn drifter<G: Options + 'static>(hold: i64) -> AgentKind<G> {
    AgentKind::new("drifter", "acts at random: the floor to rise above")
        .knob(
            Knob::whole("hold", 1..=600, hold)
                .unit("decisions")
                .help("mean number of decisions between two new picks; 1 picks anew each time"),
        )
        .factory(|knobs| {
            let change = 1.0 / knobs.number("hold");
            Box::new(move |_person| {
                Box::new(Drifter { change, held: None, options: Vec::new(), chance: Chance::from_seed(0) })
            })
        })
}

struct Drifter<A> {
    change: f64,
    held: Option<A>,
    options: Vec<A>,
    chance: Chance,
}

impl<G: Options> Agent<G> for Drifter<G::Action> {
    fn begin(&mut self, _seat: Seat, chance: Chance) {
        self.chance = chance;
        self.held = None;
    }

    fn renew(&mut self, _person: &Person) -> bool {
        true
    }

    fn shares(&mut self, _sight: &Sight<'_, G>, options: &[G::Action]) -> Option<Vec<f64>> {
        // Who holds on to a pick chooses by more than the position.
        (self.change >= 1.0).then(|| vec![1.0 / options.len() as f64; options.len()])
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        sight.options(&mut self.options);
        let keep = !self.chance.happens(self.change);
        Ok(match &self.held {
            Some(held) if keep && self.options.contains(held) => held.clone(),
            _ => {
                let pick = self.options[self.chance.below(self.options.len())].clone();
                self.held = Some(pick.clone());
                pick
            }
        })
    }
}
