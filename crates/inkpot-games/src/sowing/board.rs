//! The board of sowing and its moves. No heap and no loop over seeds: a side's pits are the bytes of one word, so that
//! a whole sowing is a few additions.

use std::hash::{Hash, Hasher};

/// Most pits a side: the bytes of a word.
pub(crate) const MOST_PITS: usize = 8;
/// One seed in every pit.
const ONES: u64 = 0x0101_0101_0101_0101;
/// The highest bit of every pit, and all the others.
const TOPS: u64 = 0x8080_8080_8080_8080;

/// Pits and stores. Pit 0 of a side, the lowest byte, is furthest from its store; seeds go to higher pits, into the own
/// store, on to the other side's pit 0 and so round.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Board {
    rows: [u64; 2],
    stores: [u8; 2],
    pits: u8,
    /// The side to move (0 south, 1 north); 0 once the match is over.
    side: u8,
    over: bool,
}

impl Hash for Board {
    /// In three words: searches do this for every position.
    fn hash<H: Hasher>(&self, state: &mut H) {
        let [south, north] = self.stores;
        let rest = u32::from_le_bytes([south, north, self.pits, self.side << 1 | u8::from(self.over)]);
        state.write_u64(self.rows[0]);
        state.write_u64(self.rows[1]);
        state.write_u32(rest);
    }
}

/// The effect of a move.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Sown {
    /// Seeds captured, the capturing one among them; 0 if none.
    pub(crate) captured: u8,
    /// Whether the last seed fell into the own store.
    pub(crate) again: bool,
    /// Growth of the mover's store, without the sweep at the end.
    pub(crate) gain: u8,
}

/// The lowest `pits` bytes.
#[inline]
fn low(pits: usize) -> u64 {
    if pits == 0 { 0 } else { u64::MAX >> (64 - 8 * pits) }
}

#[inline]
fn byte(row: u64, pit: usize) -> u8 {
    (row >> (8 * pit)) as u8
}

impl Board {
    /// The start: `seeds` in each of `pits` pits a side, south to move.
    pub fn start(pits: u8, seeds: u8) -> Self {
        let row = (ONES & low(usize::from(pits))) * u64::from(seeds);
        Self { rows: [row; 2], stores: [0; 2], pits, side: 0, over: false }
    }

    /// A board with these pits, each side in its own order of sowing, ended at once if a side is empty. Errs when
    /// there are more seeds than a pit could ever hold.
    pub(crate) fn of(rows: [&[u8]; 2], stores: [u8; 2], side: u8) -> Result<Self, String> {
        let seeds: usize = rows.iter().flat_map(|row| row.iter()).chain(&stores).map(|&seeds| usize::from(seeds)).sum();
        if seeds > usize::from(u8::MAX) {
            return Err(format!("{seeds} seeds are more than the {} a board can hold", u8::MAX));
        }
        let word = |row: &[u8]| row.iter().rev().fold(0, |word, &seeds| word << 8 | u64::from(seeds));
        let mut board = Self { rows: rows.map(word), stores, pits: rows[0].len() as u8, side, over: false };
        board.end_if_empty();
        Ok(board)
    }

    /// Pits a side.
    #[inline]
    pub fn pits(&self) -> usize {
        usize::from(self.pits)
    }

    /// The side to move; none once the match is over.
    #[inline]
    pub fn to_move(&self) -> Option<usize> {
        (!self.over).then_some(usize::from(self.side))
    }

    /// Seeds in each pit of a side, in its order of sowing.
    pub fn row(&self, side: usize) -> impl DoubleEndedIterator<Item = u8> + use<> {
        let row = self.rows[side];
        (0..self.pits()).map(move |pit| byte(row, pit))
    }

    /// Seeds in all pits of a side.
    #[inline]
    pub fn held(&self, side: usize) -> u8 {
        // The top byte of the product is the sum of all bytes; a board holds fewer seeds than a byte does.
        (self.rows[side].wrapping_mul(ONES) >> 56) as u8
    }

