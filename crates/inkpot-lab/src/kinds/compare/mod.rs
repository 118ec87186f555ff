//! A comparison: which of two is better, each other's opponents or against the same ones.

mod asked;
mod comparison;
mod kind;
mod stored;
mod watch;

pub use asked::{Compare, CompareDraft, Requirement};
pub use comparison::{CompareFinding, ComparisonSummary, POWER, SmallestDifference};
pub use stored::{Stored, StoredError, compare_stored};
pub use watch::Verdict;
