//! Pairing as many as possible: a largest matching of a general graph.

use std::collections::VecDeque;

/// Completes a matching so that as many as possible are paired, every pair being allowed: augmenting paths through
/// blossoms (Edmonds 1965). `mates` is where to begin; pairs in it may be changed, but nobody paired is left alone.
/// Partners of lower number are tried first.
pub(crate) fn matched(allowed: &[Vec<usize>], mates: Vec<Option<usize>>) -> Vec<Option<usize>> {
    let mut search = Search::new(allowed, mates);
    for root in 0..allowed.len() {
        if search.mates[root].is_none() {
            search.augment(root);
        }
    }
    search.mates
}

/// One search for an augmenting path after the other.
struct Search<'a> {
    allowed: &'a [Vec<usize>],
    mates: Vec<Option<usize>>,
    /// The node before each on its path.
    parents: Vec<Option<usize>>,
    /// The base of the blossom that each is part of; itself outside blossoms.
    bases: Vec<usize>,
    outer: Vec<bool>,
}

impl<'a> Search<'a> {
    fn new(allowed: &'a [Vec<usize>], mates: Vec<Option<usize>>) -> Self {
        let n = allowed.len();
        Self { allowed, mates, parents: vec![None; n], bases: (0..n).collect(), outer: vec![false; n] }
    }

    fn augment(&mut self, root: usize) {
        let mut at = self.path_from(root);
        while let Some(end) = at {
            let before = self.parents[end].expect("a path leads back to its root");
            at = self.mates[before];
            self.mates[end] = Some(before);
            self.mates[before] = Some(end);
        }
    }

    /// The end of an augmenting path, if there is one.
    fn path_from(&mut self, root: usize) -> Option<usize> {
        let n = self.allowed.len();
        (self.parents, self.bases, self.outer) = (vec![None; n], (0..n).collect(), vec![false; n]);
        self.outer[root] = true;
        let mut waiting = VecDeque::from([root]);
        while let Some(from) = waiting.pop_front() {
            for &to in &self.allowed[from] {
                if self.bases[from] == self.bases[to] || self.mates[from] == Some(to) {
                    continue;
                }
                let is_outer = to == root || self.mates[to].is_some_and(|mate| self.parents[mate].is_some());
                if is_outer {
                    self.contract(from, to, &mut waiting);
                } else if self.parents[to].is_none() {
                    self.parents[to] = Some(from);
                    let Some(mate) = self.mates[to] else { return Some(to) };
                    self.outer[mate] = true;
                    waiting.push_back(mate);
                }
            }
        }
        None
    }

    /// Contracts a blossom of two outer nodes that met, with the nodes between them and their common base.
    fn contract(&mut self, a: usize, b: usize, waiting: &mut VecDeque<usize>) {
        let base = self.common_base(a, b);
        let mut within = vec![false; self.bases.len()];
        self.mark(a, base, b, &mut within);
        self.mark(b, base, a, &mut within);
        for each in 0..self.bases.len() {
            if within[self.bases[each]] {
                self.bases[each] = base;
                if !std::mem::replace(&mut self.outer[each], true) {
                    waiting.push_back(each);
                }
            }
        }
    }

    fn common_base(&self, a: usize, b: usize) -> usize {
        let mut on_the_way = vec![false; self.bases.len()];
        let mut at = Some(a);
        while let Some(here) = at {
            on_the_way[self.bases[here]] = true;
            at = self.mates[self.bases[here]].and_then(|mate| self.parents[mate]);
        }
        let mut here = self.bases[b];
        while !on_the_way[here] {
            let before = self.mates[here].and_then(|mate| self.parents[mate]);
            here = self.bases[before.expect("both ways end at the root")];
        }
        here
    }

    fn mark(&mut self, mut from: usize, base: usize, mut child: usize, within: &mut [bool]) {
        while self.bases[from] != base {
            let mate = self.mates[from].expect("only the root has no mate, and it is its own base");
            within[self.bases[from]] = true;
            within[self.bases[mate]] = true;
            self.parents[from] = Some(child);
            child = mate;
            from = self.parents[mate].expect("a mate of an outer one was reached from somewhere");
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use inkpot_core::Chance;

    fn pairs(mates: &[Option<usize>]) -> usize {
        mates.iter().enumerate().filter(|(index, mate)| mate.is_some_and(|mate| mate > *index)).count()
    }

    /// The largest matching by trying everything.
    fn most(allowed: &[Vec<usize>], free: u32) -> usize {
        let Some(first) = (0..allowed.len()).find(|bit| free >> bit & 1 == 1) else { return 0 };
        let rest = free & !(1 << first);
        let with = allowed[first].iter().filter(|other| rest >> **other & 1 == 1);
        with.map(|other| 1 + most(allowed, rest & !(1 << other))).chain([most(allowed, rest)]).max().unwrap_or(0)
    }

    #[test]
    fn as_many_are_paired_as_trying_everything_finds() {
        let mut chance = Chance::from_seed(4);
        for case in 0..400 {
            let n = 2 + case % 9;
            let dense = [0.15, 0.3, 0.6][case % 3];
            let mut allowed = vec![Vec::new(); n];
            for a in 0..n {
                for b in a + 1..n {
                    if chance.happens(dense) {
                        allowed[a].push(b);
                        allowed[b].push(a);
                    }
                }
            }
            let mates = matched(&allowed, vec![None; n]);
            for (first, mate) in mates.iter().enumerate() {
                assert!(mate.is_none_or(|mate| mates[mate] == Some(first) && allowed[first].contains(&mate)));
            }
            assert_eq!(pairs(&mates), most(&allowed, (1 << n) - 1), "case {case}: {allowed:?}");
        }
    }
}
