//! How a sitting ends: a stretch of work on a study, from its start or resumption on.

/// The end of a sitting.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sitting {
    /// Every block of the study is stored.
    Complete,
    /// It was asked to stop; what was finished is stored.
    Interrupted,
}
