//! Tunings for tests.

use super::super::{FreeDraft, ProfileDraft, RungDraft, TargetDraft, Tune, TuneDraft, resolve_tune};
use crate::EntrantDraft;

/// A value within a tolerance.
pub(super) fn aim(figure: &str, value: f64, within: f64) -> TargetDraft {
    TargetDraft { figure: figure.into(), value: Some(value), within: Some(within), ..TargetDraft::default() }
}

/// A range with one open end or none.
pub(super) fn range(figure: &str, low: Option<f64>, high: Option<f64>) -> TargetDraft {
    TargetDraft { figure: figure.into(), low, high, ..TargetDraft::default() }
}

/// A knob of the opponent, from one value to another.
pub(super) fn free(knob: &str, low: f64, high: f64) -> FreeDraft {
    FreeDraft { knob: knob.into(), low: Some(low), high: Some(high), ..FreeDraft::default() }
}

/// A rung with one player.
pub(super) fn rung(name: &str, player: &str, targets: Vec<TargetDraft>) -> RungDraft {
    RungDraft {
        profile: ProfileDraft { name: name.into(), ..ProfileDraft::default() },
        players: vec![(EntrantDraft { agent: player.into(), ..EntrantDraft::default() }, 1.0)],
        targets,
    }
}

/// A tuning of a house game.
pub(super) fn ladder(
    game: &str,
    opponent: &str,
    free: Vec<FreeDraft>,
    rungs: Vec<RungDraft>,
    budget: u64,
    seed: u64,
) -> Tune {
    let draft = TuneDraft {
        game: game.into(),
        seed: Some(seed),
        opponent: EntrantDraft { agent: opponent.into(), ..EntrantDraft::default() },
        free,
        rungs,
        budget: Some(budget),
        ..TuneDraft::default()
    };
    resolve_tune(&draft, &inkpot_games::registry()).expect("a tuning of a house game")
}
