//! The basis of work, as it travels to an executor.

use std::borrow::Cow;

use serde::{Deserialize, Serialize};

use super::StudyPlan;
use crate::kinds::SearchPlan;
use crate::{Ground, PlanFileError, read_plan, write_plan};

/// A plan that is played or a search, whole: with every default, level and file of weights.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
#[expect(missing_docs, clippy::large_enum_variant, reason = "what it is; one stands alone")]
pub enum Basis<'a> {
    Plan(Cow<'a, StudyPlan>),
    Search(Cow<'a, SearchPlan>),
}

impl Basis<'_> {
    /// Returns the basis as text.
    ///
    /// # Panics
    /// Never: what was resolved is plain data.
    pub fn text(&self) -> String {
        write_plan(self).expect("what was resolved is plain data")
    }

    /// Reads a basis. Errs where the text is none, or was written by another version.
    pub fn read(text: &str) -> Result<Basis<'static>, PlanFileError> {
        read_plan(text)
    }

    /// The ground of its matches.
    pub fn ground(&self) -> &Ground {
        match self {
            Self::Plan(plan) => &plan.ground,
            Self::Search(search) => search.as_search().ground(),
        }
    }
}
