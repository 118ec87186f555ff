//! A sweep: one pairing at every value of one or two knobs.

mod asked;
mod curve;
mod finding;
mod kind;
mod notes;
mod points;
mod vary;

pub use asked::{Subject, Sweep, SweepDraft, Vary, VaryDraft};
pub use finding::{CurveFit, CurveSummary, PointDifference, PointSummary, SolvedSummary, SweepFinding};
