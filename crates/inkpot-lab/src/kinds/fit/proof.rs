//! The proof of a fit: the fitted stand-in against whom the people played, on blocks that the search never saw.

use inkpot_core::{GameEntry, KnobValue, Knobs, Registry, Rows};
use serde::{Deserialize, Serialize};

use super::{Fit, Fitted};
use crate::checker::Checker;
use crate::figure::Figure;
use crate::figure_tally::{FigureTally, Weighted};
use crate::kind::{About, Finds, Kind, Reading, Sums};
use crate::kinds::batch::Batch;
use crate::note::Note;
use crate::searching::FIRST_PROOF_BLOCK;
use crate::{Cell, Draft, Entrant, EntrantDraft, Plan, Problem};

/// The p-value below which a fit gets a note: no values of these knobs play like the log.
const MISFIT: f64 = 0.01;

/// The proof of a fit, as a plan.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct FitProof {
    /// Agent of the stand-in as asked for.
    pub agent: String,
    /// Knobs that are set by its preset, by hand and by the fit.
    pub given: Knobs,
    /// The result of the search.
    pub fitted: Fitted,
    /// The figure of each column.
    columns: Vec<Figure>,
    /// Each cell's share of the people's matches.
    shares: Vec<f64>,
}

/// The finding of a fit, beside the summary that all studies share.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct FitFinding {
    /// Agent of the stand-in as asked for.
    pub standin: String,
    /// Knobs that are set by its preset, by hand and by the fit.
    pub given: Knobs,
    /// The knobs, and column by column how the stand-in plays beside the people.
    pub fitted: Fitted,
}

impl FitProof {
    /// The plan that proves a fit.
    pub(super) fn plan(fit: &Fit, fitted: Fitted, registry: &Registry) -> Result<(Plan, Self), Vec<Problem>> {
        let turned =
            fitted.knobs.iter().map(|knob| (knob.knob.clone(), KnobValue::Number(knob.value))).collect::<Knobs>();
        let stated = turned.over(&fit.standin.given);
        let as_drafted = |entrant: &Entrant, knobs: &Knobs| EntrantDraft {
            name: Some(entrant.name.clone()),
            agent: entrant.agent.clone(),
            knobs: knobs.clone(),
            vary: Vec::new(),
        };
        let met = fit.met();
        let opponents = met.iter().map(|(place, _)| &fit.opponents[*place]).map(|met| as_drafted(met, &met.given));
        let draft = Draft {
            game: fit.ground.game.clone(),
            level: Some(fit.ground.level.clone()),
            seed: Some(fit.ground.seed),
            seats: Some(2),
            matches: Some(fit.proof),
            series: fit.ground.series,
            confidence: Some(fit.ground.confidence),
            rules: fit.ground.rules.clone(),
            entrants: std::iter::once(as_drafted(&fit.standin, &stated)).chain(opponents).collect(),
            ..Draft::default()
        };
        let mut plan = Batch::planned(&draft, registry)?;
        plan.cells = (1..=met.len()).map(|opponent| Cell::of_its_own(vec![0, opponent], FIRST_PROOF_BLOCK)).collect();
        plan.rounds = vec![plan.cells.len()];
        let sheet = registry.find(&fit.ground.game).ok().map(GameEntry::sheet);
        let columns = sheet.and_then(|sheet| fit.log.figures(sheet).ok()).unwrap_or_default();
        let shares = met.into_iter().map(|(_, share)| share).collect();
        Ok((plan, Self { agent: fit.standin.agent.clone(), given: stated, fitted, columns, shares }))
    }
}

impl Kind for FitProof {
    /// A proof is laid out with its fit.
    fn lay_out(&self, _plan: &mut Plan, _checker: &mut Checker) {}
}

impl Finds for FitProof {
    type Finding = FitFinding;

    fn reading<'a>(&'a self, plan: &'a Plan, game: &'a dyn GameEntry) -> Box<dyn Reading<FitFinding> + 'a> {
        let cells = self.shares.iter().map(|&weight| Weighted { group: 0, weight }).collect();
        let figures = vec![self.columns.iter().copied().map(Some).collect()];
        Box::new(FitReading { proof: self, tally: FigureTally::new(plan, cells, figures, game) })
    }

    fn notes(&self, found: &FitFinding, _about: &About) -> Vec<String> {
        let fitted = &found.fitted;
        let apart = "no values of these knobs play like the log in every column; free another knob, or read which columns are far \
                     apart";
        let misfit = fitted.misfit_p.filter(|p| *p < MISFIT).map(|_| Note::Misfit.says(apart));
        let ends = fitted.knobs.iter().filter(|knob| knob.at_end);
        let ends = ends.map(|knob| {
            Note::AtEnd
                .says(format!("`{}` lies at an end of its range; widen the range if the knob goes further", knob.knob))
        });
        misfit.into_iter().chain(ends).collect()
    }
}

/// The reading of a stand-in's rows.
struct FitReading<'a> {
    proof: &'a FitProof,
    tally: FigureTally,
}

impl Reading<FitFinding> for FitReading<'_> {
    fn take(&mut self, rows: &Rows) {
        self.tally.take(rows);
    }

    fn finish(self: Box<Self>, _sums: &mut Sums) -> FitFinding {
        let FitProof { agent, given, fitted, .. } = self.proof.clone();
        let mut fitted = fitted;
        for (index, column) in fitted.columns.iter_mut().enumerate() {
            if let Some(interval) = self.tally.interval(0, index) {
                column.simulated = interval.value;
                (column.low, column.high) = (Some(interval.low), Some(interval.high));
            }
        }
        FitFinding { standin: agent, given, fitted }
    }
}
