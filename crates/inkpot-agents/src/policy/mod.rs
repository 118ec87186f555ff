//! `policy`: plays by a learned model of any kind.
//!
//! A [`Model`] judges what an agent sees; the policy keeps to a choice, softens it and tells what it weighed. A game says
//! which kinds of model its policies can be ([`ModelKind`]): [`networks`] where it has features, [`tables`] where its
//! positions are filed.

mod networks;
mod tables;
mod trained;

use inkpot_core::{
    Agent, AgentKind, Chance, Game, GaveUp, Knob, KnobValue, Knobs, Laying, Options, Person, Seat, Sight, Thoughts,
    Weighed,
};

use crate::Graded;
use crate::limits::temper;
use crate::soft::{drawn, even_shares, shares};

pub use networks::networks;
pub use tables::tables;

pub(crate) use networks::{differs, features};
pub(crate) use trained::read;

/// A model by which a policy plays.
pub trait Model<G: Game>: Send {
    /// Begins a match in this seat.
    fn begin(&mut self, seat: Seat, chance: &mut Chance);

    /// Observes and writes the value of each option into `values`; NaN if unknown, empty if the model gives an action
    /// instead. Errs where it cannot judge.
    fn judge(&mut self, sight: &Sight<'_, G>, chance: &mut Chance, values: &mut Vec<f64>) -> Result<(), GaveUp>;

    /// The best of these values; which of equals is the model's own.
    fn best(&self, values: &[f64], chance: &mut Chance) -> usize;

    /// Whether any of these values may be the best, as [`Model::best`] has it; none where that is not known.
    fn may_be_best(&self, _values: &[f64], _option: usize) -> Option<bool> {
        None
    }

    /// The action that an option means now, or the action that it gave where it has no options.
    fn act(&self, sight: &Sight<'_, G>, option: usize) -> G::Action;

    /// Returns the latest observation, in the order of the model's inputs, and its outputs; none for a model without
    /// figures.
    fn observed(&self) -> Option<(&[f32], &[f32])> {
        None
    }

    /// Whether values are logarithms of chances, as those of a stochastic policy are.
    fn gives_chances(&self) -> bool {
        false
    }
}

/// Makes a model for each agent.
pub type Models<G> = Box<dyn Fn() -> Box<dyn Model<G>> + Send + Sync>;

/// A kind of model, with the files that hold one.
pub struct ModelKind<G: Game> {
    /// A line about an agent of this kind.
    about: &'static str,
    /// The knob `file`, with its help.
    file: Knob,
    /// The endings of its file names.
    endings: &'static [&'static str],
    /// Knobs of its own.
    knobs: Vec<Knob>,
    /// Reads a model. Errs with the problem.
    read: fn(&Knobs, &Laying) -> Result<Models<G>, String>,
}

/// The kind `policy`: it plays by a model of one of these kinds, the one that its file is of.
///
/// # Panics
/// Where there are no kinds.
pub fn policy<G: Options + 'static>(kinds: Vec<ModelKind<G>>) -> AgentKind<G> {
    let (about, file) = match kinds.as_slice() {
        [] => panic!("a policy plays by something"),
        [only] => (only.about, only.file.clone()),
        _ => (
            "plays by a model that was learned",
            Knob::file("file", "a network (safetensors or ONNX) or a table (CSV)")
                .help("the model, as a search or a training wrote it"),
        ),
    };
    let mut kind = AgentKind::new("policy", about).knob(file);
    for extra in kinds.iter().flat_map(|kind| &kind.knobs) {
        if kind.sheet().knobs.iter().all(|knob| knob.name != extra.name) {
            kind = kind.knob(extra.clone());
        }
    }
    kind.knob(trained::training())
        .knob(temper())
        .factory_for(move |knobs, laying| {
            let models = (of_file(&kinds, knobs)?.read)(knobs, laying)?;
            let every = knobs.get("decide_every").and_then(KnobValue::number).unwrap_or(1.0) as u32;
            let temper = knobs.number("temper");
            Ok(Box::new(move |_person| Box::new(Policy::new(models(), every, temper))))
        })
        .graded()
}

/// The kind of model that the file of these knobs holds, by its name. Errs where no kind has such files.
fn of_file<'a, G: Game>(kinds: &'a [ModelKind<G>], knobs: &Knobs) -> Result<&'a ModelKind<G>, String> {
    let Some(KnobValue::File { file, .. }) = knobs.get("file") else {
        return Err("the knob `file` names no file".into());
    };
    if let [only] = kinds {
        // It says itself what is wrong with another file.
        return Ok(only);
    }
    let is_of = |kind: &&ModelKind<G>| kind.endings.iter().any(|ending| file.ends_with(ending));
    let known = || kinds.iter().flat_map(|kind| kind.endings).copied().collect::<Vec<_>>().join(", ");
    kinds.iter().find(is_of).ok_or_else(|| format!("`{file}` cannot be used: its name ends in none of {}", known()))
}

