//! The transposition table: results of searched positions, in bounded memory.

use std::hash::{BuildHasher, Hash};

use rustc_hash::FxBuildHasher;

use crate::score::Score;

/// Slots at first; a match of shallow searches never needs more, and touches no more memory.
const FIRST: usize = 1 << 8;
/// Slots that a key may take: the deeper of two searches keeps the first.
const BUCKET: usize = 2;

/// A stored result for a position.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Known {
    /// Its score, turns counted from the position itself.
    pub(crate) score: Score,
    /// The meaning of the score.
    pub(crate) sense: Sense,
    /// Turns that were looked ahead.
    pub(crate) depth: u16,
    /// Whether all lines reached the end of the game.
    pub(crate) resolved: bool,
    /// The best option, by its place among the options.
    pub(crate) best: u16,
}

/// The relation of a score to the value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Sense {
    Exact,
    AtLeast,
    AtMost,
}

#[derive(Clone, Copy)]
struct Slot<K> {
    key: K,
    known: Known,
    age: u32,
}

/// Known positions by key. Keys are compared in full, so no two positions are ever mistaken for each other.
pub(crate) struct TranspositionTable<K> {
    slots: Vec<Option<Slot<K>>>,
    most: usize,
    filled: usize,
    age: u32,
}

impl<K: Copy + Eq + Hash> TranspositionTable<K> {
    /// A table that grows up to this many bytes.
    pub(crate) fn new(bytes: usize) -> Self {
        let slots = (bytes / size_of::<Option<Slot<K>>>()).max(FIRST);
        // The largest power of two that fits.
        Self { slots: Vec::new(), most: 1 << slots.ilog2(), filled: 0, age: 0 }
    }

    /// Bytes held now.
    pub(crate) fn bytes(&self) -> usize {
        self.slots.capacity() * size_of::<Option<Slot<K>>>()
    }

    /// Forgets everything, at no cost.
    pub(crate) fn forget(&mut self) {
        self.age += 1;
        self.filled = 0;
    }

    #[inline]
    fn bucket(&self, key: &K) -> usize {
        // The upper bits of the product are the well mixed ones.
        let hash = FxBuildHasher.hash_one(key).wrapping_mul(0x9e37_79b9_7f4a_7c15);
        (hash >> 32) as usize & (self.slots.len() - BUCKET)
    }

    /// Returns the stored result for a position.
    #[inline]
    pub(crate) fn get(&self, key: &K) -> Option<&Known> {
        if self.slots.is_empty() {
            return None;
        }
        let bucket = self.bucket(key);
        let mut slots = self.slots[bucket..bucket + BUCKET].iter().flatten();
        slots.find(|slot| slot.age == self.age && slot.key == *key).map(|slot| &slot.known)
    }

    /// Stores the result of a position; a shallower or older one may make room.
    pub(crate) fn put(&mut self, key: K, known: Known) {
        if self.filled * 2 >= self.slots.len() && self.slots.len() < self.most {
            self.grow();
        }
        let bucket = self.bucket(&key);
        let age = self.age;
        let stale = |slot: &Option<Slot<K>>| slot.is_none_or(|slot| slot.age != age);
        let slots = &mut self.slots[bucket..bucket + BUCKET];
        let same = slots.iter().position(|slot| slot.is_some_and(|slot| slot.age == age && slot.key == key));
        let at = same.or_else(|| slots.iter().position(stale)).unwrap_or_else(|| {
            let deeper = slots[0].is_some_and(|slot| slot.known.depth > known.depth);
            usize::from(deeper)
        });
        self.filled += usize::from(stale(&slots[at]));
        slots[at] = Some(Slot { key, known, age });
    }

    fn grow(&mut self) {
        let size = (self.slots.len() * 2).max(FIRST).min(self.most);
        let old = std::mem::replace(&mut self.slots, vec![None; size]);
        self.filled = 0;
        let age = self.age;
        for slot in old.into_iter().flatten().filter(|slot| slot.age == age) {
            self.put(slot.key, slot.known);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn known(depth: u16) -> Known {
        Known { score: Score::end(1.0, 1), sense: Sense::Exact, depth, resolved: true, best: 0 }
    }

    #[test]
    fn memory_stays_within_bounds_and_nothing_is_mistaken() {
        let mut table = TranspositionTable::<u64>::new(100_000);
        for key in 0..200_000u64 {
            table.put(key, known((key % 50) as u16));
            assert!(table.bytes() <= 100_000);
        }
        let found = (0..200_000u64).filter_map(|key| Some((key, table.get(&key)?.depth)));
        let found: Vec<_> = found.collect();
        assert!(found.len() > 500, "{}", found.len());
        assert!(found.iter().all(|(key, depth)| key % 50 == u64::from(*depth)));
    }

    #[test]
    fn what_is_forgotten_is_gone_and_what_fits_is_kept() {
        let mut table = TranspositionTable::<u64>::new(1 << 20);
        (0..1000).for_each(|key| table.put(key, known(3)));
        // Half full, one key in ten meets two others in its two slots (Poisson with mean 1).
        assert!((0..1000).filter(|key| table.get(key).is_some()).count() > 850);
        table.forget();
        assert!((0..1000).all(|key| table.get(&key).is_none()));
    }
}
