//! Agents that are found, whatever the way: what evolution and training share.
//!
//! An [`Aim`] says what is sought, by which terms it is judged and on which yardstick it is looked at. A search of either
//! kind hands over picks; these are looked at, the best become champions, and champions are proved on fresh blocks.

mod aim;
mod candidate;
mod draft;
mod history;
mod looks;
mod method;
mod niche;
mod notes;
mod paths;
mod proof;
mod report;
mod resolve;
mod restored;
mod seen;
mod spent;
mod term;
mod watch;

pub use aim::{Aim, LearnedOn, Yardstick};
pub use candidate::{Candidate, Shape};
pub use draft::{AimDraft, GeneDraft, MethodDraft, SubjectDraft, TermDraft, YardstickDraft};
pub use history::{HistoryLine, read_evolution};
pub use method::MethodName;
pub use niche::Niche;
pub use paths::Paths;
pub use proof::{SearchFinding, SearchProof};
pub use report::{LegFound, SearchFound, SeedFound, StoppedBy, TermFound};
pub use spent::{compare_spent, spent_until};
pub use term::{Pays, Term};

pub(in crate::kinds) use aim::Field;
pub(in crate::kinds) use history::{EVALUATIONS, Line, write};
pub(in crate::kinds) use looks::{Comparison, Look, Looked, Looks, Pick};
pub(in crate::kinds) use notes::apart;
pub(in crate::kinds) use paths::ways;
pub(in crate::kinds) use proof::Measured;
pub(in crate::kinds) use report::{Ended, How};
pub(in crate::kinds) use resolve::{Way, opponents, resolve_aim, whole};
pub(in crate::kinds) use restored::{restored, restored_of};
pub(in crate::kinds) use seen::{Seen, best_of, block_figures, judged};
pub(in crate::kinds) use term::Figures;
pub(in crate::kinds) use watch::watched;
