//! A whole study, from draft to summary: each is the common part with that of its kind.

mod basis;
mod draft;
mod plan;
mod summary;

pub use basis::Basis;
pub use draft::{StudyDraft, resolve};
pub use plan::StudyPlan;
pub use summary::{StudySummary, summarise};
