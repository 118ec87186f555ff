//! Promises of a game, one by capability.

use super::broken::in_words;
use super::walk::{acting, json, reads_back};
use crate::{Advance, Appraise, Chance, Choices, Game, Knob, Knobs, Noted, Options, Pictured, Scene, Seat, Shape};

/// A promise that is checked at every state of the matches of one level.
pub(super) trait Promise<G> {
    /// Errs with how this state breaks it.
    fn holds(&mut self, state: &G, chance: &mut Chance) -> Result<(), String>;

    /// Errs if it was never put to the test.
    fn tested(&self) -> Result<(), String> {
        Ok(())
    }
}

/// A promise made ready for the matches of one level.
pub(super) type Made<G> = Box<dyn Promise<G>>;

impl<G, F: FnMut(&G, &mut Chance) -> Result<(), String>> Promise<G> for F {
    fn holds(&mut self, state: &G, chance: &mut Chance) -> Result<(), String> {
        self(state, chance)
    }
}

/// An action that has to be legal: drawn, listed, or a neighbour of one that is listed.
pub(super) fn any_action<G: Options>(game: &G, seat: Seat, chance: &mut Chance) -> G::Action {
    if chance.happens(0.5) {
        return game.draw(seat, chance);
    }
    let options = listed(game, seat);
    let option = &options[chance.below(options.len())];
    if chance.happens(0.5) { option.clone() } else { game.nudge(seat, option, chance) }
}

pub(super) fn listed<G: Options>(game: &G, seat: Seat) -> Vec<G::Action> {
    let mut options = Vec::new();
    game.options(seat, &mut options);
    options
}

/// Returns the state after every acting seat took an action of this kind.
pub(super) fn advanced<G: Game + Clone>(
    state: &G,
    mut action: impl FnMut(Seat) -> G::Action,
    chance: &mut Chance,
) -> Result<(G, Advance), String> {
    let mut next = state.clone();
    let mut choices = Choices::none(state.seats());
    acting(state)?.into_iter().for_each(|seat| choices.set(seat, action(seat)));
    let advance = next.advance(&choices, chance);
    Ok((next, advance))
}

pub(super) fn options<G: Options<Action: serde::Serialize + serde::de::DeserializeOwned> + 'static>(
    _: &Knobs,
) -> Made<G> {
    Box::new(|state: &G, _: &mut Chance| {
        for seat in acting(state)? {
            let options = listed(state, seat);
            if options.is_empty() {
                return Err(format!("seat {seat} acts and has no option"));
            }
            for (place, option) in options.iter().enumerate() {
                reads_back(option)?;
                if options[..place].contains(option) {
                    return Err(format!("the option {} of seat {seat} is listed twice", json(option)));
                }
                let repaired = state.repair(seat, option);
                if repaired != *option {
                    let (option, repaired) = (json(option), json(&repaired));
                    return Err(format!("`repair` makes {repaired} of {option}, an option of seat {seat}"));
                }
            }
        }
        Ok(())
    })
}

pub(super) fn appraised<G: Appraise + 'static>(knobs: Vec<Knob>) -> Made<G> {
    Box::new(move |state: &G, _: &mut Chance| {
        let values = Knobs::default().resolve(&knobs).map_err(|errors| in_words(&errors))?;
        let number = |knob: &Knob| {
            let value = values.get(&knob.name).and_then(crate::KnobValue::number);
            value.ok_or_else(|| format!("the weight `{}` is not a number", knob.name))
        };
        let weights: Vec<f64> = knobs.iter().map(number).collect::<Result<_, _>>()?;
        let value = |seat| state.appraise(seat, &weights);
        // Only states in play are asked for a value.
        let seats = if acting(state)?.is_empty() { 0 } else { state.seats() };
        match (0..seats).find(|&seat| !value(seat).is_finite()) {
            Some(seat) => Err(format!("`appraise` gives seat {seat} the value {}", value(seat))),
            None => Ok(()),
        }
    })
}

pub(super) fn noted<G: Noted<View: serde::Serialize> + 'static>(_: &Knobs) -> Made<G> {
    Box::new(|state: &G, _: &mut Chance| {
        let text = state.note();
        if text.lines().count() != 1 || text.trim() != text {
            return Err(format!("the position {text:?} is not one line of text without blanks around it"));
        }
        let back = state.read_note(&text).map_err(|error| format!("the position `{text}` cannot be read: {error}"))?;
        let (again, turn, other) = (back.note(), acting(state)?, acting(&back)?);
        if again != text {
            return Err(format!("the position `{text}` reads back as `{again}`"));
        }
        if turn != other {
            return Err(format!("at `{text}` {turn:?} are to act, and {other:?} once it is read back"));
        }
        for seat in turn {
            let (shown, other) = (json(&state.view(seat)), json(&back.view(seat)));
            if shown != other {
                return Err(format!("at `{text}` seat {seat} sees {shown}, and {other} once it is read back"));
            }
        }
        let wrong = "no position at all";
        if state.read_note(wrong).is_ok() {
            return Err(format!("`read_note` takes the text `{wrong}`; it has to say what is wrong with it"));
        }
        Ok(())
    })
}

pub(super) fn pictured<G: Pictured + 'static>(_: &Knobs) -> Made<G> {
    Box::new(|state: &G, _: &mut Chance| {
        let mut scene = Scene::default();
        state.scene(&mut scene);
        let (low, high) = (scene.low, scene.high);
        if !(low[0] < high[0] && low[1] < high[1]) {
            return Err(format!("its picture has a window without area, from {low:?} to {high:?}"));
        }
        let without_place = |shape: &&Shape| shape.numbers().iter().any(|number| !number.is_finite());
        if let Some(shape) = scene.shapes.iter().find(without_place) {
            return Err(format!("its picture has a shape without a place: {shape:?}"));
        }
        for seat in 0..state.seats() {
            let mut sight = Vec::new();
            state.sight(seat, &mut sight);
            if let Some(shape) = sight.iter().find(without_place) {
                return Err(format!("what seat {seat} perceives has a shape without a place: {shape:?}"));
            }
            if let Some(place) = state.place(seat).filter(|place| place.iter().any(|number| !number.is_finite())) {
                return Err(format!("seat {seat} is at {place:?} in its picture"));
            }
        }
        Ok(())
    })
}
