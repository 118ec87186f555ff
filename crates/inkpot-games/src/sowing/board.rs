//! The board of sowing and what a move does to it. No heap: a copy is a few words.

/// Most pits a side.
pub(crate) const MOST_PITS: usize = 8;

/// Pits and stores in the order of sowing: south's pits, south's store, north's pits, north's store.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Board {
    ring: [u8; 2 * MOST_PITS + 2],
    pits: u8,
    /// Who is to move (0 south, 1 north); 0 once the match is over.
    side: u8,
    over: bool,
}

/// What a move came to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Sown {
    /// Seeds captured, the capturing one among them; 0 if none.
    pub(crate) captured: u8,
    /// Whether the last seed fell into the own store.
    pub(crate) again: bool,
    /// How far the mover's lead grew, what is swept up at the end not counted.
    pub(crate) gain: i16,
}

impl Board {
    /// The start: `seeds` in each of `pits` pits a side, south to move.
    pub fn start(pits: u8, seeds: u8) -> Self {
        let mut board = Self { ring: [0; 2 * MOST_PITS + 2], pits, side: 0, over: false };
        for side in 0..2 {
            board.row_mut(side).fill(seeds);
        }
        board
    }

    /// A board with these pits, each side in its own order of sowing, ended at once if a side is empty. Errs when
    /// there are more seeds than a pit could ever hold.
    pub(crate) fn of(rows: [&[u8]; 2], stores: [u8; 2], side: u8) -> Result<Self, String> {
        let seeds: usize = rows.iter().flat_map(|row| row.iter()).chain(&stores).map(|&seeds| usize::from(seeds)).sum();
        if seeds > usize::from(u8::MAX) {
            return Err(format!("{seeds} seeds are more than the {} a board can hold", u8::MAX));
        }
        let mut board = Self::start(rows[0].len() as u8, 0);
        board.side = side;
        for side in 0..2 {
            board.row_mut(side).copy_from_slice(rows[side]);
            let store = board.store_at(side);
            board.ring[store] = stores[side];
        }
        board.end_if_empty();
        Ok(board)
    }

    /// Pits a side.
    pub fn pits(&self) -> usize {
        usize::from(self.pits)
    }

    /// Who is to move; none once the match is over.
    #[inline]
    pub fn to_move(&self) -> Option<usize> {
        (!self.over).then_some(usize::from(self.side))
    }

    /// The pits of a side in its order of sowing: the last one is next to its store.
    #[inline]
    pub fn row(&self, side: usize) -> &[u8] {
        let first = self.first(side);
        &self.ring[first..first + self.pits()]
    }

    fn row_mut(&mut self, side: usize) -> &mut [u8] {
        let (first, pits) = (self.first(side), self.pits());
        &mut self.ring[first..first + pits]
    }

    /// Seeds in a side's store.
    #[inline]
    pub fn store(&self, side: usize) -> u8 {
        self.ring[self.store_at(side)]
    }

    #[inline]
    fn first(&self, side: usize) -> usize {
        side * (self.pits() + 1)
    }

    #[inline]
    fn store_at(&self, side: usize) -> usize {
        self.first(side) + self.pits()
    }

    /// Whether the pit (0 is furthest from its store) of the side to move holds seeds.
    #[inline]
    pub(crate) fn can(&self, pit: usize) -> bool {
        !self.over && pit < self.pits() && self.ring[self.first(usize::from(self.side)) + pit] > 0
    }

    /// Sows a pit that `can`.
    #[inline]
    pub(crate) fn sow(&mut self, pit: usize) -> Sown {
        let side = usize::from(self.side);
        let (own, other) = (self.store_at(side), self.store_at(1 - side));
        let end = 2 * self.pits() + 2;
        let mut at = self.first(side) + pit;
        let before = self.ring[own];
        let mut hand = std::mem::take(&mut self.ring[at]);
        while hand > 0 {
            at += 1;
            if at == other {
                at += 1;
            }
            if at >= end {
                // North's store is the last of the ring: past it, or past its skipping, comes south's first pit.
                at = 0;
            }
            self.ring[at] += 1;
            hand -= 1;
        }
        let captured = if at == own { 0 } else { self.capture(side, at) };
        let again = at == own;
        let gain = i16::from(self.ring[own]) - i16::from(before);
        if !again {
            self.side = 1 - self.side;
        }
        self.end_if_empty();
        Sown { captured, again, gain }
    }

    /// The last seed fell into `at`: alone in an own pit, with seeds opposite, it takes them along.
    #[inline]
    fn capture(&mut self, side: usize, at: usize) -> u8 {
        let first = self.first(side);
        let own = first <= at && at < first + self.pits();
        let opposite = 2 * self.pits() - at.min(2 * self.pits());
        if !own || self.ring[at] != 1 || self.ring[opposite] == 0 {
            return 0;
        }
        let captured = self.ring[opposite] + 1;
        self.ring[opposite] = 0;
        self.ring[at] = 0;
        self.ring[first + self.pits()] += captured;
        captured
    }

    /// Once a side is empty the match is over, and the other side's seeds go to its own store.
    #[inline]
    fn end_if_empty(&mut self) {
        let empty = |row: &[u8]| row.iter().all(|&seeds| seeds == 0);
        if !empty(self.row(0)) && !empty(self.row(1)) {
            return;
        }
        for side in 0..2 {
            let rest: u8 = self.row(side).iter().sum();
            self.row_mut(side).fill(0);
            let store = self.store_at(side);
            self.ring[store] += rest;
        }
        self.over = true;
        self.side = 0;
    }
}
