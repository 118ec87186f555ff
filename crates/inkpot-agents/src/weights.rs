//! The file of weights that an agent plays by.

use inkpot_core::{KnobValue, Knobs};
use inkpot_learn::Weights;

/// Reads the file of the knob `file`. Errs with what is wrong with it.
pub(crate) fn read(knobs: &Knobs) -> Result<Weights, String> {
    let Some(KnobValue::File { file, bytes }) = knobs.get("file") else {
        return Err("the knob `file` names no file".into());
    };
    Weights::from_bytes(&bytes.0).map_err(|error| format!("`{file}` cannot be used: {error}"))
}
