//! An evolution that is asked for.

use crate::kinds::found::AimDraft;

/// An evolution that is asked for.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "each as in the brief, and in `Evolve`")]
pub struct EvolveDraft {
    pub aim: AimDraft,
    pub niches: Vec<NicheDraft>,
    pub rivals: Option<RivalsDraft>,
    pub blocks: Option<u64>,
    pub fresh_blocks: Option<bool>,
    pub matches: Option<u64>,
    pub stagnation: Option<u64>,
}

/// The draft of learning against each other.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[expect(missing_docs, reason = "each as in `Rivals`")]
pub struct RivalsDraft {
    pub populations: Option<u64>,
    pub current: Option<u64>,
    pub past: Option<u64>,
    pub hall_of_fame: Option<u64>,
}

/// A measure over which elites are kept apart.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "each as in `Niche`")]
pub struct NicheDraft {
    pub measure: String,
    pub low: Option<f64>,
    pub high: Option<f64>,
    pub count: Option<u64>,
}
