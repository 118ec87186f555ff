//! A comparison: which of two is better, each other's opponents or against the same ones.
//!
//! With `until clear` it is played block by block over all cells (`Plan::interleaved`). A watch reads the rows in order and looks after every block; once it is clear,
//! the study's number of blocks becomes that. A resumed study shows a fresh watch the stored rows first.

mod asked;
mod comparison;
mod kind;
mod stored;
mod watch;

pub use asked::{Compare, CompareDraft, Requirement};
pub use comparison::{CompareFinding, ComparisonSummary, POWER, SmallestDifference};
pub use stored::{Stored, StoredError, compare_stored};
pub use watch::Verdict;
