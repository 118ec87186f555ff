//! The scale of ratings, and how large a field is.

/// Rating points a natural unit of strength: 400 points are odds of ten to one.
pub const POINTS: f64 = 400.0 / std::f64::consts::LN_10;
/// Matches that each entrant is taken to have halved in all, spread evenly over the opponents it met; and each seat,
/// spread evenly over the others.
pub const PRIOR_MATCHES: f64 = 1.0;
/// Blocks are pooled into this many clusters at most.
const MOST_CLUSTERS: usize = 512;
/// The size of a field.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[expect(missing_docs, reason = "numbers of entrants, of seats of a match, and of blocks")]
pub struct FieldSize {
    pub entrants: usize,
    pub seats: usize,
    pub blocks: usize,
}

impl FieldSize {
    pub(crate) fn parameters(&self) -> usize {
        self.entrants + self.seats + 1
    }

    /// Returns the index of a seat's strength, after those of the entrants.
    pub(crate) fn seat(&self, seat: usize) -> usize {
        self.entrants + seat
    }

    /// Returns the index of the tie parameter, after strengths and seats.
    pub(crate) fn tie(&self) -> usize {
        self.entrants + self.seats
    }

    pub(crate) fn clusters(&self) -> usize {
        self.blocks.clamp(1, MOST_CLUSTERS)
    }

    pub(crate) fn cluster(&self, block: usize) -> usize {
        block.min(self.blocks.saturating_sub(1)) * self.clusters() / self.blocks.max(1)
    }
}
