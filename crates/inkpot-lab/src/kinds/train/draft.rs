//! A training that is asked for.

use inkpot_core::{Knobs, Level};

use crate::EntrantDraft;
use crate::kinds::found::AimDraft;

/// A training that is asked for.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "each as in the brief, and in `Train`")]
pub struct TrainDraft {
    pub aim: AimDraft,
    pub legs: Vec<LegDraft>,
    pub mixed: Option<bool>,
    pub self_play: Option<bool>,
    pub steps: Option<u64>,
}

/// The draft of a course's leg; missing keys are as in the rest of the brief.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "each as in the brief, and in `Leg`")]
pub struct LegDraft {
    pub level: Option<Level>,
    pub rules: Knobs,
    pub opponents: Vec<EntrantDraft>,
    pub pass: Option<f64>,
}
