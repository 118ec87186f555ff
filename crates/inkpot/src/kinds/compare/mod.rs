//! Comparisons: which of two is better.

mod brief;
mod figures;
pub(crate) mod words;

use inkpot_lab::{CompareFinding, StudyPlan, StudySummary};

pub(super) use self::brief::{KEYS, read};
use crate::failure::Failure;
use crate::figure_name::Name;
use crate::figures::{Fitting, Gallery};
use crate::kinds::kind::{Part, Tells};
use crate::show::study_view::StudyView;
use crate::show::{costs, entrants, measures};

impl Tells for CompareFinding {
    fn question(&self, who: &str, _plan: &StudyPlan) -> String {
        format!("Which is better: {who}")
    }

    fn sentence(&self, summary: &StudySummary) -> String {
        words::sentence(&self.comparison, summary.confidence)
    }

    fn parts(&self, view: &StudyView) -> Vec<Part> {
        let mut parts = vec![
            Part::Lines(words::lines(&self.comparison)),
            Part::Table(entrants::table(view.summary)),
            Part::Table(costs::table(view)),
        ];
        parts.extend(measures::tables(view).map(Part::Table));
        parts
    }

    fn requirement(&self) -> Result<(), Failure> {
        words::requirement(&self.comparison)
    }

    fn figures<'g>(&'g self, gallery: &'g Gallery) -> Result<Vec<Fitting<'g>>, Failure> {
        let mut fitting = vec![Fitting::new(Name::Running, || Ok(gallery.running(&self.comparison).draw()))];
        fitting.extend(gallery.common());
        Ok(fitting)
    }
}
