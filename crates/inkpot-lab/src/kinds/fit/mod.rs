//! Fitting a stand-in to logged matches of people: simulate and compare.
//!
//! The log's column means are compared with those of simulated matches: knob values at which they agree best are
//! found on quadratic surfaces of the simulated means, in a region that shrinks round by round (indirect inference;
//! Gourieroux, Monfort & Renault 1993). The weights are the inverse of the covariance that the means of as many
//! simulated people have (weights taken from the log itself would fit its luck); the intervals carry the log's own
//! spread, taken over people since matches of one person are alike, and that of the simulation. The fitted stand-in is
//! then measured on fresh blocks, column by column.

mod asked;
mod draft;
mod error;
mod fitted;
mod log;
mod observed;
mod people;
mod proof;
mod search;
mod surfaces;

pub use asked::Fit;
pub use draft::{FitDraft, resolve_fit};
pub use error::FitError;
pub use fitted::{Fitted, FittedColumn, FittedKnob};
pub use log::{HumanLog, LoggedMatch};
pub use proof::{FitFinding, FitProof};
