//! A stored study with the data of its figures.

use inkpot_core::{Measure, nearest};
use inkpot_figures::Estimate;
use inkpot_lab::{StudyPlan, StudySummary};
use inkpot_ledger::{Manifest, Study};
use inkpot_stats::Interval;

use super::varied::varied;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::{confidence, count};
use crate::stored;

/// The figures of one study.
pub(crate) struct Gallery<'a> {
    pub(crate) study: &'a Study,
    pub(crate) desk: &'a Desk,
    pub(crate) manifest: Manifest,
    pub(crate) plan: StudyPlan,
    pub(crate) summary: &'a StudySummary,
    pub(crate) measures: &'a [Measure],
    pub(super) shown: Vec<&'a Measure>,
    /// The finding in a few words.
    headline: String,
}

impl<'a> Gallery<'a> {
    /// The gallery of a complete study that found this; `measures` names those to show.
    pub(crate) fn new(
        study: &'a Study,
        summary: &'a StudySummary,
        headline: String,
        measures: &[String],
        desk: &'a Desk,
    ) -> Result<Self, Failure> {
        let (manifest, plan) = stored::open(study, desk)?;
        let all = &desk.game(&summary.game)?.sheet().measures;
        let find = |name: &String| {
            all.iter().find(|measure| measure.name == *name).ok_or_else(|| {
                let names: Vec<&str> = all.iter().map(|measure| measure.name.as_str()).collect();
                let near = nearest(name, names.iter().copied())
                    .map(|near| format!("did you mean `{near}`? "))
                    .unwrap_or_default();
                Failure::wrong(
                    format!("there is no measure `{name}`"),
                    format!("{near}Available: {}", names.join(", ")),
                )
            })
        };
        let wanted = measures.iter().map(find).collect::<Result<Vec<_>, _>>()?;
        let shown = if wanted.is_empty() { varied(all, summary) } else { wanted };
        Ok(Self { study, desk, manifest, plan, summary, measures: all, shown, headline })
    }

    pub(crate) fn caption(&self, method: &str) -> String {
        format!(
            "{method} {} intervals over {} blocks. {}, seed {}. Study {}.",
            confidence(self.summary),
            count(self.summary.blocks),
            self.summary.game,
            self.summary.seed,
            self.summary.study
        )
    }

    pub(crate) fn each(&self) -> String {
        format!("{} matches", count(self.plan.blocks * self.plan.matches_a_block()))
    }

    pub(crate) fn title(&self) -> String {
        self.headline.trim_end_matches('.').replace("  ", " ")
    }
}

pub(crate) fn estimate(interval: &Interval) -> Estimate {
    Estimate { value: interval.value, low: interval.low, high: interval.high }
}
