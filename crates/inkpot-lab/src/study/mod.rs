//! A whole study, from draft to summary: each is what all kinds share, with what its own kind adds.

mod basis;
mod draft;
mod plan;
mod summary;

pub use basis::Basis;
pub use draft::{StudyDraft, resolve};
pub use plan::StudyPlan;
pub use summary::{StudySummary, summarise};
