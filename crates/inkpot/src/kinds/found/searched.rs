//! A stored search, and the axis of its figures.

use inkpot_figures::LearningSearch;
use inkpot_lab::{Aim, Finding, HistoryLine, SearchFound, SearchPlan, StudySummary, read_evolution, spent_until};
use inkpot_ledger::Study;
use inkpot_stats::Spent;

use crate::clock;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::figures::estimate;
use crate::spent_by::By;
use crate::stored::{self, HISTORY};

/// A search as it is stored.
pub(crate) struct Searched {
    pub(super) name: String,
    sought: SearchPlan,
    aim: Aim,
    found: SearchFound,
    pub(super) confidence: f64,
    history: Vec<HistoryLine>,
    /// Seconds by which each round was done, or why they are not known.
    times: Result<Vec<(u64, f64)>, String>,
}

impl Searched {
    /// A complete study; none where it finds no agents.
    pub(crate) fn open(study: &Study, summary: &StudySummary, desk: &Desk) -> Result<Option<Self>, Failure> {
        let (Finding::Evolve(finding) | Finding::Train(finding)) = &summary.finding else { return Ok(None) };
        let (manifest, _) = stored::open(study, desk)?;
        let search = stored::stored_search(study, &manifest)?;
        let Some(aim) = search.aim().cloned() else { return Ok(None) };
        Ok(Some(Self {
            name: study.name().into(),
            sought: search,
            aim,
            found: finding.search.clone(),
            confidence: summary.confidence,
            history: read_evolution(&study.read_kept(&manifest, HISTORY)?),
            times: clock::finished_times(study, &manifest).map_err(|error| error.to_string()),
        }))
    }

    /// Returns the default axis: repetitions of a training look after the same decisions.
    pub(super) fn usual(&self) -> By {
        if self.found.method.trains() { By::Decisions } else { By::Matches }
    }

    /// Returns the cost by the end of a generation.
    fn spent(&self, by: By, line: &HistoryLine) -> Option<f64> {
        match by {
            By::Matches => Some(line.matches as f64),
            By::Evaluations => line.evaluations(),
            By::Decisions => line.number("decisions"),
            By::Steps => Some(line.steps as f64),
            By::Time => self.times.iter().flatten().find(|(round, _)| *round == line.round).map(|time| time.1),
        }
    }

    /// Returns a figure of each repetition over its cost, where it has one.
    pub(super) fn lines(&self, by: By, figure: impl Fn(&HistoryLine) -> Option<f64>) -> Vec<Vec<(f64, f64)>> {
        let of_seed = |seed: u64| {
            let lines = self.history.iter().filter(|line| line.seed == seed);
            lines.filter_map(|line| Some((self.spent(by, line)?, figure(line)?))).collect()
        };
        self.found.seeds.iter().map(|seed| of_seed(seed.seed)).collect()
    }

    /// Returns its finding.
    pub(super) fn found(&self) -> &SearchFound {
        &self.found
    }

    /// Returns its request.
    pub(super) fn sought(&self) -> &SearchPlan {
        &self.sought
    }

    /// Returns its aim.
    pub(super) fn aim(&self) -> &Aim {
        &self.aim
    }

    /// Its curves, and beside them the proof of its champion or, `by_mean` and where it has several repetitions, their mean.
    pub(super) fn drawn(&self, by: By, name: &str, by_mean: bool) -> LearningSearch {
        let mean = self.found.over_repetitions.filter(|_| by_mean);
        LearningSearch {
            name: name.into(),
            repetitions: self.lines(by, |line| line.yardstick),
            proved: mean.or(self.found.chosen().proved).as_ref().map(estimate),
            proved_word: if mean.is_some() { "mean" } else { "proved" },
        }
    }

    /// Returns the cost of each repetition until it reached its target.
    pub(super) fn spent_until(&self, by: By) -> Vec<Spent> {
        spent_until(&self.found, &self.history, |line| self.spent(by, line))
    }

    /// Errs where nothing of it can be drawn by this.
    pub(super) fn has(&self, by: By) -> Result<(), Failure> {
        if let (By::Time, Err(why)) = (by, &self.times) {
            return Err(Failure::Failed(format!("{why}\n  help: choose another `--by`, or make the study again")));
        }
        if self.history.iter().any(|line| self.spent(by, line).is_some()) {
            return Ok(());
        }
        let (what, help) = match by {
            By::Decisions => ("learned from no decisions: it is an evolution", "use `--by matches`, `steps` or `time`"),
            By::Evaluations if self.found.method.trains() => {
                ("tried no candidates: it is a training", "use `--by matches`, `steps` or `time`")
            }
            _ => ("did not keep what its rounds took", "choose another `--by`, or make the study again"),
        };
        Err(Failure::wrong(format!("`{}` {what}", self.name), help))
    }
}