struct Policy<G: Game> {
    model: Box<dyn Model<G>>,
    every: u32,
    temper: f64,
    /// Decisions for which the choice is kept.
    left: u32,
    /// The option that is kept to.
    chosen: usize,
    seat: Seat,
    chance: Chance,
    values: Vec<f64>,
    /// The present actions of the options, for readers of its thoughts.
    options: Vec<G::Action>,
    /// Whether somebody reads its thoughts.
    reflects: bool,
}

impl<G: Game> Policy<G> {
    fn new(model: Box<dyn Model<G>>, every: u32, temper: f64) -> Self {
        Self {
            model,
            every,
            temper,
            left: 0,
            chosen: 0,
            seat: 0,
            chance: Chance::from_seed(0),
            values: Vec::new(),
            options: Vec::new(),
            reflects: false,
        }
    }

    /// The best option, or, softened, one the likelier the better it is.
    fn option(&mut self) -> usize {
        let best = self.model.best(&self.values, &mut self.chance);
        if self.temper == 0.0 { best } else { drawn(&self.values, self.temper, &mut self.chance).unwrap_or(best) }
    }
}

impl<G: Game> Agent<G> for Policy<G> {
    fn begin(&mut self, seat: Seat, chance: Chance) {
        self.left = 0;
        self.seat = seat;
        self.chance = chance;
        self.model.begin(seat, &mut self.chance);
    }

    fn shares(&mut self, sight: &Sight<'_, G>, options: &[G::Action]) -> Option<Vec<f64>> {
        if self.every > 1 {
            return None;
        }
        self.values.clear();
        self.model.judge(sight, &mut self.chance, &mut self.values).ok()?;
        let known = (self.temper > 0.0 && self.values.iter().any(|value| value.is_finite()))
            .then(|| shares(&self.values, self.temper));
        let by_option = if let Some(shares) = known {
            shares
        } else {
            self.model.may_be_best(&self.values, 0)?;
            let is_best = |option| self.model.may_be_best(&self.values, option).unwrap_or_default();
            even_shares(self.values.len(), is_best)?
        };
        let actions: Vec<G::Action> = (0..by_option.len()).map(|option| self.model.act(sight, option)).collect();
        let share = |action: &G::Action| -> f64 {
            actions.iter().zip(&by_option).filter(|(other, _)| *other == action).map(|(_, share)| share).sum()
        };
        Some(options.iter().map(share).collect())
    }

    fn renew(&mut self, _person: &Person) -> bool {
        self.reflects = false;
        true
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        if self.left == 0 {
            self.left = self.every;
            self.values.clear();
            self.model.judge(sight, &mut self.chance, &mut self.values)?;
            if !self.values.is_empty() {
                self.chosen = self.option();
            }
        }
        self.left -= 1;
        if self.reflects {
            self.options.clear();
            self.options.extend((0..self.values.len()).map(|option| self.model.act(sight, option)));
        }
        Ok(self.model.act(sight, self.chosen))
    }

    fn reflect(&mut self, _layers: u32) {
        self.reflects = true;
    }

    /// Returns the value of each option at the last look; for a model of chances the chance, with its logarithm as the
    /// value. Options that mean the same action now are one.
    fn thoughts(&self) -> Option<Thoughts<G::Action>> {
        let figures = self.model.observed().filter(|_| self.reflects);
        if self.options.is_empty() && figures.is_none() {
            return None;
        }
        let chances = self.model.gives_chances().then(|| shares(&self.values, 1.0));
        let mut all: Vec<Weighed<G::Action>> = Vec::new();
        for (place, (option, value)) in self.options.iter().zip(&self.values).enumerate() {
            let share = chances.as_ref().map(|chance| chance[place]);
            let known = all.iter_mut().find(|known| known.option == *option);
            match known {
                Some(known) => {
                    known.share = known.share.zip(share).map(|(a, b)| a + b);
                    known.value = known.value.max(*value);
                }
                None => all.push(Weighed { share, ..Weighed::new(option.clone(), *value).of_seat(self.seat) }),
            }
        }
        for weighed in &mut all {
            weighed.value = weighed.share.map_or(weighed.value, libm::log);
        }
        let (observed, given) =
            figures.map(|(observed, given)| (observed.to_vec(), given.to_vec())).unwrap_or_default();
        Some(Thoughts { observed, given, ..Thoughts::of(all) })
    }
}
