//! Promises of keys and symmetries: equal keys mean one future, and a transformed state is an equivalent game.

use std::collections::HashMap;

use serde::Serialize;

use super::promise::{Made, Promise, advanced, listed};
use super::walk::{acting, json};
use crate::{Chance, Keyed, Knobs, Options, Seat, folded};

/// The future of a state, as far as equal keys must agree on it.
#[derive(Clone, Debug, PartialEq)]
struct Future<K> {
    acting: Vec<Seat>,
    scores: Vec<u64>,
    /// The options of the acting seat, as text, with the key of the state after each.
    moves: Vec<(String, Option<K>)>,
}

/// The futures of all keys that were seen.
struct Keys<K>(HashMap<K, Future<K>>);

pub(super) fn promise<G: Keyed + Options<Action: Serialize> + Clone>(_: &Knobs) -> Made<G> {
    Box::new(Keys(HashMap::<G::Key, Future<G::Key>>::new()))
}

impl<G: Keyed + Options<Action: Serialize> + Clone> Promise<G> for Keys<G::Key> {
    fn holds(&mut self, state: &G, _chance: &mut Chance) -> Result<(), String> {
        let future = future(state)?;
        if let Some(known) = self.0.get(&state.key())
            && *known != future
        {
            let [future, known] = [&future, known].map(|future| {
                let scores: Vec<f64> = future.scores.iter().map(|bits| f64::from_bits(*bits)).collect();
                let moves: Vec<&str> = future.moves.iter().map(|(option, _)| option.as_str()).collect();
                format!("{:?} to act, scores {scores:?}, options {moves:?}", future.acting)
            });
            let but =
                if future == known { "though they lead to states of other keys" } else { "and they are not alike" };
            return Err(format!("two states have one key, {but}: one has {future}, the other {known}"));
        }
        self.0.insert(state.key(), future);
        (1..=state.symmetries()).try_for_each(|symmetry| {
            turned(state, symmetry).map_err(|what| format!("under symmetry {symmetry}, {what}"))
        })
    }
}

fn future<G: Keyed + Options<Action: Serialize> + Clone>(state: &G) -> Result<Future<G::Key>, String> {
    let acting = acting(state)?;
    let mut moves = Vec::new();
    for &seat in &acting {
        for option in listed(state, seat) {
            // Where several choose at once there is no one successor of an option.
            let next = (acting.len() == 1).then(|| after(state, &option)).transpose()?;
            moves.push((json(&option), next.map(|next| next.key())));
        }
    }
    moves.sort_by(|a, b| a.0.cmp(&b.0));
    let scores = state.scores().iter().map(|score| score.to_bits()).collect();
    Ok(Future { acting, scores, moves })
}

/// The state after this option of the one seat that acts; chance is the same for all.
fn after<G: Options + Clone>(state: &G, option: &G::Action) -> Result<G, String> {
    Ok(advanced(state, |_| option.clone(), &mut Chance::from_seed(0))?.0)
}

fn turned<G: Keyed + Options<Action: Serialize> + Clone>(state: &G, symmetry: usize) -> Result<(), String> {
    let turned = state.turned(symmetry);
    if folded(state).0 != folded(&turned).0 {
        return Err("a state and its turned form do not fold to one key".into());
    }
    if acting(state)? != acting(&turned)? || state.scores() != turned.scores() {
        return Err("seats or scores change: a turned state keeps who acts, and every score".into());
    }
    let seats = acting(state)?;
    for &seat in &seats {
        let options = listed(state, seat);
        let image: Vec<G::Action> = options.iter().map(|option| state.turn_action(symmetry, option)).collect();
        let there = listed(&turned, seat);
        if image.len() != there.len() || image.iter().any(|option| !there.contains(option)) {
            let (image, there) = (json(&image), json(&there));
            return Err(format!("the options of seat {seat} turn into {image}, and the turned state has {there}"));
        }
        for (option, image) in options.iter().zip(&image) {
            let back = state.turn_back(symmetry, image);
            if back != *option {
                let (option, image, back) = (json(option), json(image), json(&back));
                return Err(format!("{option} turns into {image}, which turns back into {back}"));
            }
            if seats.len() == 1 && after(&turned, image)?.key() != after(state, option)?.turned(symmetry).key() {
                let (option, image) = (json(option), json(image));
                return Err(format!(
                    "{option} and then turning leads elsewhere than turning and then {image}, its turned form"
                ));
            }
        }
    }
    Ok(())
}
