//! Telling blocks that repeat an earlier one, where nothing is left to chance.

use std::collections::BTreeSet;
use std::collections::hash_map::DefaultHasher;
use std::hash::{Hash, Hasher};

use inkpot_core::{Block, GameEntry};

use crate::{Cell, Plan};

/// How blocks went, for telling those that repeat an earlier one.
#[derive(Clone, Debug)]
pub(crate) enum Prints {
    /// Nobody leaves anything to chance: blocks that go alike are one.
    All(BTreeSet<u64>),
    /// There may be chance: only if every block goes like the first are they one.
    First(Option<u64>),
    /// There is chance: none is a repeat.
    Off,
}

/// What a block is to those before it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Print {
    /// It counts.
    Fresh,
    /// It repeats an earlier one, and counts for nothing.
    Repeat,
    /// It counts, and those that were taken for repeats do so after all.
    AllDiffer,
}

impl Prints {
    /// For blocks of which it is known, or not, that nothing is left to chance.
    pub(crate) fn new(chanceless: bool) -> Self {
        if chanceless { Self::All(BTreeSet::new()) } else { Self::First(None) }
    }

    /// Looks at the next block, of which the print is taken only while it can matter. Without a declared lack of chance a repeat is only believed as long as all blocks go
    /// alike: between agents that draw, two that go alike are two.
    pub(crate) fn see(&mut self, print: impl FnOnce() -> u64) -> Print {
        let print = if matches!(self, Self::Off) { 0 } else { print() };
        match self {
            Self::All(seen) => {
                if seen.insert(print) {
                    Print::Fresh
                } else {
                    Print::Repeat
                }
            }
            Self::First(first @ None) => {
                *first = Some(print);
                Print::Fresh
            }
            Self::First(Some(first)) if *first == print => Print::Repeat,
            Self::First(_) => {
                *self = Self::Off;
                Print::AllDiffer
            }
            Self::Off => Print::Fresh,
        }
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

/// Whether none of the entrants of a cell leaves anything to chance.
pub(crate) fn chanceless(plan: &Plan, cell: &Cell, game: &dyn GameEntry) -> bool {
    let setting = plan.setting(cell);
    let mut cast = setting.cast.iter();
    cast.all(|casting| game.agent(&casting.kind).is_some_and(|sheet| (sheet.chanceless)(&casting.knobs)))
}
