//! Optional capabilities of a game beside its rules, one for each need of a generic agent.

use std::hash::Hash;

use serde::Serialize;
use serde::de::DeserializeOwned;

use crate::{Chance, Game, Scene, Seat, Shape};

/// Finitely many legal actions, or a coarse finite set where the true one is continuous.
pub trait Options: Game {
    /// Appends the options of a seat that acts now; never empty for such a seat.
    fn options(&self, seat: Seat, into: &mut Vec<Self::Action>);

    /// A random action of a seat that acts now. A game with a continuous action draws from all of it; one that knows
    /// a way without listing the options may take it, as playouts live by this, and draws each as often as any other.
    fn draw(&self, seat: Seat, chance: &mut Chance) -> Self::Action {
        let mut options = Vec::new();
        self.options(seat, &mut options);
        options.swap_remove(chance.below(options.len()))
    }

    /// A random neighbour of `action`, for planners that change a plan a little; by default any action.
    fn nudge(&self, seat: Seat, _action: &Self::Action, chance: &mut Chance) -> Self::Action {
        self.draw(seat, chance)
    }

    /// `action` if it is legal for a seat that acts now, else the legal one most like it; by default the first option.
    fn repair(&self, seat: Seat, action: &Self::Action) -> Self::Action {
        let mut options = Vec::new();
        self.options(seat, &mut options);
        if options.contains(action) { action.clone() } else { options.swap_remove(0) }
    }
}

/// States to think with.
pub trait Imagine: Game + Clone {
    /// Returns a full state consistent with the knowledge of `seat`: a copy under perfect information; otherwise the
    /// hidden part is drawn from `chance`. The seat's view of it equals its view of the true state. None if the game
    /// cannot.
    fn imagine(&self, seat: Seat, chance: &mut Chance) -> Option<Self>;
}

/// A heuristic value of a state.
pub trait Appraise: Game {
    /// Returns the value of the state for `seat`, in units of score margin, by default the margin itself. `weights`
    /// follow the order of the knobs. Only called on states in play; after the end the final margin counts.
    fn appraise(&self, seat: Seat, _weights: &[f64]) -> f64 {
        margin(self.scores(), seat)
    }

    /// Whether something is just happening, so that the value of this state misleads and one more turn should be
    /// looked at.
    fn unsettled(&self) -> bool {
        false
    }
}

/// The lead of a seat: its score less the best of the others; its score alone where there are no others.
#[inline]
pub fn margin(scores: &[f64], seat: Seat) -> f64 {
    if let [first, second] = scores {
        return if seat == 0 { first - second } else { second - first };
    }
    let others = scores.iter().enumerate().filter(|(other, _)| *other != seat).map(|(_, score)| *score);
    let best = others.fold(f64::NEG_INFINITY, f64::max);
    if best == f64::NEG_INFINITY { scores[seat] } else { scores[seat] - best }
}

/// A small key of a state, and the symmetries under which it may be folded.
pub trait Keyed: Game {
    /// States with equal keys have equal scores and the same future.
    type Key: Copy + Ord + Hash + Send + 'static;

    /// The key of this state.
    fn key(&self) -> Self::Key;

    /// Returns the number of symmetries besides the identity.
    fn symmetries(&self) -> usize {
        0
    }

    /// The state as symmetry `1..=symmetries()` shows it; 0 leaves it as it is. Seats keep their places.
    #[must_use]
    fn turned(&self, _symmetry: usize) -> Self
    where
        Self: Clone,
    {
        self.clone()
    }

    /// An action of this state as it reads in the turned one.
    fn turn_action(&self, _symmetry: usize, action: &Self::Action) -> Self::Action {
        action.clone()
    }

    /// An action of the turned state as it reads in this one: the inverse of `turn_action`.
    fn turn_back(&self, _symmetry: usize, action: &Self::Action) -> Self::Action {
        action.clone()
    }
}

/// Returns the smallest key among a state and its transformed forms, with its symmetry: the key of tables, so that
/// equivalent states share one entry.
pub fn folded<G: Keyed + Clone>(game: &G) -> (G::Key, usize) {
    let turned = (1..=game.symmetries()).map(|symmetry| (game.turned(symmetry).key(), symmetry));
    turned.fold((game.key(), 0), std::cmp::min)
}

/// A position as one line of text, both ways.
pub trait Noted: Game + Sized {
    /// The position as text.
    fn note(&self) -> String;

    /// Reads a position under the rules of this state. Errs with the problem and the correct form.
    fn read_note(&self, text: &str) -> Result<Self, String>;
}

/// Behaviour figures by seat.
pub trait Measured: Game {
    /// Appends one figure a measure, in the order of the game's sheet; readable at any tick. A figure that has no
    /// value yet (a share of nothing) is NaN.
    fn measures(&self, seat: Seat, into: &mut Vec<f64>);
}

/// A picture of the state made of plain shapes.
pub trait Pictured: Game {
    /// Writes the scene of this tick over `into`.
    fn scene(&self, into: &mut Scene);

    /// Appends shapes of a seat's perception, to draw over the scene: the region in sight, rays, present options. By
    /// default empty.
    fn sight(&self, _seat: Seat, _into: &mut Vec<Shape>) {}

    /// Returns the seat's place in the scene, if it has one.
    fn place(&self, _seat: Seat) -> Option<[f64; 2]> {
        None
    }
}

/// The controls by which a person plays a game in real time.
pub trait ByHand: Game {
    /// The action of a seat whose person holds the control `held` and has just pressed `tapped`: both are places in the
    /// entry's list of controls.
    fn by_hand(&self, seat: Seat, held: Option<usize>, tapped: Option<usize>) -> Self::Action;
}

/// Something that a person can press.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Control {
    /// Its name.
    pub name: String,
    /// Its effect, in a few words.
    pub help: String,
    /// The keys that press it where nobody says otherwise: a character, or `left`, `right`, `up`, `down`, `space`.
    pub keys: Vec<String>,
    /// Whether it holds until another that holds is pressed; else it acts once.
    pub holds: bool,
}

impl Control {
    /// A control that holds until another that holds is pressed.
    pub fn held(name: &str, help: &str, keys: &[&str]) -> Self {
        let keys = keys.iter().map(ToString::to_string).collect();
        Self { name: name.into(), help: help.into(), keys, holds: true }
    }

    /// A control that acts once.
    pub fn tapped(name: &str, help: &str, keys: &[&str]) -> Self {
        Self { holds: false, ..Self::held(name, help, keys) }
    }
}

/// A game that can go into a registry: it is measured, and its actions and views can be written down, and actions read
/// back, so that a match of it may be held from outside.
pub trait Playable: Measured<Action: Serialize + DeserializeOwned, View: Serialize> + 'static {}

impl<G> Playable for G
where
    G: Measured + 'static,
    G::Action: Serialize + DeserializeOwned,
    G::View: Serialize,
{
}
