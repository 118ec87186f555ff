//! Telling whether a pairing plays one match over and over.

use std::collections::hash_map::DefaultHasher;
use std::hash::{Hash, Hasher};

use inkpot_core::Block;

/// Whether all blocks of a pairing went the same course so far.
///
/// A block that goes like an earlier one is a block all the same, as likely as its opening was: leaving it out would
/// change what is estimated. Only where nothing draws chance, by the sheets of game and agents, is the one match there is
/// known without error; blocks that went alike by chance do not say that all others will.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Course {
    /// Whether nothing in the pairing draws chance.
    without_chance: bool,
    first: Option<u64>,
    parted: bool,
    blocks: u64,
}

impl Course {
    /// Returns the value for a pairing with or without chance.
    pub(crate) fn of(without_chance: bool) -> Self {
        Self { without_chance, ..Self::default() }
    }

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
        self.without_chance && self.is_alike()
    }

    /// Whether all blocks went alike so far.
    pub(crate) fn is_alike(&self) -> bool {
        !self.parted && self.blocks > 0
    }
}

/// Returns a number that equal blocks share: seating, ending and length of their matches.
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

    fn of(without_chance: bool, prints: impl IntoIterator<Item = u64>) -> Course {
        let mut course = Course::of(without_chance);
        prints.into_iter().for_each(|print| course.see(|| print));
        course
    }

    #[test]
    fn it_is_decided_where_nothing_draws_chance_however_often_it_went_alike() {
        assert!(of(true, [7]).is_decided());
        assert!(!of(false, [7; 1_000]).is_decided() && of(false, [7; 1_000]).is_alike());
        // A sheet that promises too much is not believed.
        assert!(!of(true, [vec![7; 50], vec![8], vec![7; 50]].concat()).is_decided());
        assert!(!of(true, []).is_decided());
    }
}
