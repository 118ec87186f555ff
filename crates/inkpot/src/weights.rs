//! Files of weights that agents play by: read where a knob names one, and kept with every study that plays by them.

use std::path::Path;

use inkpot_core::{Bytes, KnobValue, Knobs};
use inkpot_lab::Entrant;
use inkpot_ledger::checksum;

use crate::failure::Failure;
use crate::input::{self, Unread};

/// The endings of agents' files: networks and tapes, and tables of values.
const ENDINGS: [&str; 3] = ["safetensors", "onnx", "csv"];
/// The help for a missing file.
pub(crate) const MISSING: &str = "check the path; a search keeps the weights beside its champion.toml";
/// Digits of its checksum that name a file.
const DIGITS: usize = 8;

/// Whether the value of a knob names a file of weights.
pub(crate) fn is_file(value: &KnobValue) -> Option<&str> {
    match value {
        KnobValue::Word(word) if ENDINGS.iter().any(|ending| word.ends_with(&format!(".{ending}"))) => Some(word),
        _ => None,
    }
}

/// Reads a file of weights; a relative path is looked up from `base`. The file is renamed by its checksum, so that two
/// of one name differ. Errs with the reason.
pub(crate) fn read(base: &Path, path: &str) -> Result<KnobValue, Unread> {
    let path = base.join(path);
    let bytes = input::weights(&path)?;
    let [stem, ending] = [path.file_stem(), path.extension()].map(|part| part.unwrap_or_default().to_string_lossy());
    Ok(value(&stem, &ending, bytes))
}

/// A file of weights as the value of a knob.
fn value(stem: &str, ending: &str, bytes: Vec<u8>) -> KnobValue {
    let sum = checksum(&bytes);
    let mark = format!("-{}", &sum[..DIGITS]);
    let stem = stem.strip_suffix(&mark).unwrap_or(stem);
    KnobValue::File { file: format!("{stem}{mark}.{ending}"), bytes: Bytes(bytes.into()) }
}

/// Knobs with every file that they name read.
pub(crate) fn with_files(knobs: &Knobs, base: &Path) -> Result<Knobs, Failure> {
    let read = |(name, value): (&str, &KnobValue)| match is_file(value) {
        Some(file) => match read(base, file) {
            Ok(read) => Ok((name.to_string(), read)),
            Err(unread) => Err(Failure::wrong(unread.what, unread.help.unwrap_or(MISSING))),
        },
        None => Ok((name.to_string(), value.clone())),
    };
    knobs.iter().map(read).collect()
}

/// The files that these entrants play by, name and bytes.
pub(crate) fn files(entrants: &[Entrant]) -> impl Iterator<Item = (&str, &[u8])> {
    entrants.iter().flat_map(|entrant| entrant.given.iter()).filter_map(|(_, value)| match value {
        KnobValue::File { file, bytes } => Some((file.as_str(), &*bytes.0)),
        _ => None,
    })
}
