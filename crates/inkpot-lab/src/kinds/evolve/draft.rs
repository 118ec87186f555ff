//! An evolution that is asked for.

use inkpot_core::{Knobs, Level};

use crate::{EntrantDraft, FreeDraft};

/// An evolution that is asked for.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "each as in the brief, and in `Evolve`")]
pub struct EvolveDraft {
    pub game: String,
    pub level: Option<Level>,
    pub seed: Option<u64>,
    pub confidence: Option<f64>,
    pub rules: Knobs,
    pub subject: SubjectDraft,
    pub free: Vec<GeneDraft>,
    pub method: MethodDraft,
    pub niches: Vec<NicheDraft>,
    pub terms: Vec<TermDraft>,
    pub in_turn: Option<bool>,
    pub opponents: Vec<EntrantDraft>,
    pub rivals: Option<RivalsDraft>,
    pub blocks: Option<u64>,
    pub fresh_blocks: Option<bool>,
    pub seeds: Option<u64>,
    pub matches: Option<u64>,
    pub stagnation: Option<u64>,
    pub yardstick: YardstickDraft,
    pub proof: Option<u64>,
}

/// What is sought, as asked for.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct SubjectDraft {
    /// Agent kind or preset; `policy` and `tape` are sought whole.
    pub agent: String,
    /// Knobs that are set.
    pub knobs: Knobs,
    /// Nodes of each hidden layer of a network.
    pub layers: Option<Vec<f64>>,
    /// What its hidden nodes make of their sums.
    pub activation: Option<String>,
    /// Length of a tape.
    pub steps: Option<u64>,
}

/// A knob that is sought.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct GeneDraft {
    /// The knob and its range.
    pub free: FreeDraft,
    /// The scale on which it is searched: `linear` or `log`.
    pub scale: Option<String>,
}

/// How is searched, as asked for.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct MethodDraft {
    /// The method.
    pub name: Option<String>,
    /// Knobs of it that are set.
    pub knobs: Knobs,
}

/// How candidates learn against each other, as asked for.
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

/// A part of a fitness, as asked for.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "each as in `Term`")]
pub struct TermDraft {
    pub figure: String,
    pub weight: Option<f64>,
    pub missing: Option<f64>,
}

/// What a search is looked at on, as asked for.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "each as in `Yardstick`")]
pub struct YardstickDraft {
    pub level: Option<Level>,
    pub rules: Knobs,
    pub opponents: Vec<EntrantDraft>,
    pub figure: Option<String>,
    pub target: Option<f64>,
    pub every: Option<u64>,
    pub matches: Option<u64>,
}
