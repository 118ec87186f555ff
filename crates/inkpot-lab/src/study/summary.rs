//! The summary of a study: the common part, and the finding of its kind.

use std::ops::{Deref, DerefMut};

use inkpot_core::GameEntry;
use inkpot_ledger::{DecisionTime, LedgerError, Manifest, Study};
use serde::{Deserialize, Serialize};

use super::StudyPlan;
use crate::Summary;
use crate::kinds::compare::ComparisonSummary;
use crate::kinds::sweep::{CurveSummary, PointDifference, PointSummary, SolvedSummary, SweepFinding};
use crate::kinds::tournament::{RatingSummary, TournamentSummary};
use crate::kinds::tune::TuneSummary;
use crate::kinds::{Finding, StudyKind};

/// The summary of a study. Holds nothing that differs from run to run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct StudySummary {
    /// Name of the study.
    pub study: String,
    /// The finding, by kind.
    #[serde(flatten)]
    pub finding: Finding,
    /// The part that all kinds share.
    #[serde(flatten)]
    pub shared: Summary,
}

impl Deref for StudySummary {
    type Target = Summary;

    fn deref(&self) -> &Summary {
        &self.shared
    }
}

impl DerefMut for StudySummary {
    fn deref_mut(&mut self) -> &mut Summary {
        &mut self.shared
    }
}

/// Sums up the stored rows of a complete study; how long decisions took stands apart, since it differs from run to
/// run.
pub fn summarise(
    study: &Study,
    manifest: &Manifest,
    plan: &StudyPlan,
    game: &dyn GameEntry,
) -> Result<(StudySummary, Vec<DecisionTime>), LedgerError> {
    let (shared, finding, times) = plan.design.summed_up(study, manifest, &plan.shared, game)?;
    Ok((StudySummary { study: study.name().into(), finding, shared }, times))
}

impl StudySummary {
    /// Its kind.
    pub fn kind(&self) -> StudyKind {
        self.finding.kind()
    }

    /// The finding of a sweep.
    pub fn sweep(&self) -> Option<&SweepFinding> {
        if let Finding::Sweep(found) = &self.finding { Some(found) } else { None }
    }

    /// The points of a sweep; none of another kind.
    pub fn points(&self) -> &[PointSummary] {
        self.sweep().map(|found| found.points.as_slice()).unwrap_or_default()
    }

    /// The curve of a sweep.
    pub fn curve(&self) -> Option<&CurveSummary> {
        self.sweep()?.curve.as_ref()
    }

    /// The knob value that gives the target of a sweep.
    pub fn solved(&self) -> Option<&SolvedSummary> {
        self.sweep()?.solved.as_ref()
    }

    /// Neighbouring points of a sweep compared; none of another kind.
    pub fn differences(&self) -> &[PointDifference] {
        self.sweep().map(|found| found.differences.as_slice()).unwrap_or_default()
    }

    /// The summary of a tournament, beside its ratings.
    pub fn tournament(&self) -> Option<&TournamentSummary> {
        if let Finding::Tournament(found) = &self.finding { Some(&found.tournament) } else { None }
    }

    /// The field of a tournament, best first; empty in another kind.
    pub fn ratings(&self) -> &[RatingSummary] {
        if let Finding::Tournament(found) = &self.finding { &found.ratings } else { &[] }
    }

    /// The summary of a comparison.
    pub fn comparison(&self) -> Option<&ComparisonSummary> {
        if let Finding::Compare(found) = &self.finding { Some(&found.comparison) } else { None }
    }

    /// The summary of a tuning.
    pub fn tune(&self) -> Option<&TuneSummary> {
        if let Finding::Tune(found) = &self.finding { Some(&found.tune) } else { None }
    }
}
