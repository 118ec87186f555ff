//! The draft of a study: the common part, and that of its kind.

use std::ops::{Deref, DerefMut};

use inkpot_core::Registry;

use super::StudyPlan;
use crate::kinds::{KindDraft, StudyKind};
use crate::planning::{Planning, planned};
use crate::{Draft, Problem};

/// A study as it was asked for.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct StudyDraft {
    /// The part that all kinds share.
    pub shared: Draft,
    /// The part of its kind.
    pub asked: KindDraft,
}

impl StudyDraft {
    /// Kind of the study.
    pub fn kind(&self) -> StudyKind {
        self.asked.kind()
    }
}

/// A batch.
impl From<Draft> for StudyDraft {
    fn from(shared: Draft) -> Self {
        Self { shared, asked: KindDraft::default() }
    }
}

impl Deref for StudyDraft {
    type Target = Draft;

    fn deref(&self) -> &Draft {
        &self.shared
    }
}

impl DerefMut for StudyDraft {
    fn deref_mut(&mut self) -> &mut Draft {
        &mut self.shared
    }
}

/// Checks a draft against the registry. Errs with everything that is wrong with it.
pub fn resolve(draft: &StudyDraft, registry: &Registry) -> Result<StudyPlan, Vec<Problem>> {
    let planning = Planning {
        name: draft.kind().name(),
        matches: draft.asked.matches(),
        check: &|checker, entrants| draft.asked.checked(checker, &draft.shared, entrants),
        kind: |design| crate::kinds::Design::as_kind(design),
    };
    let (shared, design) = planned(&draft.shared, registry, &planning)?;
    Ok(StudyPlan { shared, design })
}
