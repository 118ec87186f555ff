//! From stored studies to figures: which fit, and what they say.

mod cost;
mod field;
mod measures;
pub(crate) mod name;
mod spread;

use inkpot_core::{Measure, nearest};
use inkpot_figures::{CostOf, Drawing, Estimate};
use inkpot_lab::{Plan, Summary};
use inkpot_ledger::{Manifest, Study};
use inkpot_stats::Interval;

pub(crate) use self::name::Name;
pub(crate) use self::spread::distributions;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::{confidence, count};
use crate::stored;

/// Larger fields have no figures of measures and distributions.
const MOST_GROUPS: usize = 64;

/// The figures of one study.
pub(crate) struct Gallery<'a> {
    pub(crate) study: &'a Study,
    pub(crate) desk: &'a Desk,
    pub(crate) manifest: Manifest,
    pub(crate) plan: Plan,
    pub(crate) summary: &'a Summary,
    pub(crate) measures: &'a [Measure],
    shown: Vec<&'a Measure>,
    /// What was found, in few words.
    headline: String,
}

/// Draws a figure.
type Draw<'g> = Box<dyn Fn() -> Result<Drawing, Failure> + 'g>;

/// A figure that fits a study, not drawn yet.
pub(crate) struct Fitting<'g> {
    pub(crate) name: Name,
    pub(crate) draw: Draw<'g>,
}

impl<'g> Fitting<'g> {
    /// A figure of this name.
    pub(crate) fn new(name: Name, draw: impl Fn() -> Result<Drawing, Failure> + 'g) -> Self {
        Self { name, draw: Box::new(draw) }
    }
}

impl<'a> Gallery<'a> {
    /// The gallery of a complete study that found this; `measures` names those to show.
    pub(crate) fn new(
        study: &'a Study,
        summary: &'a Summary,
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
        let asked = measures.iter().map(find).collect::<Result<Vec<_>, _>>()?;
        let shown = if asked.is_empty() { measures::varied(all, summary) } else { asked };
        Ok(Self { study, desk, manifest, plan, summary, measures: all, shown, headline })
    }

    /// What fits every study that has entrants or points to set side by side.
    pub(crate) fn common(&self) -> Vec<Fitting<'_>> {
        let mut fitting = Vec::new();
        if self.plan.entrants.len() <= MOST_GROUPS {
            fitting
                .extend([Name::Scores, Name::Lengths].map(|name| {
                    Fitting::new(name, move || Ok(spread::distributions(self, &[name])?.remove(0).draw()))
                }));
            fitting.push(Fitting::new(Name::Measures, || Ok(self.measures().draw())));
        }
        fitting.extend(self.costs());
        fitting
    }

    /// What decisions cost in states and in time, where somebody searches.
    pub(crate) fn costs(&self) -> Vec<Fitting<'_>> {
        if self.summary.entrants.iter().all(|entrant| entrant.nodes.is_none()) {
            return Vec::new();
        }
        let mut fitting = vec![Fitting::new(Name::Cost, || Ok(cost::cost(self, CostOf::States).draw()))];
        if !self.manifest.decision_times.is_empty() {
            fitting.push(Fitting::new(Name::Times, || Ok(cost::cost(self, CostOf::Time).draw())));
        }
        fitting
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
