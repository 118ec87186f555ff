//! Rows of 32-bit numbers in a checkpoint: their bits, as text in base 64.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use serde::{Deserialize, Deserializer, Serializer, de};

/// Writes the bits of each number, low byte first.
pub(crate) fn serialize<S: Serializer>(values: &[f32], serializer: S) -> Result<S::Ok, S::Error> {
    let bytes: Vec<u8> = values.iter().flat_map(|value| value.to_le_bytes()).collect();
    serializer.serialize_str(&STANDARD.encode(bytes))
}

/// Reads them back.
pub(crate) fn deserialize<'de, D: Deserializer<'de>>(deserializer: D) -> Result<Vec<f32>, D::Error> {
    let text = String::deserialize(deserializer)?;
    let bytes = STANDARD.decode(text).map_err(de::Error::custom)?;
    if bytes.len() % 4 != 0 {
        return Err(de::Error::custom("a row of numbers is cut off"));
    }
    Ok(bytes.chunks_exact(4).map(|four| f32::from_le_bytes([four[0], four[1], four[2], four[3]])).collect())
}

/// Plain bytes.
pub(crate) mod bytes {
    use super::{Deserialize, Deserializer, Engine, STANDARD, Serializer, de};

    pub(crate) fn serialize<S: Serializer>(bytes: &[u8], serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&STANDARD.encode(bytes))
    }

    pub(crate) fn deserialize<'de, D: Deserializer<'de>>(deserializer: D) -> Result<Vec<u8>, D::Error> {
        STANDARD.decode(String::deserialize(deserializer)?).map_err(de::Error::custom)
    }
}
