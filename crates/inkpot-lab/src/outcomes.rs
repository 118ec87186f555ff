//! Results of a cell's blocks, in a byte or two each.

use std::collections::HashMap;

use inkpot_core::{Block, Row, points_share};

use crate::plan::OF_THE_CELL;

/// One seat of a match: its entrant, by index in the cell, and its placement.
pub(crate) type Seated = (u16, u16);

/// Patterns that are looked for again, at most: later ones are kept each time they occur.
const LOOKED_FOR: usize = 4096;

/// The result of a block: its matches one after another, seat by seat.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Pattern<'a> {
    seats: usize,
    seated: &'a [Seated],
}

impl<'a> Pattern<'a> {
    /// The seats of each match.
    pub(crate) fn matches(self) -> impl ExactSizeIterator<Item = &'a [Seated]> {
        self.seated.chunks_exact(self.seats)
    }

    /// Returns the mean of this figure over its matches; 0 without matches.
    fn mean(self, figure: impl Fn(&[Seated]) -> f64) -> f64 {
        self.matches().map(figure).sum::<f64>() / self.matches().len().max(1) as f64
    }

    /// Mean points share of the first seat.
    pub(crate) fn first_seat_share(self) -> f64 {
        self.mean(|seats| seat_share(seats, 0))
    }

    /// Mean points share of one of the cell.
    pub(crate) fn share(self, who: usize) -> f64 {
        self.mean(|seats| seat_of(seats, who).map_or(0.0, |seat| seat_share(seats, seat)))
    }

    /// Mean points share of one of the cell against another of it alone.
    pub(crate) fn share_against(self, who: usize, other: usize) -> f64 {
        self.mean(|seats| match [who, other].map(|who| placement(seats, who)) {
            [Some(mine), Some(others)] => points_share([mine, others].into_iter(), 0, mine),
            _ => 0.0,
        })
    }
}

/// The seat of one of the cell in a match.
pub(crate) fn seat_of(seats: &[Seated], who: usize) -> Option<usize> {
    seats.iter().position(|(seated, _)| usize::from(*seated) == who)
}

/// The placement of one of the cell in a match.
pub(crate) fn placement(seats: &[Seated], who: usize) -> Option<u16> {
    seat_of(seats, who).map(|seat| seats[seat].1)
}

/// Points share of a seat of a match.
fn seat_share(seats: &[Seated], seat: usize) -> f64 {
    points_share(seats.iter().map(|(_, placement)| *placement), seat, seats[seat].1)
}

/// The results of a cell's blocks, in order. Equal results are stored once and counted by number, as far as they are
/// looked for. Many blocks take a byte or two each, and at worst their placements.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Outcomes {
    /// Seats of a match.
    seats: usize,
    /// The patterns, one after another, and where each ends.
    seated: Vec<Seated>,
    ends: Vec<usize>,
    /// The first patterns by their numbers.
    numbers: HashMap<Box<[Seated]>, usize>,
    codes: Codes,
}

/// Numbers of patterns; 0 is a block that counts for nobody.
#[derive(Clone, Debug, PartialEq, Eq)]
enum Codes {
    Bytes(Vec<u8>),
    Words(Vec<u32>),
}

impl Codes {
    fn push(&mut self, code: usize) {
        if let Self::Bytes(bytes) = self {
            if let Ok(code) = u8::try_from(code) {
                bytes.push(code);
                return;
            }
            *self = Self::Words(bytes.iter().map(|byte| u32::from(*byte)).collect());
        }
        if let Self::Words(words) = self {
            words.push(code as u32);
        }
    }

    fn len(&self) -> usize {
        match self {
            Self::Bytes(bytes) => bytes.len(),
            Self::Words(words) => words.len(),
        }
    }

    fn get(&self, block: usize) -> Option<usize> {
        match self {
            Self::Bytes(bytes) => bytes.get(block).map(|code| usize::from(*code)),
            Self::Words(words) => words.get(block).map(|code| *code as usize),
        }
    }
}

impl Outcomes {
    /// Outcomes of blocks whose matches have this many seats.
    pub(crate) fn new(seats: usize) -> Self {
        Self { seats, seated: Vec::new(), ends: Vec::new(), numbers: HashMap::new(), codes: Codes::Bytes(Vec::new()) }
    }

    /// Adds a block by the seats of its matches, one match after another, or one that counts for nobody.
    pub(crate) fn push(&mut self, seated: Option<&[Seated]>) {
        let code = seated.map_or(0, |seated| self.numbers.get(seated).copied().unwrap_or_else(|| self.keep(seated)));
        self.codes.push(code);
    }

