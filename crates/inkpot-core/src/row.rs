//! Rows: the record of a match, one a seat.

use std::borrow::Cow;
use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

/// The ending of a match that a person left.
pub(crate) const ABANDONED: &str = "abandoned";

/// One seat's side of one match.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Row {
    /// Pairing or point of the study.
    pub cell: u32,
    /// Block within the cell.
    pub block: u64,
    /// Rotation of the entrants over the seats.
    pub rotation: u16,
    /// Number of the match in the study.
    pub match_index: u64,
    /// The seat.
    pub seat: u16,
    /// The entrant's place in the study.
    pub entrant: u16,
    /// The seed of the block's world.
    pub world_seed: u64,
    /// Final score.
    pub score: f64,
    /// The outcome of the seat.
    pub outcome: Outcome,
    /// Place, 1 is best; 0 when the match is void.
    pub placement: u16,
    /// Length of the match in ticks or turns.
    pub ticks: u64,
    /// The reason for the match's end.
    pub ending: Cow<'static, str>,
    /// Whether it was cut short instead of decided.
    pub cut_short: bool,
    /// Illegal choices, late answers, crashes of this seat.
    pub faults: u32,
    /// Late answers among them.
    pub late: u32,
    /// Crashes among them: 1 where its agent fell, or gave up.
    pub crashed: u32,
    /// Mean time of the timed decisions in microseconds, NaN if none; differs from run to run.
    pub decision_us: f32,
    /// The times of its decisions, if each was timed, as [`DecisionTimes::to_bytes`](crate::DecisionTimes::to_bytes)
    pub decision_times: Option<Vec<u8>>,
    /// Mean number of states its agent advanced for a decision; 0 if it does not search.
    pub nodes: f64,
    /// The lead of the first seat over the second at even moments of the match, where that is kept, with the first
    /// seat; see [`read_leads`](crate::read_leads).
    pub leads: Option<Vec<u8>>,
    /// The choices of the seat as JSON, `[[choice, times in a row], ...]`, where they are kept.
    pub choices: Option<String>,
    /// The incident, if there was one: the message and the last choices.
    pub incident: Option<String>,
}

impl Row {
    /// Returns an empty row, for callers that fill in some fields.
    pub fn blank() -> Self {
        Self {
            cell: 0,
            block: 0,
            rotation: 0,
            match_index: 0,
            seat: 0,
            entrant: 0,
            world_seed: 0,
            score: f64::NAN,
            outcome: Outcome::Void,
            placement: 0,
            ticks: 0,
            ending: Cow::Borrowed(""),
            cut_short: false,
            faults: 0,
            late: 0,
            crashed: 0,
            decision_us: f32::NAN,
            decision_times: None,
            nodes: 0.0,
            leads: None,
            choices: None,
            incident: None,
        }
    }
}

/// The outcome of a match for a seat.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Outcome {
    /// First place, alone.
    Win,
    /// First place, shared.
    Draw,
    /// Any other place.
    Loss,
    /// The game fell: the match counts for nobody.
    Void,
}

impl Outcome {
    /// All of them, in the order of their numbers in stored rows.
    pub const ALL: [Self; 4] = [Self::Win, Self::Draw, Self::Loss, Self::Void];

    /// The outcome of a placement in this match.
    pub fn of(placement: u16, placements: &[u16]) -> Self {
        let first = placements.iter().filter(|&&place| place == 1).count();
        match (placement, first) {
            (1, 1) => Self::Win,
            (1, _) => Self::Draw,
            _ => Self::Loss,
        }
    }
}

impl Outcome {
    /// Its word in exports and JSON.
    pub fn word(self) -> &'static str {
        match self {
            Self::Win => "win",
            Self::Draw => "draw",
            Self::Loss => "loss",
            Self::Void => "void",
        }
    }
}

impl fmt::Display for Outcome {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.word())
    }
}

impl FromStr for Outcome {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        Self::ALL
            .into_iter()
            .find(|outcome| outcome.word() == text)
            .ok_or_else(|| format!("`{text}` is not an outcome"))
    }
}

/// Many rows with their measures; a buffer that is reused.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Rows {
    /// The rows, a match's seats one after the other.
    pub rows: Vec<Row>,
    /// The measures, `width` a row.
    pub measures: Vec<f64>,
    /// Measures a row.
    pub width: usize,
}

impl Rows {
    /// No rows yet, with `width` measures each.
    pub fn new(width: usize) -> Self {
        Self { width, ..Self::default() }
    }

    /// No rows yet, with `width` measures each and room for this many rows.
    pub fn with_capacity(width: usize, rows: usize) -> Self {
        Self { rows: Vec::with_capacity(rows), measures: Vec::with_capacity(rows * width), width }
    }

    /// Keeps the first this many rows.
    pub fn truncate(&mut self, rows: usize) {
        self.rows.truncate(rows);
        self.measures.truncate(rows * self.width);
    }

    /// The measures of a row.
    pub fn measures_of(&self, row: usize) -> &[f64] {
        &self.measures[row * self.width..(row + 1) * self.width]
    }

    /// Moves the rows of `other` behind these.
    pub fn append(&mut self, other: &mut Rows) {
        if self.rows.capacity() == 0 {
            // Nothing is copied into what has no room of its own yet.
            std::mem::swap(&mut self.rows, &mut other.rows);
            std::mem::swap(&mut self.measures, &mut other.measures);
            return;
        }
        self.rows.append(&mut other.rows);
        self.measures.append(&mut other.measures);
    }

    /// Keeps the first `count` rows and gives the others.
    #[must_use]
    pub fn split_off(&mut self, count: usize) -> Rows {
        Rows {
            rows: self.rows.split_off(count),
            measures: self.measures.split_off(count * self.width),
            width: self.width,
        }
    }

    /// Forgets all rows.
    pub fn clear(&mut self) {
        self.rows.clear();
        self.measures.clear();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_shared_first_place_is_a_draw() {
        assert_eq!(Outcome::of(1, &[1, 1, 3]), Outcome::Draw);
        assert_eq!(Outcome::of(3, &[1, 1, 3]), Outcome::Loss);
        assert_eq!(Outcome::of(1, &[2, 1]), Outcome::Win);
    }
}
