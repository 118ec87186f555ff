//! A held match with hidden types: the interface of a person, another process, a trainer, or a narrator.
//!
//! `MatchTable::play` is the tight loop. A holder takes the same steps one by one: `pending`, `consider` or `choose`, `step`. Views, options, scenes and thoughts
//! are JSON. An agent that panics ends its match, not its holder.

use serde::Serialize;
use serde_json::Value;

use crate::{Rows, Scene, Seat, Shape, Thoughts};

/// One match under way, in JSON.
///
/// Every seat has an agent. Whoever holds the match may let it decide ([`HeldMatch::consider`], [`HeldMatch::turn`]) or
/// choose in its place ([`HeldMatch::choose`]). A fall of the game or of an agent ends the match; it is no error of the
/// holder, and stands in the rows.
pub trait HeldMatch: Send {
    /// Seats of the match.
    fn seats(&self) -> usize;
    /// Returns the seat's entrant: its place in the study.
    fn entrant(&self, seat: Seat) -> u16;
    /// Ticks or turns so far.
    fn tick(&self) -> u64;
    /// The scores by seat.
    fn scores(&self) -> &[f64];
    /// Why the scores changed last, in a word of the game, if it says.
    fn scored_by(&self) -> Option<String>;
    /// The scores by seat as far as this seat may know them.
    fn known_scores(&mut self, seat: Seat) -> Vec<Option<f64>>;
    /// The seats that act and have not chosen yet, in order; nobody once the match is over.
    fn pending(&self) -> Vec<Seat>;
    /// Returns the seat's present perception.
    fn view(&mut self, seat: Seat) -> Value;
    /// The options of a seat that acts, if the game lists them.
    fn options(&self, seat: Seat) -> Option<Vec<Value>>;
    /// A picture of the state, if the game draws one.
    fn scene(&self) -> Option<Scene>;
    /// Returns shapes of the seat's perception and of its agent's beliefs at the last decision, to draw over the scene.
    /// Call it between decision and step.
    fn perceived(&self, seat: Seat) -> Vec<Shape>;
    /// Returns the seat's place in the scene, if it has one.
    fn place(&self, seat: Seat) -> Option<[f64; 2]>;
    /// The position as text, if the game has that.
    fn note(&self) -> Option<String>;
    /// Asks every agent to value its options from now on, this many layers deep; changes no choice.
    fn reflect(&mut self, layers: u32);
    /// Lets the agent of a pending seat decide, and takes its choice for the coming step.
    fn consider(&mut self, seat: Seat) -> Considered;
    /// Returns the seat's action while one control is held and another was tapped, by their places; none for a game
    /// without controls.
    fn by_hand(&self, seat: Seat, held: Option<usize>, tapped: Option<usize>) -> Option<Value>;
    /// Gives the choice of a seat for the coming step. Errs when it is no action of the game, with the reason; whether
    /// it is legal shows at the step, as a fault.
    fn choose(&mut self, seat: Seat, action: Value) -> Result<(), String>;
    /// One tick with the choices given; a seat that acts without one is at fault. False once the match is over.
    fn step(&mut self) -> bool;
    /// Lets the agents of all pending seats decide, and steps. False once the match is over.
    fn turn(&mut self) -> bool;
    /// Appends the rows of the match as it stands, cut short now where it is not over.
    fn standing(&self, rows: &mut Rows);
    /// Ends the match and appends its rows: if it is not over, it was abandoned, and counts for nobody.
    fn abandon(self: Box<Self>, rows: &mut Rows);
    /// Ends the match, cut short if it is not over, and appends its rows, one a seat in order of seat.
    fn close(self: Box<Self>, rows: &mut Rows);
}

/// The answer of an agent that was asked to choose.
#[derive(Clone, Debug, PartialEq)]
pub struct Considered {
    /// The view of its seat.
    pub view: Value,
    /// Its choice, or the reason why it fell.
    pub action: Result<Value, String>,
    /// Its thoughts, if it gives any; of one that fell, as far as it got.
    pub thoughts: Option<Thoughts<Value>>,
}

/// One moment of a narrated match.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[serde(rename_all = "snake_case", tag = "event")]
#[expect(
    missing_docs,
    reason = "ticks since the start, the seat, the position as text, what it perceived, chose and weighed as JSON, scores by seat, the game's word for why they changed"
)]
pub enum Moment {
    /// A seat perceived something and chose.
    Choice {
        tick: u64,
        seat: Seat,
        #[serde(skip_serializing_if = "Option::is_none")]
        position: Option<String>,
        view: Value,
        action: Value,
        #[serde(skip_serializing_if = "Value::is_null")]
        thoughts: Value,
    },
    /// The scores changed.
    Score {
        tick: u64,
        scores: Vec<f64>,
        #[serde(skip_serializing_if = "Option::is_none")]
        by: Option<String>,
    },
}

/// The level of detail in the report of a match.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Telling {
    /// Its scores.
    Scores,
    /// Also each seat's perception and choice.
    Moves,
    /// Also the values of the options.
    Choices,
}

/// Plays a match to its end with its own agents and tells every moment on the way.
pub fn tell(mut held: Box<dyn HeldMatch>, telling: Telling, listener: &mut dyn FnMut(Moment), rows: &mut Rows) {
    if telling == Telling::Choices {
        held.reflect(1);
    }
    let mut scores = Vec::new();
    loop {
        if telling != Telling::Scores {
            let position = held.note();
            for seat in held.pending() {
                let (tick, position) = (held.tick(), position.clone());
                let considered = held.consider(seat);
                let Ok(action) = considered.action else { break };
                let thoughts = considered.thoughts.filter(|_| telling == Telling::Choices);
                let thoughts = serde_json::to_value(thoughts).unwrap_or(Value::Null);
                listener(Moment::Choice { tick, seat, position, view: considered.view, action, thoughts });
            }
        }
        let before = held.tick();
        let goes_on = held.turn();
        if held.tick() > before && held.scores() != scores {
            scores = held.scores().to_vec();
            listener(Moment::Score { tick: held.tick(), scores: scores.clone(), by: held.scored_by() });
        }
        if !goes_on {
            break;
        }
    }
    held.close(rows);
}
