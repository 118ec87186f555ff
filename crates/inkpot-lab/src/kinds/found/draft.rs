//! The request of a search: subject and evaluation, as a draft.

use inkpot_core::{GameSource, Knobs, Level};

use crate::{EntrantDraft, FreeDraft};

/// The draft of an aim.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "each as in the brief, and in `Aim`")]
pub struct AimDraft {
    pub game: GameSource,
    pub level: Option<Level>,
    pub seed: Option<u64>,
    pub confidence: Option<f64>,
    pub rules: Knobs,
    pub subject: SubjectDraft,
    pub free: Vec<GeneDraft>,
    pub method: MethodDraft,
    pub terms: Vec<TermDraft>,
    pub in_turn: Option<bool>,
    pub opponents: Vec<EntrantDraft>,
    pub seeds: Option<u64>,
    pub yardstick: YardstickDraft,
    pub proof: Option<u64>,
}

/// The draft of a subject.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct SubjectDraft {
    /// Agent kind or preset; `policy` and `tape` are sought whole.
    pub agent: String,
    /// Knobs that are set.
    pub knobs: Knobs,
    /// Nodes of each hidden layer of a network.
    pub layers: Option<Vec<f64>>,
    /// The activation of its hidden nodes.
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

/// The draft of a method.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct MethodDraft {
    /// The method.
    pub name: Option<String>,
    /// Knobs of it that are set.
    pub knobs: Knobs,
}

/// A part of a fitness, as asked for.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "each as in `Term`")]
pub struct TermDraft {
    pub figure: String,
    pub weight: Option<f64>,
    pub missing: Option<f64>,
    pub pays: Option<String>,
}

/// The draft of a yardstick.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "each as in `Yardstick`")]
pub struct YardstickDraft {
    pub level: Option<Level>,
    pub rules: Knobs,
    pub opponents: Vec<EntrantDraft>,
    pub held_back: Vec<Level>,
    pub figure: Option<String>,
    pub target: Option<f64>,
    pub every: Option<u64>,
    pub matches: Option<u64>,
}
