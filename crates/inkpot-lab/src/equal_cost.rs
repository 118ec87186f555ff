//! The budget in states with which an agent's decisions take a wanted time on this machine.

use std::time::Instant;

use inkpot_core::{Casting, GameEntry, Knobs, Setting, SettingError, Spot};

/// The knob that is sought.
pub const NODES: &str = "nodes";
/// Initial number of states of the search.
const BEGIN: f64 = 1_000.0;
/// The knob's greatest value.
const MOST: f64 = 1e10;
/// Decisions, and seconds of them, that a measurement takes.
const DECISIONS: u32 = 30;
const SECONDS: f64 = 0.3;
/// Measurements, at most.
const ROUNDS: usize = 8;
/// A measured time this near the wanted one will do, as a share of it.
const NEAR: f64 = 0.04;
/// The budget changes by no more than this factor at once.
const STEP: f64 = 20.0;

/// A budget, and the time that a decision took with it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct EqualCost {
    /// States that the agent may advance for a decision.
    pub nodes: u64,
    /// Mean time of a decision (ms).
    pub millis: f64,
}

/// Finds the nodes with which a decision of an agent takes `millis` on average, over matches of the setting in which it has every
/// seat. Where no number of nodes does, because something else ends its search, the time that is given falls short.
pub fn equal_cost(
    game: &dyn GameEntry,
    setting: &Setting,
    kind: &str,
    knobs: &Knobs,
    millis: f64,
) -> Result<EqualCost, SettingError> {
    let mut found = EqualCost { nodes: BEGIN as u64, millis: 0.0 };
    for _ in 0..ROUNDS {
        let knobs = knobs.clone().with(NODES, found.nodes as f64);
        let cast = Casting::everywhere(kind, &knobs, setting.cast.len());
        found.millis = decision_millis(game, &Setting { cast, ..setting.clone() })?;
        let factor = (millis / found.millis.max(1e-6)).clamp(1.0 / STEP, STEP);
        let next = rounded((found.nodes as f64 * factor).clamp(1.0, MOST));
        if (found.millis / millis - 1.0).abs() < NEAR || next == found.nodes {
            break;
        }
        found.nodes = next;
    }
    Ok(found)
}

/// The same number with three digits that count.
fn rounded(x: f64) -> u64 {
    let unit = 10f64.powf((x.log10().floor() - 2.0).max(0.0));
    ((x / unit).round() * unit) as u64
}

/// Mean time of a decision over whole matches (ms).
fn decision_millis(game: &dyn GameEntry, setting: &Setting) -> Result<f64, SettingError> {
    let stage = game.stage(setting)?;
    let (mut decisions, mut seconds) = (0u32, 0.0);
    for block in 0.. {
        let mut held = stage.open(Spot { block, ..Spot::default() });
        loop {
            for seat in held.pending() {
                let begun = Instant::now();
                held.consider(seat);
                seconds += begun.elapsed().as_secs_f64();
                decisions += 1;
            }
            // A match in real time is long: its first part will do.
            if !held.step() || (seconds > SECONDS && decisions >= DECISIONS && game.sheet().ticks_per_second.is_some())
            {
                break;
            }
        }
        if decisions == 0 || (seconds > SECONDS && decisions >= DECISIONS) {
            break;
        }
    }
    Ok(1e3 * seconds / f64::from(decisions.max(1)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn three_digits_count() {
        assert_eq!([7.4, 999.6, 12_345.0, 1.0].map(rounded), [7, 1_000, 12_300, 1]);
    }
}
