//! Promises of imagined states: the seat sees the same, and they can be played on.

use serde::Serialize;

use super::promise::{Made, Promise, advanced, listed};
use super::walk::{acting, json};
use crate::{Advance, Chance, Imagine, Knobs, Options};

/// Turns that an imagined state is played on.
const PLAYED_ON: usize = 20;

/// Whether a game has imagined states, besides their invariants.
struct Imagined(bool);

pub(super) fn promise<G>(_: &Knobs) -> Made<G>
where
    G: Imagine + Options<Action: Serialize, View: Serialize> + 'static,
{
    Box::new(Imagined(false))
}

impl<G> Promise<G> for Imagined
where
    G: Imagine + Options<Action: Serialize, View: Serialize>,
{
    fn holds(&mut self, state: &G, chance: &mut Chance) -> Result<(), String> {
        let seats = acting(state)?;
        if !seats.is_empty() {
            copied(state, chance)?;
        }
        for seat in seats {
            let Some(imagined) = state.imagine(seat, chance) else { continue };
            self.0 = true;
            let differs = |what: &str, imagined: String, theirs: String| {
                format!("{what} in the state that seat {seat} imagines is {imagined}, and in the true one {theirs}")
            };
            let (true_view, other) = (json(&state.view(seat)), json(&imagined.view(seat)));
            if true_view != other {
                return Err(differs("what it sees", other, true_view));
            }
            let (true_turn, other) = (acting(state)?, acting(&imagined)?);
            if true_turn != other {
                return Err(differs("who acts", format!("{other:?}"), format!("{true_turn:?}")));
            }
            let (true_options, other) = (json(&listed(state, seat)), json(&listed(&imagined, seat)));
            if true_options != other {
                return Err(differs("what it may do", other, true_options));
            }
            for of in (0..state.seats()).filter(|&of| state.knows_score(seat, of)) {
                let (true_score, other) = (state.scores()[of], imagined.scores()[of]);
                if true_score.to_bits() != other.to_bits() {
                    return Err(differs(&format!("the score of seat {of}"), other.to_string(), true_score.to_string()));
                }
            }
            played_on(imagined, chance).map_err(|what| format!("in a state that seat {seat} imagines, {what}"))?;
        }
        Ok(())
    }

    fn tested(&self) -> Result<(), String> {
        let never = || "`imagine` gave no state at all, and agents that think ahead need one".into();
        self.0.then_some(()).ok_or_else(never)
    }
}

/// A copy that is advanced leaves the state as it was, and goes the same way as another copy.
fn copied<G: Options<Action: Serialize, View: Serialize> + Clone>(
    state: &G,
    chance: &mut Chance,
) -> Result<(), String> {
    let all = |state: &G| -> Result<Vec<String>, String> {
        let views = acting(state)?.into_iter().map(|seat| json(&state.view(seat)));
        Ok(views.chain([format!("{:?}", state.scores())]).collect())
    };
    let (before, seed) = (all(state)?, chance.bits());
    let once = || {
        let (mut draw, mut world) = (Chance::from_seed(seed), Chance::from_seed(!seed));
        advanced(state, |seat| state.draw(seat, &mut draw), &mut world)
    };
    let ((first, _), (second, _)) = (once()?, once()?);
    if all(&first)? != all(&second)? {
        return Err(format!(
            "two copies of one state go apart under the same choices and the same chance: {:?} and {:?}",
            all(&first)?,
            all(&second)?
        ));
    }
    if all(state)? != before {
        return Err("advancing a copy of the state changed the state itself".into());
    }
    Ok(())
}

fn played_on<G: Options<Action: Serialize> + Clone>(state: G, chance: &mut Chance) -> Result<(), String> {
    let mut state = state;
    for _ in 0..PLAYED_ON {
        let seats = acting(&state)?;
        if seats.is_empty() {
            break;
        }
        if let Some(seat) = seats.into_iter().find(|&seat| listed(&state, seat).is_empty()) {
            return Err(format!("seat {seat} acts later on and has no option"));
        }
        let mut drawn = Vec::new();
        let mut draw = Chance::from_seed(chance.bits());
        let action = |seat| {
            let action = state.draw(seat, &mut draw);
            drawn.push(json(&action));
            action
        };
        let (next, advance) = advanced(&state, action, chance)?;
        match advance {
            Advance::Fine => state = next,
            Advance::Faults(_) => {
                return Err(format!("`draw` gives {}, and `advance` finds it illegal", drawn.join(" and ")));
            }
            Advance::Fell(reason) => return Err(format!("the game failed: {reason}")),
        }
    }
    Ok(())
}
