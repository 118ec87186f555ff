//! Why nothing can be fitted to a log.

use thiserror::Error;

/// An error: nothing can be fitted to the log.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum FitError {
    /// Fewer columns than knobs.
    #[error("{columns} columns cannot tell {knobs} knobs apart: log more of what the game measures, or free fewer")]
    #[expect(missing_docs, reason = "columns that can be compared, and free knobs")]
    FewColumns { columns: usize, knobs: usize },
    /// Too few people or matches.
    #[error("the log has {people} people: at least five are needed for intervals")]
    #[expect(missing_docs, reason = "people in the log")]
    FewPeople { people: usize },
    /// A column that says nothing.
    #[error("the column `{column}` is the same in every match: leave it out")]
    #[expect(missing_docs, reason = "the column")]
    Constant { column: String },
    /// The surfaces cannot be told apart.
    #[error("the knobs cannot be told apart by this log: free fewer, or log more of what the game measures")]
    Undetermined,
    /// A column that is no figure of the game.
    #[error("the column `{column}` is not a figure of the game; available: {}", known.join(", "))]
    #[expect(missing_docs, reason = "the column, and all figures")]
    NoFigure { column: String, known: Vec<String> },
}