    /// Keeps a pattern that was not seen, or is not looked for, and gives its number.
    fn keep(&mut self, seated: &[Seated]) -> usize {
        self.seated.extend(seated);
        self.ends.push(self.seated.len());
        let number = self.ends.len();
        if number <= LOOKED_FOR {
            self.numbers.insert(seated.into(), number);
        }
        number
    }

    /// Blocks.
    pub(crate) fn len(&self) -> usize {
        self.codes.len()
    }

    /// Returns the result of a block; none if it counts for nobody.
    pub(crate) fn get(&self, block: usize) -> Option<Pattern<'_>> {
        Some(self.pattern(self.codes.get(block)?.checked_sub(1)?))
    }

    /// The number of each block's pattern, from 1 up; 0 is one that counts for nobody.
    pub(crate) fn numbers(&self) -> impl Iterator<Item = usize> {
        (0..self.len()).filter_map(|block| self.codes.get(block))
    }

    /// The patterns in the order of their numbers.
    pub(crate) fn patterns(&self) -> impl ExactSizeIterator<Item = Pattern<'_>> {
        (0..self.ends.len()).map(|index| self.pattern(index))
    }

    fn pattern(&self, index: usize) -> Pattern<'_> {
        let start = index.checked_sub(1).map_or(0, |before| self.ends[before]);
        Pattern { seats: self.seats, seated: &self.seated[start..self.ends[index]] }
    }

    /// Points shares by block of one of the cell, NaN for a block that counts for nobody.
    pub(crate) fn shares(&self, who: usize) -> impl Iterator<Item = f64> {
        self.each(&|pattern| pattern.share(who))
    }

    /// A figure of each block by how it came out, NaN for one that counts for nobody.
    pub(crate) fn each(&self, figure: &dyn Fn(Pattern) -> f64) -> impl Iterator<Item = f64> + use<'_> {
        let by_pattern: Vec<f64> = self.patterns().map(figure).collect();
        self.numbers().map(move |number| number.checked_sub(1).map_or(f64::NAN, |index| by_pattern[index]))
    }
}

/// The seats of the matches of a block between these, one match after another, its void matches left out.
pub(crate) fn seated(block: Block, entrants: &[usize]) -> Vec<Seated> {
    let index = |row: &Row| entrants.iter().position(|place| *place == usize::from(row.entrant)).expect(OF_THE_CELL);
    let counted = block.matches().filter(|played| !played.is_void());
    counted.flat_map(|played| played.seats()).map(|row| (index(row) as u16, row.placement)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn block(placements: [[u16; 2]; 2]) -> [Seated; 4] {
        [(0, placements[0][0]), (1, placements[0][1]), (1, placements[1][0]), (0, placements[1][1])]
    }

    #[test]
    fn shares_come_back_as_they_were() {
        let mut outcomes = Outcomes::new(2);
        outcomes.push(Some(&block([[1, 2], [2, 1]])));
        outcomes.push(None);
        outcomes.push(Some(&block([[1, 2], [1, 1]])));
        let shares: Vec<f64> = outcomes.shares(0).collect();
        assert_eq!((shares[0], shares[1].is_nan(), shares[2]), (1.0, true, 0.75));
        assert_eq!(outcomes.shares(1).nth(2), Some(0.25));
        assert_eq!((outcomes.len(), outcomes.get(1)), (3, None));
        let last = outcomes.get(2).expect("it counts");
        assert_eq!((last.first_seat_share(), last.share_against(1, 0), last.share_against(1, 2)), (0.75, 0.25, 0.0));
    }

    #[test]
    fn blocks_that_came_out_alike_are_kept_once() {
        let mut outcomes = Outcomes::new(2);
        for number in 0..600u16 {
            outcomes.push(Some(&[(0, number % 300 + 1), (1, 700)]));
        }
        assert_eq!(outcomes.patterns().len(), 300);
        for block in 0..600 {
            let pattern = outcomes.get(block).expect("it counts");
            assert_eq!(placement(pattern.matches().next().expect("one match"), 0), Some(block as u16 % 300 + 1));
        }
    }

    #[test]
    fn of_blocks_that_all_came_out_differently_each_takes_its_placements() {
        let blocks = 3 * LOOKED_FOR;
        let mut outcomes = Outcomes::new(2);
        let came_out = |number: usize| [(0, (number / 200) as u16 + 1), (1, (number % 200) as u16 + 1)];
        (0..blocks).for_each(|number| outcomes.push(Some(&came_out(number))));
        assert_eq!((outcomes.seated.len(), outcomes.numbers.len()), (2 * blocks, LOOKED_FOR));
        for number in [0, LOOKED_FOR - 1, LOOKED_FOR, blocks - 1] {
            let pattern = outcomes.get(number).expect("it counts");
            assert_eq!(pattern.matches().next(), Some(&came_out(number)[..]));
        }
    }
}
