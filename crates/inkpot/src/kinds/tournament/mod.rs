//! Tournaments: a field by rating, and where ratings do not tell the story.

mod brief;
mod figures;
mod tables;
mod words;

use inkpot_lab::{StudyPlan, StudySummary, TournamentFinding};

pub(super) use self::brief::{KEYS, read};
use crate::failure::Failure;
use crate::figure_name::Name;
use crate::figures::{Fitting, Gallery};
use crate::kinds::kind::{Part, Tells};
use crate::show::study_view::StudyView;
use crate::show::table::On;
use crate::show::{costs, entrants, measures};

impl Tells for TournamentFinding {
    fn question(&self, who: &str, _plan: &StudyPlan) -> String {
        format!("Who is strongest: {who}")
    }

    fn sentence(&self, summary: &StudySummary) -> String {
        words::sentence(self, summary)
    }

    fn headline(&self, summary: &StudySummary) -> String {
        words::headline(self, summary)
    }

    fn parts(&self, view: &StudyView) -> Vec<Part> {
        let mut parts = vec![
            Part::Table(tables::field(self)),
            Part::Table(costs::table(view)),
            Part::Table(tables::pairs(self, view.summary)),
            Part::Lines(words::beyond(self, view.summary)),
            Part::Table(entrants::table(view.summary).only(On::Page)),
        ];
        parts.extend(measures::tables(view).map(|table| Part::Table(table.only(On::Page))));
        parts
    }

    fn method(&self) -> Option<String> {
        Some("Ratings: Bradley and Terry's model with ties, 400 points a decade, errors clustered by block.".into())
    }

    fn figures<'g>(&'g self, gallery: &'g Gallery) -> Result<Vec<Fitting<'g>>, Failure> {
        let mut fitting = vec![
            Fitting::new(Name::Ratings, || Ok(gallery.forest(self).draw())),
            Fitting::new(Name::Matrix, || Ok(gallery.matrix().draw())),
            Fitting::new(Name::Residuals, || Ok(gallery.residuals(self).draw())),
        ];
        if !self.tournament.progress.is_empty() {
            fitting.push(Fitting::new(Name::Rounds, || Ok(gallery.rounds(self).draw())));
        }
        fitting.extend(gallery.common());
        Ok(fitting)
    }
}
