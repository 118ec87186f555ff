//! `policy`: plays by a network that was evolved or trained.

use std::sync::Arc;

use inkpot_core::{ActionSpace, Agent, AgentKind, Features, GaveUp, Intent, Knob, Knobs, Laying, Person, Seat, Sight};
use inkpot_learn::{Body, Memory, Network};

use crate::weights::read;

/// The kind `policy` for any game with features: a network gives an action for what it observes.
pub fn policy<G: Features + 'static>() -> AgentKind<G> {
    AgentKind::new("policy", "plays by a network that was evolved or trained")
        .knob(Knob::file("file", "a network (safetensors)").help("the network, as a search or an export wrote it"))
        .knob(
            Knob::whole("decide_every", 1..=600, 1)
                .unit("decisions")
                .help("decisions from one look to the next; it keeps to its choice in between"),
        )
        .factory_for(|knobs, laying| {
            let network = Arc::new(network::<G>(knobs, laying)?);
            let discrete = matches!(G::features(laying.rules).actions, ActionSpace::Discrete(_));
            let every = knobs.number("decide_every") as u32;
            Ok(Box::new(move |_person| {
                Box::new(Policy {
                    network: network.clone(),
                    discrete,
                    every,
                    left: 0,
                    seen: Vec::new(),
                    given: Vec::new(),
                    memory: Memory::default(),
                })
            }))
        })
}

/// The network of these knobs. Errs where it does not read and give what the game has under these rules.
fn network<G: Features>(knobs: &Knobs, laying: &Laying) -> Result<Network, String> {
    let weights = read(knobs)?;
    let sheet = G::features(laying.rules);
    let observed: Vec<&str> = sheet.observation.iter().map(|figure| figure.name.as_str()).collect();
    differs("reads", &weights.observation, &observed)?;
    differs("gives", &weights.actions, &sheet.actions.names())?;
    match weights.body {
        Body::Network(network) => Ok(network),
        Body::Tape(_) => Err("the file holds a tape and not a network; play it by the agent `tape`".into()),
    }
}

/// Errs with the first name that is another one.
pub(crate) fn differs(verb: &str, own: &[String], game: &[&str]) -> Result<(), String> {
    if own.len() != game.len() {
        return Err(format!("the network {verb} {} figures, and the game has {} here", own.len(), game.len()));
    }
    match own.iter().zip(game).find(|(own, game)| own != game) {
        Some((own, game)) => Err(format!("the network {verb} `{own}` where the game has `{game}` here")),
        None => Ok(()),
    }
}

struct Policy {
    network: Arc<Network>,
    discrete: bool,
    every: u32,
    /// Decisions for which the choice is kept.
    left: u32,
    seen: Vec<f32>,
    given: Vec<f32>,
    memory: Memory,
}

impl<G: Features> Agent<G> for Policy {
    fn begin(&mut self, _seat: Seat, _chance: inkpot_core::Chance) {
        self.left = 0;
        self.memory.forget();
    }

    fn renew(&mut self, _person: &Person) -> bool {
        true
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        if self.left == 0 {
            self.left = self.every;
            sight.observe(&mut self.seen);
            self.given.clear();
            self.given.extend_from_slice(self.network.forward(&self.seen, &mut self.memory));
        }
        self.left -= 1;
        if self.discrete {
            return Ok(sight.act(Intent::Option(largest(&self.given))));
        }
        self.given.iter_mut().for_each(|value| *value = value.clamp(-1.0, 1.0));
        Ok(sight.act(Intent::Values(&self.given)))
    }
}

/// The place of the largest; of equals the first.
pub(crate) fn largest(values: &[f32]) -> usize {
    (1..values.len()).fold(0, |best, place| if values[place] > values[best] { place } else { best })
}
