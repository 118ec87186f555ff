//! Figures of which some have no value: NaN in memory, null where they are written as JSON, which has no NaN.

use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// One figure.
pub(crate) mod number {
    use super::{Deserialize, Deserializer, Serialize, Serializer};

    #[expect(clippy::trivially_copy_pass_by_ref, reason = "what serde calls")]
    pub(crate) fn serialize<S: Serializer>(value: &f64, to: S) -> Result<S::Ok, S::Error> {
        value.is_finite().then_some(*value).serialize(to)
    }

    pub(crate) fn deserialize<'de, D: Deserializer<'de>>(from: D) -> Result<f64, D::Error> {
        Ok(Option::<f64>::deserialize(from)?.unwrap_or(f64::NAN))
    }
}

/// A list of figures.
pub(crate) mod many {
    use super::{Deserialize, Deserializer, Serializer};

    pub(crate) fn serialize<S: Serializer>(values: &[f64], to: S) -> Result<S::Ok, S::Error> {
        to.collect_seq(values.iter().map(|x| x.is_finite().then_some(*x)))
    }

    pub(crate) fn deserialize<'de, D: Deserializer<'de>>(from: D) -> Result<Vec<f64>, D::Error> {
        let values = Vec::<Option<f64>>::deserialize(from)?;
        Ok(values.into_iter().map(|x| x.unwrap_or(f64::NAN)).collect())
    }
}
