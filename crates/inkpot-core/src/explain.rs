//! What an agent weighs at one position, with the types of the game hidden.

use serde::Serialize;
use serde_json::Value;
use thiserror::Error;

use crate::count::CountError;
use crate::entry::Positions;
use crate::fall::catch;
use crate::{Agent, Factory, Game, Knobs, Person, Seat, Sight, Streams, Thoughts};

/// Where something is asked about.
#[derive(Clone, Debug, PartialEq)]
pub struct Place {
    /// Every rules knob.
    pub rules: Knobs,
    /// Name of the level.
    pub level: String,
    /// Seed of all chance.
    pub seed: u64,
    /// The position as text; the start if none.
    pub position: Option<String>,
}

/// What an agent is asked at a place.
#[derive(Clone, Debug, PartialEq)]
pub struct Inquiry {
    /// Where.
    pub place: Place,
    /// Agent kind.
    pub kind: String,
    /// Every knob of the kind.
    pub knobs: Knobs,
    /// Whose decision; that of the first seat that acts if none.
    pub seat: Option<Seat>,
    /// Layers of options and replies to value; 1 is the options alone.
    pub layers: u32,
}

/// What an agent weighed.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Explained {
    /// The position as text, if the game has that.
    pub position: Option<String>,
    /// Whose decision; none when the match is over at this position.
    pub seat: Option<Seat>,
    /// The scores by seat.
    pub scores: Vec<f64>,
    /// What it chose; none when the match is over, or the agent fell.
    pub best: Option<Value>,
    /// What it weighed, if it says so.
    pub thoughts: Option<Thoughts<Value>>,
    /// Why the agent fell, if it did; `thoughts` then says how far it had got.
    pub fell: Option<String>,
}

/// Why nothing can be said about a position.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum InquiryError {
    /// The game has no such agent kind.
    #[error("the game `{game}` has no agent `{kind}`")]
    #[expect(missing_docs, reason = "the game's and the kind's names")]
    NoSuchAgent { game: String, kind: String },
    /// The game has no position text.
    #[error("positions of `{game}` cannot be written as text")]
    #[expect(missing_docs, reason = "the game's name")]
    NoPositions { game: String },
    /// The text is no position.
    #[error("this is no position of `{game}`: {reason}")]
    #[expect(missing_docs, reason = "the game's name; what is wrong and how to write it")]
    Position { game: String, reason: String },
    /// The seat does not decide here.
    #[error("seat {seat} does not decide here, but {acting}")]
    #[expect(missing_docs, reason = "the seat asked for, and those that decide in words")]
    NotActing { seat: Seat, acting: String },
    /// The game cannot be counted.
    #[error("`{game}` cannot be counted: that takes a game of turns without chance")]
    #[expect(missing_docs, reason = "the game's name")]
    NotCounted { game: String },
    /// Counting failed.
    #[error(transparent)]
    Count(#[from] CountError),
}

/// Asks an agent of this factory to decide at a state.
pub(crate) fn explain<G: Game>(
    state: &G,
    positions: Option<&Positions<G>>,
    factory: &Factory<G>,
    inquiry: &Inquiry,
) -> Result<Explained, InquiryError>
where
    G::Action: Serialize,
{
    let mut acting = Vec::new();
    state.acting().for_each(state.seats(), |seat| acting.push(seat));
    let position = positions.map(|positions| (positions.note)(state));
    let scores = state.scores().to_vec();
    let Some(&first) = acting.first() else {
        return Ok(Explained { position, seat: None, scores, best: None, thoughts: None, fell: None });
    };
    let seat = inquiry.seat.unwrap_or(first);
    if !acting.contains(&seat) {
        let names: Vec<String> = acting.iter().map(|seat| format!("seat {seat}")).collect();
        return Err(InquiryError::NotActing { seat, acting: names.join(" and ") });
    }
    let streams = Streams::of_study(inquiry.place.seed);
    let mut made: Option<Box<dyn Agent<G>>> = None;
    let choice = catch(|| {
        let agent = made.insert(factory(Person::new(streams.person(0, seat))));
        agent.begin(seat, streams.seat(0, 0, seat));
        agent.reflect(inquiry.layers.max(1));
        let mut view = G::View::default();
        state.view(seat, &mut view);
        agent.choose(&Sight::new(state, &view, seat, 0))
    });
    // An agent that panicked may panic again when asked for its thoughts.
    let thoughts = catch(|| made.as_ref().and_then(|agent| agent.thoughts())).ok().flatten();
    let json = |action: &G::Action| serde_json::to_value(action).unwrap_or(Value::Null);
    Ok(Explained {
        position,
        seat: Some(seat),
        scores,
        best: choice.as_ref().ok().map(json),
        thoughts: thoughts.map(|thoughts| thoughts.map(&json)),
        fell: choice.err(),
    })
}