    /// Seeds in a side's store.
    #[inline]
    pub fn store(&self, side: usize) -> u8 {
        self.stores[side]
    }

    /// The pits of a side that hold seeds.
    #[inline]
    pub(crate) fn filled(&self, side: usize) -> Pits {
        let row = self.rows[side];
        Pits((((row & !TOPS) + !TOPS) | row) & TOPS)
    }

    /// Whether the pit of the side to move holds seeds.
    #[inline]
    pub(crate) fn can(&self, pit: usize) -> bool {
        !self.over && pit < self.pits() && byte(self.rows[usize::from(self.side)], pit) > 0
    }

    /// Sows a pit that `can`.
    #[inline]
    pub(crate) fn sow(&mut self, pit: usize) -> Sown {
        let (pits, side) = (self.pits(), usize::from(self.side));
        let [mut mine, mut other] = [self.rows[side], self.rows[1 - side]];
        let before = self.stores[side];
        let (lap, ahead) = (2 * pits + 1, pits - 1 - pit);
        let mut hand = usize::from(byte(mine, pit));
        mine &= !(0xFF << (8 * pit));
        if hand >= lap {
            let all = (ONES & low(pits)) * (hand / lap) as u64;
            mine += all;
            other += all;
            self.stores[side] += (hand / lap) as u8;
            hand %= lap;
        }
        // What is left goes to the own pits ahead, the store, the other side, and the own side up to where it began.
        let first = hand.min(ahead);
        if first > 0 {
            mine += (ONES & low(first)) << (8 * (pit + 1));
        }
        if hand > ahead {
            self.stores[side] += 1;
            let beyond = hand - ahead - 1;
            other += ONES & low(beyond.min(pits));
            mine += ONES & low(beyond.saturating_sub(pits));
        }
        self.rows[side] = mine;
        self.rows[1 - side] = other;
        let last = match hand {
            hand if hand <= ahead => Some(pit + hand),
            hand => (hand - ahead - 1).checked_sub(pits + 1),
        };
        let captured = last.map_or(0, |last| self.capture(side, last));
        let again = hand == ahead + 1;
        let gain = self.stores[side] - before;
        self.side ^= u8::from(!again);
        self.end_if_empty();
        Sown { captured, again, gain }
    }

    /// The last seed fell into an own pit: alone there, with seeds opposite, it takes them along.
    #[inline]
    fn capture(&mut self, side: usize, last: usize) -> u8 {
        let opposite = self.pits() - 1 - last;
        let taken = byte(self.rows[1 - side], opposite);
        if taken == 0 || byte(self.rows[side], last) != 1 {
            return 0;
        }
        self.rows[side] &= !(0xFF << (8 * last));
        self.rows[1 - side] &= !(0xFF << (8 * opposite));
        self.stores[side] += taken + 1;
        taken + 1
    }

    /// Once a side is empty the match is over, and the other side's seeds go to its own store.
    #[inline]
    fn end_if_empty(&mut self) {
        if self.rows[0] != 0 && self.rows[1] != 0 {
            return;
        }
        for side in 0..2 {
            self.stores[side] += self.held(side);
        }
        self.rows = [0; 2];
        self.over = true;
        self.side = 0;
    }
}

/// A set of pits of one side, in order of sowing.
#[derive(Clone, Debug)]
pub(crate) struct Pits(u64);

impl Pits {
    /// Returns the number of pits.
    #[inline]
    pub(crate) fn size(&self) -> u32 {
        self.0.count_ones()
    }
}

impl Iterator for Pits {
    type Item = usize;

    #[inline]
    fn next(&mut self) -> Option<usize> {
        if self.0 == 0 {
            return None;
        }
        let pit = self.0.trailing_zeros() as usize / 8;
        self.0 &= self.0 - 1;
        Some(pit)
    }
}
