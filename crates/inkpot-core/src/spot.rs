//! The position of a match in a study.

/// The place of a match in a study; by default the first.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Spot {
    /// Pairing or point.
    pub cell: u32,
    /// Block within the cell.
    pub block: u64,
    /// Number of the match within the block: the rotation of the entrants over the seats, round by round of a series.
    pub rotation: usize,
    /// Number of the match in the study.
    pub match_index: u64,
    /// Whether the course of the lead is kept with its rows.
    pub leads: bool,
}
