//! `policy`: plays by a network that was evolved or trained.

use std::sync::Arc;

use inkpot_core::{
    Agent, AgentKind, Chance, FeatureSheet, Features, GaveUp, Intent, Knob, Knobs, Laying, Options, Person, Seat,
    Sight, Thoughts, Weighed,
};
use inkpot_learn::{Body, Gives, Memory, Network, largest};

use crate::Graded;
use crate::weights::{Trained, read, training};

/// The kind `policy` for any game with features: a network gives an action for what it observes.
pub fn policy<G: Features + Options + 'static>() -> AgentKind<G> {
    AgentKind::new("policy", "plays by a network that was evolved or trained")
        .knob(
            Knob::file("file", "a network (safetensors or ONNX)")
                .help("the network: of a search, or layers trained elsewhere"),
        )
        .knob(
            Knob::whole("decide_every", 1..=600, 1)
                .unit("decisions")
                .help("decisions from one look to the next; it keeps to its choice in between"),
        )
        .knob(training())
        .knob(
            Knob::real("temper", 0.0..=1000.0, 0.0).unit("value").help(
                "softens its choice: an option this much worse is taken e times less often; 0 always takes the best",
            ),
        )
        .factory_for(|knobs, laying| {
            let (trained, gives) = network(knobs, laying)?;
            let discrete = features(laying)?.actions.is_discrete();
            let (every, temper) = (knobs.number("decide_every") as u32, knobs.number("temper"));
            if temper > 0.0 && !discrete {
                return Err("`temper` softens a choice among options, and the actions are continuous here".into());
            }
            Ok(Box::new(move |_person| {
                Box::new(Policy {
                    network: trained.later().clone(),
                    trained: trained.clone(),
                    gives,
                    discrete,
                    every,
                    temper,
                    left: 0,
                    chosen: 0,
                    seat: 0,
                    chance: Chance::from_seed(0),
                    seen: Vec::new(),
                    given: Vec::new(),
                    options: Vec::new(),
                    memory: Memory::default(),
                    reflects: false,
                })
            }))
        })
        .graded()
}

/// The network of these knobs, and what it gives. Errs where it does not read and give what the game has under these
/// rules.
fn network(knobs: &Knobs, laying: &Laying) -> Result<(Trained<Arc<Network>>, Gives), String> {
    let weights = read(knobs)?;
    let sheet = features(laying)?;
    let observed: Vec<&str> = sheet.observation.iter().map(|figure| figure.name.as_str()).collect();
    differs("reads", &weights.observation, &observed)?;
    differs("gives", &weights.actions, &sheet.actions.names())?;
    let Body::Network(last) = weights.body else {
        return Err("the file holds a tape and not a network; play it by the agent `tape`".into());
    };
    let kept = weights.earlier.into_iter().map(|(share, own)| (share, Arc::new(Network::Dense(own))));
    let kept: Vec<_> = kept.collect();
    Ok((Trained::at(knobs.number("training"), &kept, Arc::new(last))?, weights.gives))
}

/// Looks up the features of the game that is laid. Errs in a game without.
pub(crate) fn features<'a>(laying: &Laying<'a>) -> Result<&'a FeatureSheet, String> {
    laying.features.ok_or_else(|| "a policy needs a game with features".into())
}

/// Errs with the first name that is another one; those that a file does not tell may be any.
pub(crate) fn differs(verb: &str, own: &[String], game: &[&str]) -> Result<(), String> {
    if own.len() != game.len() {
        return Err(format!("the network {verb} {} figures, and the game has {} here", own.len(), game.len()));
    }
    match own.iter().zip(game).find(|(own, game)| !own.is_empty() && own != game) {
        Some((own, game)) => Err(format!("the network {verb} `{own}` where the game has `{game}` here")),
        None => Ok(()),
    }
}

struct Policy<A> {
    trained: Trained<Arc<Network>>,
    /// The state that this match is played by.
    network: Arc<Network>,
    gives: Gives,
    discrete: bool,
    every: u32,
    temper: f64,
    /// Decisions for which the choice is kept.
    left: u32,
    /// The option that is kept to.
    chosen: usize,
    seat: Seat,
    chance: Chance,
    seen: Vec<f32>,
    given: Vec<f32>,
    /// The actions that the options mean now, for whoever reads its thoughts.
    options: Vec<A>,
    memory: Memory,
    /// Whether somebody reads its thoughts.
    reflects: bool,
}

impl<A> Policy<A> {
    /// The best option, or, softened, one the likelier the better it is (softmax).
    fn option(&mut self) -> usize {
        let best = largest(&self.given);
        if self.temper == 0.0 {
            return best;
        }
        let weights = softened(&self.given, self.temper);
        let mut left = self.chance.unit();
        weights
            .iter()
            .position(|weight| {
                left -= weight;
                left < 0.0
            })
            .unwrap_or(best)
    }
}

/// Shares that fall by `e` for each `temper` that a number lies below the largest; all together 1.
fn softened(given: &[f32], temper: f64) -> Vec<f64> {
    let most = f64::from(given[largest(given)]);
    let weights: Vec<f64> = given.iter().map(|x| libm::exp((f64::from(*x) - most) / temper)).collect();
    let sum: f64 = weights.iter().sum();
    weights.into_iter().map(|weight| weight / sum).collect()
}

impl<G: Features> Agent<G> for Policy<G::Action> {
    fn begin(&mut self, seat: Seat, chance: Chance) {
        self.left = 0;
        self.seat = seat;
        self.chance = chance;
        self.network = self.trained.of_match(&mut self.chance).clone();
        self.memory.forget();
    }

    fn renew(&mut self, _person: &Person) -> bool {
        self.reflects = false;
        true
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        if self.left == 0 {
            self.left = self.every;
            sight.observe(&mut self.seen);
            self.given.clear();
            self.given.extend_from_slice(self.network.forward(&self.seen, &mut self.memory));
            if self.discrete {
                self.chosen = self.option();
            } else {
                self.given.iter_mut().for_each(|value| *value = value.clamp(-1.0, 1.0));
            }
        }
        self.left -= 1;
        if self.reflects && self.discrete {
            self.options.clear();
            self.options.extend((0..self.given.len()).map(|option| sight.act(Intent::Option(option))));
        }
        let intent = if self.discrete { Intent::Option(self.chosen) } else { Intent::Values(&self.given) };
        Ok(sight.act(intent))
    }

    fn reflect(&mut self, _layers: u32) {
        self.reflects = true;
    }

    /// What it gave for each option at its last look, with its chance where that is what it gives.
    fn thoughts(&self) -> Option<Thoughts<G::Action>> {
        if self.options.is_empty() {
            return None;
        }
        let chances = (self.gives == Gives::Chances).then(|| softened(&self.given, 1.0));
        let weighed = self.options.iter().zip(&self.given).enumerate().map(|(place, (option, value))| Weighed {
            share: chances.as_ref().map(|own| own[place]),
            ..Weighed::new(option.clone(), f64::from(*value)).of_seat(self.seat)
        });
        Some(Thoughts::of(weighed.collect()))
    }
}
