//! The ways in which agents are found.

use serde::{Deserialize, Serialize};

use crate::StudyKind;
use crate::kinds::evolve::EvolutionName;
use crate::kinds::train::TrainingName;

/// A method of evolution or of training.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged)]
#[expect(missing_docs, reason = "the methods of each kind of study")]
pub enum MethodName {
    Evolution(EvolutionName),
    Training(TrainingName),
}

impl MethodName {
    /// Those of a kind of study, the usual one first.
    pub fn of(kind: StudyKind) -> Vec<Self> {
        match kind {
            StudyKind::Evolve => EvolutionName::ALL.map(Self::Evolution).to_vec(),
            StudyKind::Train => TrainingName::ALL.map(Self::Training).to_vec(),
            _ => Vec::new(),
        }
    }

    /// The kind of study that it belongs to.
    pub fn kind(self) -> StudyKind {
        match self {
            Self::Evolution(_) => StudyKind::Evolve,
            Self::Training(_) => StudyKind::Train,
        }
    }

    /// Its name in briefs and JSON.
    pub fn name(self) -> &'static str {
        match self {
            Self::Evolution(own) => own.name(),
            Self::Training(own) => own.name(),
        }
    }
}
