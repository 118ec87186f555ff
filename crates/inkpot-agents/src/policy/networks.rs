//! Networks as models of a policy.

use std::sync::Arc;

use inkpot_core::{Chance, FeatureSheet, Features, GaveUp, Intent, Knob, Knobs, Laying, Options, Seat, Sight};
use inkpot_learn::{Body, Gives, Memory, Network, largest};

use super::trained::{Trained, read};
use super::{Model, ModelKind, Models};

/// Builds the kind of networks, for a game with features.
pub fn networks<G: Features + Options + 'static>() -> ModelKind<G> {
    ModelKind {
        about: "plays by a network that was evolved or trained",
        file: Knob::file("file", "a network (safetensors or ONNX)")
            .help("the network: of a search, or layers trained elsewhere"),
        endings: &[".safetensors", ".onnx"],
        knobs: vec![
            Knob::whole("decide_every", 1..=600, 1)
                .unit("decisions")
                .help("decisions from one look to the next; it keeps to its choice in between"),
        ],
        read: models,
    }
}

fn models<G: Features + 'static>(knobs: &Knobs, laying: &Laying) -> Result<Models<G>, String> {
    let (trained, gives) = network(knobs, laying)?;
    let discrete = features(laying)?.actions.is_discrete();
    if knobs.number("temper") > 0.0 && !discrete {
        return Err("`temper` softens a choice among options, and the actions are continuous here".into());
    }
    Ok(Box::new(move || {
        Box::new(Networked {
            network: trained.later().clone(),
            trained: trained.clone(),
            gives,
            discrete,
            observed: Vec::new(),
            outputs: Vec::new(),
            memory: Memory::default(),
        })
    }))
}

/// Reads the network of these knobs and the meaning of its outputs. Errs if its inputs and outputs do not match the
/// game under these rules.
fn network(knobs: &Knobs, laying: &Laying) -> Result<(Trained<Arc<Network>>, Gives), String> {
    let weights = read(knobs)?;
    let sheet = features(laying)?;
    let observed: Vec<&str> = sheet.observation.iter().map(|figure| figure.name.as_str()).collect();
    differs("reads", &weights.observation, &observed)?;
    differs("gives", &weights.actions, &sheet.actions.names())?;
    let Body::Network(last) = weights.body else {
        return Err("the file holds a tape and not a network; play it by the agent `tape`".into());
    };
    let stages = weights.earlier.into_iter().map(|(share, network)| (share, Arc::new(Network::Dense(network))));
    let stages: Vec<_> = stages.collect();
    Ok((Trained::at(knobs.number("training"), &stages, Arc::new(last))?, weights.gives))
}

/// Looks up the features of the game that is laid. Errs in a game without.
pub(crate) fn features<'a>(laying: &Laying<'a>) -> Result<&'a FeatureSheet, String> {
    laying.features.ok_or_else(|| "a policy needs a game with features".into())
}

/// Errs with the first name that is another one; those that a file does not tell may be any.
pub(crate) fn differs(verb: &str, written: &[String], game: &[&str]) -> Result<(), String> {
    if written.len() != game.len() {
        return Err(format!("the network {verb} {} figures, and the game has {} here", written.len(), game.len()));
    }
    match written.iter().zip(game).find(|(written, game)| !written.is_empty() && written != game) {
        Some((written, game)) => Err(format!("the network {verb} `{written}` where the game has `{game}` here")),
        None => Ok(()),
    }
}

struct Networked {
    trained: Trained<Arc<Network>>,
    /// The state that this match is played by.
    network: Arc<Network>,
    gives: Gives,
    discrete: bool,
    observed: Vec<f32>,
    outputs: Vec<f32>,
    memory: Memory,
}

impl<G: Features> Model<G> for Networked {
    fn begin(&mut self, _seat: Seat, chance: &mut Chance) {
        self.network = self.trained.of_match(chance).clone();
        self.memory.forget();
    }

    fn judge(&mut self, sight: &Sight<'_, G>, _: &mut Chance, values: &mut Vec<f64>) -> Result<(), GaveUp> {
        sight.observe(&mut self.observed);
        self.outputs.clear();
        self.outputs.extend_from_slice(self.network.forward(&self.observed, &mut self.memory));
        if self.discrete {
            values.extend(self.outputs.iter().map(|value| f64::from(*value)));
        } else {
            self.outputs.iter_mut().for_each(|value| *value = value.clamp(-1.0, 1.0));
        }
        Ok(())
    }

    fn best(&self, _values: &[f64], _chance: &mut Chance) -> usize {
        largest(&self.outputs)
    }

    fn act(&self, sight: &Sight<'_, G>, option: usize) -> G::Action {
        sight.act(if self.discrete { Intent::Option(option) } else { Intent::Values(&self.outputs) })
    }

    fn observed(&self) -> Option<(&[f32], &[f32])> {
        Some((&self.observed, &self.outputs))
    }

    fn gives_chances(&self) -> bool {
        self.gives == Gives::Chances
    }
}
