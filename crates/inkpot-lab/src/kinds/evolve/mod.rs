//! Evolution: agents that are found, not written.
//!
//! What is sought (knobs, a network, a tape) becomes a space of genomes; a method asks for candidates, these play, and
//! what they come to is their worth: named terms with weights. Several repetitions with seeds of their own run side by
//! side, each is looked at on a yardstick that it never learns from, and what each found is proved on fresh blocks.

mod asked;
mod candidate;
mod draft;
mod found;
mod history;
mod looks;
mod map;
mod method;
mod notes;
mod paths;
mod proof;
mod repetition;
mod resolve;
mod rivals;
mod search;
mod seen;
mod spent;
mod term;

pub use asked::{Evolve, LearnedOn, Rivals, Yardstick};
pub use candidate::{Candidate, Shape};
pub use draft::{
    EvolveDraft, GeneDraft, MethodDraft, NicheDraft, RivalsDraft, SubjectDraft, TermDraft, YardstickDraft,
};
pub use found::{SearchFound, SeedFound, TermFound};
pub use history::{HistoryLine, read_evolution};
pub use map::{MapAxis, MapFound, NicheFound};
pub use method::{Method, MethodName, Niche};
pub use paths::{Paths, paths};
pub use proof::{EvolveFinding, EvolveProof};
pub use repetition::StoppedBy;
pub use resolve::resolve_evolve;
pub use spent::{compare_spent, spent_until};
pub use term::Term;
