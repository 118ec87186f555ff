//! The statistics of a log: means, and their covariance over people.

use inkpot_core::GameSheet;
use inkpot_stats::Moments;
use nalgebra::{DMatrix, DVector};

use super::error::FitError;
use super::log::HumanLog;
use crate::figure::Figure;

/// The log's means and their covariance over people.
pub(super) struct Observed {
    /// The figure of each column.
    pub(super) figures: Vec<Figure>,
    pub(super) people: usize,
    pub(super) means: DVector<f64>,
    pub(super) covariance: DMatrix<f64>,
}

impl Observed {
    /// Computes the statistics of a log that must determine this many knobs.
    pub(super) fn of(log: &HumanLog, knobs: usize, sheet: &GameSheet) -> Result<Self, FitError> {
        let figures = log.figures(sheet)?;
        let width = log.columns.len();
        if width < knobs {
            return Err(FitError::FewColumns { columns: width, knobs });
        }
        let mut names: Vec<&str> = log.matches.iter().map(|played| played.player.as_str()).collect();
        names.sort_unstable();
        names.dedup();
        let people = names.len();
        if people < 5 {
            return Err(FitError::FewPeople { people });
        }
        let mut means = DVector::zeros(width);
        let mut counts = vec![0.0; width];
        for (column, count) in counts.iter_mut().enumerate() {
            let mut all = Moments::default();
            log.matches.iter().for_each(|played| all.push(played.values[column]));
            *count = all.count() as f64;
            if all.sd().is_none_or(|sd| sd == 0.0) {
                return Err(FitError::Constant { column: log.columns[column].clone() });
            }
            means[column] = all.mean().unwrap_or(0.0);
        }
        // Sums of a person's deviations: the cluster-robust covariance of means.
        let mut covariance = DMatrix::zeros(width, width);
        for name in &names {
            let mut sums = DVector::zeros(width);
            for played in log.matches.iter().filter(|played| played.player == *name) {
                for column in 0..width {
                    if played.values[column].is_finite() {
                        sums[column] += (played.values[column] - means[column]) / counts[column];
                    }
                }
            }
            covariance.ger(1.0, &sums, &sums, 1.0);
        }
        let n = people as f64;
        covariance *= n / (n - 1.0);
        Ok(Self { figures, people, means, covariance })
    }

    /// Matches of a person, on average, in whole rotations.
    pub(super) fn matches_each(&self, log: &HumanLog) -> u64 {
        let mean = log.matches.len() as f64 / self.people as f64;
        (2.0 * (mean / 2.0).round()).max(2.0) as u64
    }

    /// Returns one weight a column, from its standard error.
    pub(super) fn plain_weight(&self) -> DMatrix<f64> {
        DMatrix::from_diagonal(&self.covariance.diagonal().map(|variance| 1.0 / variance))
    }
}
