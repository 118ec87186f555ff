//! An explanation: an agent's values at one position of a held match.

use serde::Serialize;
use serde_json::Value;
use thiserror::Error;

use crate::{CountError, HeldMatch, PositionError, ResponseError, Seat, SettingError, Thoughts};

/// The thoughts of an agent about one position.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Explained {
    /// The position as text, if the game has that.
    pub position: Option<String>,
    /// Whose decision; none when the match is over at this position.
    pub seat: Option<Seat>,
    /// The scores by seat.
    pub scores: Vec<f64>,
    /// The option that it chose; none when the match is over, or the agent fell.
    pub best: Option<Value>,
    /// Its thoughts, if it gives any.
    pub thoughts: Option<Thoughts<Value>>,
    /// The reason why the agent fell, if it did; `thoughts` then says how far it had got.
    pub fell: Option<String>,
}

/// An error: nothing can be said about the position.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum InquiryError {
    /// There is no match to ask about.
    #[error(transparent)]
    Setting(#[from] SettingError),
    /// The position cannot be read.
    #[error(transparent)]
    Position(#[from] PositionError),
    /// The seat does not decide here.
    #[error("seat {seat} does not decide here, but {acting}")]
    #[expect(missing_docs, reason = "the seat asked for, and those that decide in words")]
    NotActing { seat: Seat, acting: String },
    /// The match is over before the turn.
    #[error("the match has {turns} turns, and none is number {turn}")]
    #[expect(missing_docs, reason = "the turn asked for, and those of the match")]
    NoTurn { turn: u64, turns: u64 },
    /// The game cannot be counted.
    #[error("`{game}` cannot be counted: that takes a game of turns without chance")]
    #[expect(missing_docs, reason = "the game's name")]
    NotCounted { game: String },
    /// Exact responses need a game of turns with positions as text.
    #[error("`{game}` cannot be solved: that takes a game of turns between two, with keys and positions as text")]
    #[expect(missing_docs, reason = "the game's name")]
    NotSolved { game: String },
    /// Solving failed.
    #[error(transparent)]
    Response(#[from] ResponseError),
    /// Counting failed.
    #[error(transparent)]
    Count(#[from] CountError),
}

/// Plays a match on to this turn, counted from 1, and asks there: the decision is the one that was made, with the same
/// chance and all that the agent had kept of the match.
pub fn explain_turn(
    held: &mut dyn HeldMatch,
    turn: u64,
    seat: Option<Seat>,
    layers: u32,
) -> Result<Explained, InquiryError> {
    while held.tick() + 1 < turn && held.turn() {}
    if turn == 0 || held.pending().is_empty() {
        return Err(InquiryError::NoTurn { turn, turns: held.tick() });
    }
    explain(held, seat, layers)
}

/// Asks the agent of a seat, or of the first that acts, to decide, and to value this many layers of options and
/// replies; 1 is the options alone.
pub fn explain(held: &mut dyn HeldMatch, seat: Option<Seat>, layers: u32) -> Result<Explained, InquiryError> {
    let acting = held.pending();
    let (position, scores) = (held.note(), held.scores().to_vec());
    let Some(&first) = acting.first() else {
        return Ok(Explained { position, seat: None, scores, best: None, thoughts: None, fell: None });
    };
    let seat = seat.unwrap_or(first);
    if !acting.contains(&seat) {
        let names: Vec<String> = acting.iter().map(|seat| format!("seat {seat}")).collect();
        return Err(InquiryError::NotActing { seat, acting: names.join(" and ") });
    }
    held.reflect(layers.max(1));
    let considered = held.consider(seat);
    let fell = considered.action.as_ref().err().cloned();
    Ok(Explained {
        position,
        seat: Some(seat),
        scores,
        best: considered.action.ok(),
        thoughts: considered.thoughts,
        fell,
    })
}
