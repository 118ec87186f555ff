//! Counts for the measures of a match of berths. Small, since searches copy it with every state.

use super::basin::{Basin, Berthing, Mooring};

/// Counts of a match.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(crate) struct Tally {
    decisions: [u8; 2],
    options: [u16; 2],
    largest_swing: u8,
    /// The first berths of the boats that each side has moored.
    moored: [u64; 2],
}

impl Tally {
    /// The side to move of `before` moved, which led to `after`.
    #[inline]
    pub(crate) fn moved(&mut self, before: &Basin, mooring: Mooring, after: &Basin) {
        let side = before.side();
        self.moored[side] |= mooring.bit();
        self.decisions[side] += 1;
        self.options[side] += before.options(side).size() as u16;
        let swing = (lead(after, side) - lead(before, side)).unsigned_abs() as u8;
        self.largest_swing = self.largest_swing.max(swing);
    }

    /// The boats that a side has moored, each by its first berth.
    pub(crate) fn moored(self, side: usize) -> Berthing {
        Berthing(self.moored[side])
    }

    /// The figures of a seat in the order of the game's sheet.
    pub(crate) fn figures(self, seat: usize, basin: &Basin, into: &mut Vec<f64>) {
        into.extend([
            f64::from(basin.options(seat).size()),
            f64::from(basin.safe(seat).size()),
            f64::from(self.options[seat]) / f64::from(self.decisions[seat]),
            f64::from(self.decisions[0] + self.decisions[1]),
            f64::from(self.largest_swing),
        ]);
    }
}

/// Options that a side has more than the other.
#[inline]
pub(crate) fn lead(basin: &Basin, side: usize) -> i32 {
    basin.options(side).size() as i32 - basin.options(1 - side).size() as i32
}
