//! The basin and its options. A berth is a bit of one word, so that all options are a few shifts.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Deserializer, Serialize, Serializer, de};

/// Most berths in a row or a column.
pub(crate) const MOST: u8 = 8;
/// Bits from a berth to the one below it.
const ROW: u32 = MOST as u32;
/// Every berth but the last of each row.
const NOT_LAST: u64 = 0x7f7f_7f7f_7f7f_7f7f;

/// A move: the west berth of a boat of south's, the north berth of one of north's. Written as column and row, `b3`,
/// both counted from the basin's north-west corner.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Mooring(u8);

impl Mooring {
    /// The berth in this column and row, both from 0 to 7.
    #[must_use]
    pub fn at(column: u8, row: u8) -> Self {
        Self(row * MOST + column)
    }

    pub(crate) fn column(self) -> u8 {
        self.0 % MOST
    }

    pub(crate) fn row(self) -> u8 {
        self.0 / MOST
    }

    /// The berths under a boat of this side with this first berth.
    pub(crate) fn both(self, side: usize) -> [Self; 2] {
        [self, Self(self.0 + if side == 0 { 1 } else { MOST })]
    }

    pub(crate) fn bit(self) -> u64 {
        1 << self.0
    }
}

impl fmt::Display for Mooring {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}{}", char::from(b'a' + self.column()), self.row() + 1)
    }
}

impl FromStr for Mooring {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        match text.as_bytes() {
            &[column @ b'a'..=b'h', row @ b'1'..=b'8'] => Ok(Self::at(column - b'a', row - b'1')),
            _ => Err(format!("`{text}` is not a berth; write column and row, as in `b3`")),
        }
    }
}

impl Serialize for Mooring {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for Mooring {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        String::deserialize(deserializer)?.parse().map_err(de::Error::custom)
    }
}

/// A set of berths, in order of rows from the north, each from the west.
#[derive(Clone, Debug)]
pub(crate) struct Berthing(pub(crate) u64);

impl Berthing {
    /// Returns the number of berths.
    #[inline]
    pub(crate) fn size(&self) -> u32 {
        self.0.count_ones()
    }

    #[inline]
    pub(crate) fn holds(&self, mooring: Mooring) -> bool {
        self.0 & mooring.bit() != 0
    }
}

impl Iterator for Berthing {
    type Item = Mooring;

    #[inline]
    fn next(&mut self) -> Option<Mooring> {
        if self.0 == 0 {
            return None;
        }
        let berth = self.0.trailing_zeros() as u8;
        self.0 &= self.0 - 1;
        Some(Mooring(berth))
    }
}

/// A basin with its taken berths and its mover.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Basin {
    taken: u64,
    /// All berths there are.
    all: u64,
    width: u8,
    length: u8,
    side: u8,
}

impl Basin {
    /// An empty basin, south to move; 2 to 8 berths each way.
    #[must_use]
    pub fn empty(width: u8, length: u8) -> Self {
        let row = u64::MAX >> (64 - u32::from(width));
        let all = (0..length).fold(0, |all, _| all << ROW | row);
        Self { taken: 0, all, width, length, side: 0 }
    }

    /// The same basin with these berths taken and this side to move.
    pub(crate) fn with(self, taken: impl Iterator<Item = Mooring>, side: u8) -> Self {
        Self { taken: taken.fold(0, |all, berth| all | berth.bit()), side, ..self }
    }

    /// Berths in a row.
    #[must_use]
    pub fn width(&self) -> u8 {
        self.width
    }

    /// Berths in a column.
    #[must_use]
    pub fn length(&self) -> u8 {
        self.length
    }

    /// Whose turn it is, or would be.
    #[inline]
    #[must_use]
    pub fn side(&self) -> usize {
        usize::from(self.side)
    }

    /// Whether a berth is taken.
    pub(crate) fn is_taken(&self, berth: Mooring) -> bool {
        self.taken & berth.bit() != 0
    }

    /// Returns the taken berths and the mover, on which alone the future depends.
    #[inline]
    pub(crate) fn key(&self) -> (u64, u8) {
        (self.taken, self.side)
    }

    #[inline]
    fn free(&self) -> u64 {
        self.all & !self.taken
    }

    /// Returns the places where a side can moor a boat.
    #[inline]
    pub(crate) fn options(&self, side: usize) -> Berthing {
        Berthing(options(self.free(), side))
    }

    /// Returns the safe places of a side: the other can use neither berth.
    #[inline]
    pub(crate) fn safe(&self, side: usize) -> Berthing {
        let free = self.free();
        let other = covered(options(free, 1 - side), 1 - side);
        Berthing(options(free & !other, side))
    }

    /// Moors a boat of the side to move where it has room.
    #[inline]
    pub(crate) fn moor(&mut self, mooring: Mooring) {
        self.taken |= covered(mooring.bit(), self.side());
        self.side ^= 1;
    }

    /// Mirrored west and east, north and south.
    pub(crate) fn mirrored(&self, across: bool, down: bool) -> Self {
        let mut taken = self.taken;
        if across {
            taken = taken.swap_bytes().reverse_bits() >> u32::from(MOST - self.width);
        }
        if down {
            taken = taken.swap_bytes() >> (ROW * u32::from(MOST - self.length));
        }
        Self { taken, ..*self }
    }

    /// A move of the side to move as it reads in the mirrored basin.
    pub(crate) fn mirrored_move(&self, across: bool, down: bool, mooring: Mooring) -> Mooring {
        // A boat is named by its first berth, which is its last in the mirror.
        let (long, high) = if self.side == 0 { (1, 0) } else { (0, 1) };
        let column = if across { self.width - 1 - long - mooring.column() } else { mooring.column() };
        let row = if down { self.length - 1 - high - mooring.row() } else { mooring.row() };
        Mooring::at(column, row)
    }
}

/// First berths of the boats of a side that fit into free berths.
#[inline]
fn options(free: u64, side: usize) -> u64 {
    if side == 0 { free & (free >> 1) & NOT_LAST } else { free & (free >> ROW) }
}

/// The berths under boats of a side with these first berths.
#[inline]
fn covered(first: u64, side: usize) -> u64 {
    if side == 0 { first | first << 1 } else { first | first << ROW }
}
