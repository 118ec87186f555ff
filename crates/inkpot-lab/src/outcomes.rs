//! How the blocks of a cell came out, a byte or two each.

use std::collections::HashMap;

use inkpot_core::{Block, MatchRows, Row, points_share};

use crate::plan::OF_THE_CELL;

/// One seat of a match: who sat there, by its index in the cell, and its placement.
pub(crate) type Seated = (usize, u16);

/// How a block came out: its matches, seat by seat.
pub(crate) type Pattern = Vec<Vec<Seated>>;

/// How the blocks of a cell came out, in order. Blocks that came out alike are kept once, and counted by number: that
/// is all that grows with a study, one byte a block between two.
#[derive(Clone, Debug, Default)]
pub(crate) struct Outcomes {
    patterns: Vec<Pattern>,
    numbers: HashMap<Pattern, usize>,
    codes: Codes,
}

/// Numbers of patterns; 0 is a block that counts for nobody.
#[derive(Clone, Debug)]
enum Codes {
    Bytes(Vec<u8>),
    Words(Vec<u32>),
}

impl Default for Codes {
    fn default() -> Self {
        Self::Bytes(Vec::new())
    }
}

impl Outcomes {
    /// Adds a block, or one that counts for nobody.
    pub(crate) fn push(&mut self, pattern: Option<Pattern>) {
        let code = pattern.map_or(0, |pattern| {
            if let Some(known) = self.numbers.get(&pattern) {
                return *known;
            }
            self.patterns.push(pattern.clone());
            self.numbers.insert(pattern, self.patterns.len());
            self.patterns.len()
        });
        if let Codes::Bytes(bytes) = &mut self.codes {
            if let Ok(code) = u8::try_from(code) {
                bytes.push(code);
                return;
            }
            self.codes = Codes::Words(bytes.iter().map(|byte| u32::from(*byte)).collect());
        }
        if let Codes::Words(words) = &mut self.codes {
            words.push(code as u32);
        }
    }

    /// Blocks.
    pub(crate) fn len(&self) -> usize {
        match &self.codes {
            Codes::Bytes(bytes) => bytes.len(),
            Codes::Words(words) => words.len(),
        }
    }

    /// How a block came out; none if it counts for nobody.
    pub(crate) fn get(&self, block: usize) -> Option<&Pattern> {
        let code = match &self.codes {
            Codes::Bytes(bytes) => usize::from(*bytes.get(block)?),
            Codes::Words(words) => *words.get(block)? as usize,
        };
        self.patterns.get(code.checked_sub(1)?)
    }

    /// The ways that blocks came out, and which of them each did, from 1 up; 0 is one that counts for nobody.
    pub(crate) fn into_parts(self) -> (Vec<Pattern>, Vec<usize>) {
        let blocks = match self.codes {
            Codes::Bytes(bytes) => bytes.into_iter().map(usize::from).collect(),
            Codes::Words(words) => words.into_iter().map(|word| word as usize).collect(),
        };
        (self.patterns, blocks)
    }

    /// Points shares by block of one of the cell, NaN for a block that counts for nobody.
    pub(crate) fn shares(&self, who: usize) -> impl Iterator<Item = f64> {
        self.told(self.patterns.iter().map(|pattern| share(pattern, who)).collect())
    }

    /// A figure of each block by how it came out, NaN for one that counts for nobody.
    pub(crate) fn each(&self, figure: &dyn Fn(&Pattern) -> f64) -> impl Iterator<Item = f64> + use<'_> {
        self.told(self.patterns.iter().map(figure).collect())
    }

    fn told(&self, by_pattern: Vec<f64>) -> impl Iterator<Item = f64> {
        let code = |block| match &self.codes {
            Codes::Bytes(bytes) => usize::from(bytes[block]),
            Codes::Words(words) => words[block] as usize,
        };
        (0..self.len()).map(move |block| code(block).checked_sub(1).map_or(f64::NAN, |code| by_pattern[code]))
    }
}

/// How a block came out between these, its void matches left out.
pub(crate) fn pattern(block: Block, entrants: &[usize]) -> Pattern {
    let index = |row: &Row| entrants.iter().position(|place| *place == usize::from(row.entrant)).expect(OF_THE_CELL);
    let seated = |played: MatchRows| played.seats().iter().map(|row| (index(row), row.placement)).collect();
    block.matches().filter(|played| !played.is_void()).map(seated).collect()
}

/// Points share of a seat of a match.
fn seat_share(seats: &[Seated], seat: usize) -> f64 {
    points_share(seats.iter().map(|(_, placement)| *placement), seat, seats[seat].1)
}

/// Mean points share of the first seat in a block.
pub(crate) fn first_seat_share(pattern: &Pattern) -> f64 {
    let first = pattern.iter().map(|seats| seat_share(seats, 0));
    first.sum::<f64>() / pattern.len().max(1) as f64
}

/// Mean points share of one of the cell in a block.
pub(crate) fn share(pattern: &Pattern, who: usize) -> f64 {
    let mut sum = 0.0;
    for seats in pattern {
        let own = seats.iter().position(|(other, _)| *other == who);
        sum += own.map_or(0.0, |seat| seat_share(seats, seat));
    }
    sum / pattern.len().max(1) as f64
}

#[cfg(test)]
mod tests {
    use super::*;

    fn block(placements: [[u16; 2]; 2]) -> Pattern {
        vec![vec![(0, placements[0][0]), (1, placements[0][1])], vec![(1, placements[1][0]), (0, placements[1][1])]]
    }

    #[test]
    fn shares_come_back_as_they_were() {
        let mut outcomes = Outcomes::default();
        outcomes.push(Some(block([[1, 2], [2, 1]])));
        outcomes.push(None);
        outcomes.push(Some(block([[1, 2], [1, 1]])));
        let own: Vec<f64> = outcomes.shares(0).collect();
        assert_eq!((own[0], own[1].is_nan(), own[2]), (1.0, true, 0.75));
        assert_eq!(outcomes.shares(1).nth(2), Some(0.25));
        assert_eq!((outcomes.len(), outcomes.get(1)), (3, None));
    }

    #[test]
    fn more_patterns_than_a_byte_can_number_are_kept_too() {
        let mut outcomes = Outcomes::default();
        for number in 0..600u16 {
            outcomes.push(Some(vec![vec![(0, number + 1), (1, 700)]]));
        }
        assert!((0..600).all(|block| outcomes.get(block) == Some(&vec![vec![(0, block as u16 + 1), (1, 700)]])));
    }
}
