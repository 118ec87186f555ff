//! Telling whether a pairing plays one match over and over.

use std::collections::hash_map::DefaultHasher;
use std::hash::{Hash, Hasher};

use inkpot_core::Block;

/// Blocks that must have gone alike before it is said that they always do.
pub(crate) const DECIDED_FROM: u64 = 20;

/// Whether all blocks of a pairing went the same course so far.
///
/// A block that goes like an earlier one is a block all the same, as likely as its opening was: leaving it out would
/// change what is estimated. Only where every block goes alike is no chance left at all, and the one match there is
/// known without error.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Course {
    first: Option<u64>,
    parted: bool,
    blocks: u64,
}

impl Course {
    /// Looks at the next block, of which the print is taken only while it can matter.
    pub(crate) fn see(&mut self, print: impl FnOnce() -> u64) {
        self.blocks += 1;
        if !self.parted {
            let print = print();
            self.parted = *self.first.get_or_insert(print) != print;
        }
    }

    /// Whether it is always the same match.
    pub(crate) fn is_decided(&self) -> bool {
        !self.parted && self.blocks >= DECIDED_FROM
    }
}

/// A number that blocks have in common when they went alike: who sat where, how it ended, how long it took.
pub(crate) fn print_of(block: Block) -> u64 {
    let mut hasher = DefaultHasher::new();
    for (index, row) in block.rows().iter().enumerate() {
        (row.rotation, row.seat, row.entrant, row.placement, row.ticks, row.score.to_bits()).hash(&mut hasher);
        block.measures(index).iter().for_each(|measure| measure.to_bits().hash(&mut hasher));
    }
    hasher.finish()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(prints: impl IntoIterator<Item = u64>) -> Course {
        let mut course = Course::default();
        prints.into_iter().for_each(|print| course.see(|| print));
        course
    }

    #[test]
    fn it_is_decided_once_enough_blocks_went_alike_and_never_after_one_that_did_not() {
        assert!(!of([7; DECIDED_FROM as usize - 1]).is_decided());
        assert!(of([7; DECIDED_FROM as usize]).is_decided());
        assert!(!of([vec![7; 50], vec![8], vec![7; 50]].concat()).is_decided());
        assert!(!of([]).is_decided());
    }
}
