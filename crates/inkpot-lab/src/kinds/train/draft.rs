//! A training that is asked for.

use crate::kinds::found::AimDraft;

/// A training that is asked for.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "each as in the brief, and in `Train`")]
pub struct TrainDraft {
    pub aim: AimDraft,
    pub self_play: Option<bool>,
    pub steps: Option<u64>,
}
