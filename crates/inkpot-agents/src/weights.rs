//! The file of weights that an agent plays by.

use inkpot_core::{Knob, KnobValue, Knobs};
use inkpot_learn::Weights;

/// Reads the file of the knob `file`. Errs with what is wrong with it.
pub(crate) fn read(knobs: &Knobs) -> Result<Weights, String> {
    let Some(KnobValue::File { file, bytes }) = knobs.get("file") else {
        return Err("the knob `file` names no file".into());
    };
    Weights::from_bytes(&bytes.0).map_err(|error| format!("`{file}` cannot be used: {error}"))
}

/// The knob `training`: how far a policy had been trained.
pub(crate) fn training() -> Knob {
    Knob::real("training", 0.0..=1.0, 1.0)
        .help("share of its training: it plays as it did then, by the nearest state before that was kept")
}

/// Of states by the share of the training, in order, the last one by this share; the first where all are later. Errs where
/// there is none.
pub(crate) fn before<T: Clone>(earlier: &[(f64, T)], share: f64) -> Result<T, String> {
    let found = earlier.iter().rev().find(|(by, _)| *by <= share).or(earlier.first());
    let missing = "it keeps no earlier state of its training; leave `training` at 1";
    found.map(|(_, own)| own.clone()).ok_or_else(|| missing.into())
}
