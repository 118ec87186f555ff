//! Promises of features: observations that a network can read, and an action for every output.

use std::collections::BTreeSet;

use super::promise::{Made, Promise, advanced};
use super::walk::acting;
use crate::{
    ActionSpace, Advance, Chance, Entry, Feature, FeatureSheet, Features, GameEntry, Intent, Knobs, Playable, Seat,
};

/// The sheet under the rules that are checked.
struct Featured(FeatureSheet);

pub(super) fn promise<G: Features + Clone + Playable>(entry: &Entry<G>, rules: &Knobs) -> Made<G> {
    let none = FeatureSheet { observation: Vec::new(), actions: ActionSpace::Discrete(Vec::new()), tempo: None };
    Box::new(Featured(entry.features(rules).unwrap_or(none)))
}

impl<G: Features + Clone> Promise<G> for Featured {
    fn holds(&mut self, state: &G, chance: &mut Chance) -> Result<(), String> {
        described(&self.0)?;
        let mut seen = Vec::new();
        for seat in acting(state)? {
            state.observe(seat, &mut seen);
            let figures = &self.0.observation;
            if seen.len() != figures.len() {
                return Err(format!("`observe` gives {} figures, and the sheet has {}", seen.len(), figures.len()));
            }
            let outside = figures.iter().zip(&seen).find(|(_, x)| !(-1.0..=1.0).contains(*x));
            if let Some((figure, x)) = outside {
                return Err(format!("seat {seat} observes {x} as `{}`; it has to lie from -1 to 1", figure.name));
            }
        }
        self.acted(state, chance)
    }
}

impl Featured {
    /// A random intent of every seat is a legal action.
    fn acted<G: Features + Clone>(&self, state: &G, chance: &mut Chance) -> Result<(), String> {
        let outputs = self.0.actions.outputs();
        let mut draw = Chance::from_seed(chance.bits());
        let action = |seat: Seat| match self.0.actions {
            ActionSpace::Discrete(_) => state.act(seat, Intent::Option(draw.below(outputs))),
            ActionSpace::Continuous(_) => {
                let values: Vec<f32> = (0..outputs).map(|_| draw.between(-1.0, 1.0) as f32).collect();
                state.act(seat, Intent::Values(&values))
            }
        };
        if acting(state)?.is_empty() {
            return Ok(());
        }
        match advanced(state, action, chance)?.1 {
            Advance::Fine => Ok(()),
            other => Err(format!("an action that `act` gave is not legal: {other:?}")),
        }
    }
}

/// Names stand once, and ranges have a width.
fn described(sheet: &FeatureSheet) -> Result<(), String> {
    let mut names = BTreeSet::new();
    let figures =
        |figures: &[Feature]| figures.iter().find(|figure| figure.low >= figure.high).map(|wrong| wrong.name.clone());
    let flat = figures(&sheet.observation).or_else(|| match &sheet.actions {
        ActionSpace::Discrete(_) => None,
        ActionSpace::Continuous(continuous) => figures(continuous),
    });
    if let Some(name) = flat {
        return Err(format!("the feature `{name}` has a range without width"));
    }
    if sheet.observation.is_empty() || sheet.actions.outputs() == 0 {
        return Err("its features have nothing to observe, or nothing to do".into());
    }
    match sheet.observation.iter().find(|figure| !names.insert(figure.name.as_str())) {
        Some(figure) => Err(format!("the feature `{}` stands there twice", figure.name)),
        None => Ok(()),
    }
}
