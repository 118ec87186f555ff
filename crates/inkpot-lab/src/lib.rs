//! Studies: a draft is checked into a plan, a plan is played block by block into a ledger, and the stored rows are
//! summed up. Nothing here knows the command line; what happens is told by [`Event`]s.

mod curve;
mod draft;
mod event;
mod in_order;
mod notes;
mod plan;
mod points;
mod resolve;
mod run;
mod summary;
mod tally;

pub use draft::{Draft, EntrantDraft, Problem, StudyKind, VaryDraft, VaryRange};
pub use event::Event;
pub use plan::{Cell, Entrant, Plan, Subject, Vary};
pub use resolve::{find_agent, resolve};
pub use run::{Runner, Sitting};
pub use summary::{
    CurveSummary, EntrantSummary, Fit, PairingSummary, PointDifference, PointSummary, SolvedSummary, Summary, summarise,
};
