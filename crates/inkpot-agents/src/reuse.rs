//! Keeping the part of a tree that still counts, from one decision to the next.

use inkpot_core::{Appraise, Chance, Imagine, Options};

use crate::tree::NONE;
use crate::treesearch::{Same, TreeSearch};

/// Choices below the last one within which the present state is looked for in the kept tree.
const REACH: usize = 12;

impl<G: Options + Imagine + Appraise> TreeSearch<G> {
    /// Keeps the part of the tree below the match's present state, if it is found.
    pub(crate) fn settle(&mut self, state: &G, chance: &mut Chance) {
        let subtree = match (self.same, self.at.take()) {
            (Some(same), Some(before)) => self.find(0, &before, state, same, REACH, chance),
            _ => None,
        };
        match subtree {
            Some(root) => self.tree = self.tree.branch(root),
            None => self.tree.clear(),
        }
        if self.same.is_some() {
            self.at = Some(state.clone());
        }
    }

    /// The node below `node` (at state `at`) whose state is the one looked for.
    fn find(&mut self, node: u32, at: &G, wanted: &G, same: Same<G>, reach: usize, chance: &mut Chance) -> Option<u32> {
        let first = *self.tree.fans.get(self.tree.fans_of(node).next()?)?;
        for arm in first.start..first.start + first.len {
            let arm = &self.tree.arms[arm as usize];
            let (action, child) = (arm.action.clone(), arm.child);
            if child == NONE || reach == 0 {
                continue;
            }
            let mut next = at.clone();
            self.choices.clear();
            self.choices.set(first.seat, action);
            next.advance(&self.choices, chance);
            if same(&next, wanted) {
                return Some(child);
            }
            if let Some(found) = self.find(child, &next, wanted, same, reach - 1, chance) {
                return Some(found);
            }
        }
        None
    }
}
