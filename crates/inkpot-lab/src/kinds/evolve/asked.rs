//! An evolution, resolved and checked.

use inkpot_core::Seating;
use serde::{Deserialize, Serialize};

use super::Method;
use crate::kinds::found::Aim;

/// An evolution, resolved and checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Evolve {
    /// The aim.
    #[serde(flatten)]
    pub aim: Aim,
    /// The method.
    pub method: Method,
    /// The way candidates learn against each other; none where they do not.
    pub rivals: Option<Rivals>,
    /// Blocks that each candidate plays against each opponent and rival, a generation.
    pub blocks: u64,
    /// Whether each generation plays blocks of its own.
    pub fresh_blocks: bool,
    /// Matches that each repetition may play.
    pub matches: u64,
    /// Generations without progress after which a repetition ends.
    pub stagnation: u64,
}

/// The way candidates learn against each other.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Rivals {
    /// Populations: candidates of one meet their own, of two each other.
    pub populations: u64,
    /// Rivals of the generation that plays now.
    pub current: u64,
    /// Rivals of the hall of fame.
    pub past: u64,
    /// The most that a hall of fame keeps.
    pub hall_of_fame: u64,
}

impl Rivals {
    /// The most rivals that a candidate meets in a generation.
    pub fn most(&self) -> u64 {
        self.current + self.past.min(self.hall_of_fame)
    }
}

impl Evolve {
    /// The seating: a candidate alone, or against one other.
    pub fn seating(&self) -> Seating {
        self.aim.ground.seating(if self.aim.opponents.is_empty() && self.rivals.is_none() { 1 } else { 2 })
    }

    /// Matches of a block.
    pub fn matches_a_block(&self) -> u64 {
        self.seating().matches_a_block() as u64
    }

    /// Matches of a generation at first, with as many rivals as there may be.
    pub fn matches_a_generation(&self) -> u64 {
        let rivals = self.rivals.map_or(0, |rivals| rivals.most());
        self.method.population() * self.populations() * self.matches_a_candidate(rivals)
    }

    /// Populations of a repetition.
    pub(super) fn populations(&self) -> u64 {
        self.rivals.map_or(1, |rivals| rivals.populations)
    }

    /// Matches of one candidate in a generation that meets this number of rivals.
    pub(super) fn matches_a_candidate(&self, rivals: u64) -> u64 {
        self.blocks * self.matches_a_block() * (self.aim.opponents.len() as u64 + rivals).max(1)
    }
}
