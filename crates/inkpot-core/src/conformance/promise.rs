//! What a game promises by each of its capabilities.

use super::walk::{acting, json, reads_back};
use crate::{Advance, Appraise, Chance, Choices, Game, Imagine, Knobs, Noted, Options, Pictured, Scene, Seat, Shape};

/// How often an imagined state is played on, and how far.
const PLAYED_ON: usize = 20;

/// A promise that is checked at every state of the matches of one level.
pub(super) trait Promise<G> {
    /// Errs with how this state breaks it.
    fn holds(&mut self, state: &G, chance: &mut Chance) -> Result<(), String>;

    /// Errs if it was never put to the test.
    fn seen(&self) -> Result<(), String> {
        Ok(())
    }
}

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

/// The state after everybody who acts took an action of this kind.
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

pub(super) fn options<G: Options<Action: serde::Serialize + serde::de::DeserializeOwned> + 'static>()
-> Box<dyn Promise<G>> {
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

/// Whether a game can be imagined at all, beside what has to hold of what it gives.
struct Imagined(bool);

pub(super) fn imagined<G>() -> Box<dyn Promise<G>>
where
    G: Imagine + Options<Action: serde::Serialize, View: serde::Serialize> + 'static,
{
    Box::new(Imagined(false))
}

impl<G> Promise<G> for Imagined
where
    G: Imagine + Options<Action: serde::Serialize, View: serde::Serialize>,
{
    fn holds(&mut self, state: &G, chance: &mut Chance) -> Result<(), String> {
        let seats = acting(state)?;
        if !seats.is_empty() {
            copied(state, chance)?;
        }
        for seat in seats {
            let Some(imagined) = state.imagine(seat, chance) else { continue };
            self.0 = true;
            let differs = |what: &str, imagined: String, own: String| {
                format!("{what} in the state that seat {seat} imagines is {imagined}, and in the true one {own}")
            };
            let (own, other) = (json(&state.view(seat)), json(&imagined.view(seat)));
            if own != other {
                return Err(differs("what it sees", other, own));
            }
            let (own, other) = (acting(state)?, acting(&imagined)?);
            if own != other {
                return Err(differs("who acts", format!("{other:?}"), format!("{own:?}")));
            }
            let (own, other) = (json(&listed(state, seat)), json(&listed(&imagined, seat)));
            if own != other {
                return Err(differs("what it may do", other, own));
            }
            for of in (0..state.seats()).filter(|&of| state.knows_score(seat, of)) {
                let (own, other) = (state.scores()[of], imagined.scores()[of]);
                if own.to_bits() != other.to_bits() {
                    return Err(differs(&format!("the score of seat {of}"), other.to_string(), own.to_string()));
                }
            }
            played_on(imagined, chance).map_err(|what| format!("in a state that seat {seat} imagines, {what}"))?;
        }
        Ok(())
    }

    fn seen(&self) -> Result<(), String> {
        let never = || "`imagine` gave no state at all, and agents that think ahead need one".into();
        self.0.then_some(()).ok_or_else(never)
    }
}

/// A copy that is advanced leaves the state as it was, and goes the same way as another copy.
fn copied<G: Options<Action: serde::Serialize, View: serde::Serialize> + Clone>(
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

fn played_on<G: Options<Action: serde::Serialize> + Clone>(state: G, chance: &mut Chance) -> Result<(), String> {
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
            Advance::Fell(reason) => return Err(format!("the game fell: {reason}")),
        }
    }
    Ok(())
}

pub(super) fn appraised<G: Appraise + 'static>() -> Box<dyn Promise<G>> {
    Box::new(|state: &G, _: &mut Chance| {
        let knobs = G::weights();
        let values = Knobs::default().resolve(&knobs).map_err(|errors| super::in_words(&errors))?;
        let number = |knob: &crate::Knob| {
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

pub(super) fn noted<G: Noted<View: serde::Serialize> + 'static>() -> Box<dyn Promise<G>> {
    Box::new(|state: &G, _: &mut Chance| {
        let text = state.note();
        if text.lines().count() != 1 || text.trim() != text {
            return Err(format!("the position {text:?} is not one line of text without blanks around it"));
        }
        let back = state.read_note(&text).map_err(|error| format!("the position `{text}` cannot be read: {error}"))?;
        let (again, own, other) = (back.note(), acting(state)?, acting(&back)?);
        if again != text {
            return Err(format!("the position `{text}` reads back as `{again}`"));
        }
        if own != other {
            return Err(format!("at `{text}` {own:?} are to act, and {other:?} once it is read back"));
        }
        for seat in own {
            let (own, other) = (json(&state.view(seat)), json(&back.view(seat)));
            if own != other {
                return Err(format!("at `{text}` seat {seat} sees {own}, and {other} once it is read back"));
            }
        }
        let wrong = "no position at all";
        if state.read_note(wrong).is_ok() {
            return Err(format!("`read_note` takes the text `{wrong}`; it has to say what is wrong with it"));
        }
        Ok(())
    })
}

pub(super) fn pictured<G: Pictured + 'static>() -> Box<dyn Promise<G>> {
    Box::new(|state: &G, _: &mut Chance| {
        let mut scene = Scene::default();
        state.scene(&mut scene);
        let (low, high) = (scene.low, scene.high);
        if !(low[0] < high[0] && low[1] < high[1]) {
            return Err(format!("its picture has a window without area, from {low:?} to {high:?}"));
        }
        let numbers = |shape: &Shape| match shape {
            Shape::Line { from, to, width, .. } => vec![from[0], from[1], to[0], to[1], *width],
            Shape::Rectangle { low, high, .. } => vec![low[0], low[1], high[0], high[1]],
            Shape::Circle { centre, radius, .. } => vec![centre[0], centre[1], *radius],
            Shape::Text { at, .. } => vec![at[0], at[1]],
        };
        match scene.shapes.iter().find(|shape| numbers(shape).iter().any(|number| !number.is_finite())) {
            Some(shape) => Err(format!("its picture has a shape without a place: {shape:?}")),
            None => Ok(()),
        }
    })
}
