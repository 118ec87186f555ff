//! A fit, resolved and checked.

use inkpot_core::{Casting, GameEntry, Knobs, Setting};
use serde::{Deserialize, Serialize};

use super::HumanLog;
use crate::{Entrant, Free, Ground};

/// A fit, resolved and checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Fit {
    /// The ground of its matches; the length of a series is the log's mean a person, in whole rotations.
    pub ground: Ground,
    /// The stand-in, before its knobs are turned.
    pub standin: Entrant,
    /// The knobs that are fitted, all numbers.
    pub free: Vec<Free>,
    /// Whom the people played.
    pub opponents: Vec<Entrant>,
    /// The log of people's matches.
    pub log: HumanLog,
    /// Matches of the proof, against each opponent.
    pub proof: u64,
}

impl Fit {
    /// Matches of each simulated person against each opponent.
    pub(super) fn series(&self) -> u64 {
        self.ground.seating(2).matches_a_block() as u64
    }

    /// Opponents that were met at all, each with how often.
    pub(super) fn met(&self) -> Vec<(usize, f64)> {
        let shares = self.log.shares(self.opponents.len());
        shares.into_iter().enumerate().filter(|(_, share)| *share > 0.0).collect()
    }

    /// The value of a free knob at a share of its range.
    pub(super) fn value(free: &Free, share: f64) -> f64 {
        let (low, high) = free.bounds();
        free.held(low + share * (high - low))
    }

    /// The free knobs at a point given in shares of their ranges.
    pub(super) fn turned(&self, shares: &[f64]) -> Knobs {
        let each = self.free.iter().zip(shares);
        each.map(|(free, share)| (free.knob.clone(), free.value(Self::value(free, *share)))).collect()
    }

    /// The stand-in at a point against an opponent.
    pub(super) fn setting(&self, shares: &[f64], opponent: usize, game: &dyn GameEntry) -> Setting {
        let sheet = game.agents().iter().find(|sheet| sheet.name == self.standin.kind);
        let stated = self.turned(shares).over(&self.standin.given);
        let knobs = sheet.and_then(|sheet| stated.resolve(&sheet.knobs).ok());
        let other = &self.opponents[opponent];
        let knobs = knobs.unwrap_or_else(|| self.standin.knobs.clone());
        Setting {
            rules: self.ground.rules.clone(),
            level: self.ground.level.clone(),
            cast: vec![Casting::new(0, &self.standin.kind, knobs), Casting::new(1, &other.kind, other.knobs.clone())],
            seating: self.ground.seating(2),
            study_seed: self.ground.seed,
            pairing: opponent as u64,
        }
    }
}
