//! Stored plans: complete, with every default, so that a study continues, is checked and drawn as planned, whatever
//! today's defaults.

use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use thiserror::Error;

/// Version of the format in which plans are stored.
const FORMAT: u32 = 1;

#[derive(Serialize, Deserialize)]
struct PlanFile<P> {
    format: u32,
    plan: P,
}

#[derive(Deserialize)]
struct FormatOnly {
    format: u32,
}

/// An error: the stored plan cannot be read.
#[derive(Debug, Error)]
pub enum PlanFileError {
    /// It was written by another version.
    #[error("it has format {found}, and this version reads format {FORMAT}")]
    #[expect(missing_docs, reason = "the format found")]
    Format { found: u32 },
    /// It is damaged.
    #[error(transparent)]
    Damaged(#[from] serde_json::Error),
}

/// The text of a plan.
pub fn write_plan(plan: &impl Serialize) -> Result<String, PlanFileError> {
    Ok(serde_json::to_string(&PlanFile { format: FORMAT, plan })? + "\n")
}

/// The plan that a text holds.
pub fn read_plan<P: DeserializeOwned>(text: &str) -> Result<P, PlanFileError> {
    let FormatOnly { format: found } = serde_json::from_str(text)?;
    if found != FORMAT {
        return Err(PlanFileError::Format { found });
    }
    Ok(serde_json::from_str::<PlanFile<P>>(text)?.plan)
}
