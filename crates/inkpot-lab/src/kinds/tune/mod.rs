//! Tuning: from the experience that is wanted to the knobs, with proof on matches that the search never saw.
//!
//! The search plays probes (a rung at a point, some blocks) and keeps their figures. `search::next_probes` is a pure function of these, so the table of probes is the
//! whole checkpoint. The result is a `Sheet`. `Plan::proving` turns a sheet into a plan whose cells are the rungs with their players, on blocks from 2^32 on; `tune
//! --verify` begins there.

mod asked;
mod choose;
mod curve;
mod draft;
mod effects;
mod found;
mod history;
mod models;
mod modifier;
mod probe;
mod proof;
mod proposing;
mod resolve;
mod search;
mod sheet;
mod surface;
mod target;
#[cfg(test)]
mod tests;

pub(crate) use resolve::free_range;
pub(crate) use surface::spread;

pub use crate::figure::{Met, Side};
pub use asked::{Free, FreeRange, Player, Point, Rung, Tune};
pub use curve::{Next, ProbeCurve, Sizes, next_values};
pub use draft::{Across, FreeDraft, ProfileDraft, RungDraft, TargetDraft, Texts, TuneDraft};
pub use effects::Effect;
pub use found::{Found, FoundRung, Miss};
pub use history::{HistoryError, read_history, write_history};
pub use probe::{Probe, Probed, Sample};
pub use proof::{Proof, TuneFinding, TuneSummary};
pub use resolve::resolve_tune;
pub use search::{TuneSearch, found};
pub use sheet::{Sheet, SheetAgent, SheetKnob, SheetModifiers, SheetProof, SheetRung, SheetValue};
pub use target::{Measured, Target};
