//! The end of a sitting: a stretch of work on a study, from its start or resumption on.

/// The end of a sitting.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sitting {
    /// Every block of the study is stored.
    Complete,
    /// It was asked to stop; finished blocks are stored.
    Interrupted,
}
