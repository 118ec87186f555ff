//! Figures of stored studies: the fitting ones, and their words.

mod cost;
mod field;
mod gallery;
mod measures;
mod spread;
mod varied;

use inkpot_figures::{CostOf, Drawing};

pub(crate) use self::gallery::{Gallery, estimate};
pub(crate) use self::spread::distributions;
use crate::failure::Failure;
use crate::figure_name::Name;

/// Larger fields have no figures of measures and distributions.
const MOST_GROUPS: usize = 64;

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

impl Gallery<'_> {
    /// Lists the figures of every study with entrants or points to compare.
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

    /// Lists the figures of decision costs in states and in time, if an agent searches.
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
}
