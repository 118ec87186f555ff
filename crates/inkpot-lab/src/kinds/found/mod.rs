//! Agents from a search: the common part of evolution and training.
//!
//! An [`Aim`] says what is sought, by which terms it is judged and on which yardstick it is looked at. A search of either
//! kind hands over picks; these are looked at, the best become champions, and champions are proved on fresh blocks.

mod aim;
mod candidate;
mod draft;
mod evaluation;
mod finding;
mod history;
mod looks;
mod map;
mod method;
mod niche;
mod notes;
mod paths;
mod proof;
mod report;
mod resolve;
mod restored;
mod spent;
mod term;
mod watch;

pub use aim::{Aim, LearnedOn, Yardstick};
pub use candidate::{Candidate, Shape};
pub use draft::{AimDraft, GeneDraft, MethodDraft, SubjectDraft, TermDraft, YardstickDraft};
pub use finding::SearchFinding;
pub use history::{HistoryLine, read_evolution};
pub use map::{MapAxis, MapFound, NicheFound};
pub use method::{EvolutionName, MethodFamily, MethodName, TrainingName};
pub use niche::Niche;
pub use paths::Paths;
pub use proof::SearchProof;
pub use report::{LegFound, SearchFound, SeedFound, StoppedBy, TargetVerdict, TermFound};
pub use spent::{reached_unconfirmed, spent_until};
pub use term::{Pays, Term};

pub(crate) use aim::{Field, Purpose};
pub(crate) use evaluation::{Evaluation, best_of, block_figures, judged};
pub(crate) use history::{EVALUATIONS, Line, write};
pub(crate) use looks::{Comparison, Look, Looked, Looks, Pick};
pub(crate) use map::named;
pub(crate) use notes::{apart, fell_back, has_risen, is_without_success, never_succeeded, of_repetition};
pub(crate) use paths::ways;
pub(crate) use proof::Measured;
pub(crate) use report::{Ended, How};
pub(crate) use resolve::{Way, opponents, resolve_aim, whole};
pub(crate) use restored::{restored, restored_of};
pub(crate) use term::Figures;
pub(crate) use watch::watched;
