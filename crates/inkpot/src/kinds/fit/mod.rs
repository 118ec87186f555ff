//! Fits: the knobs with which a stand-in plays like the people of a log.

mod brief;
mod check;
mod log;
mod words;

use inkpot_core::GameEntry;
use inkpot_lab::{FitFinding, FitProof, FittedColumn, StudyPlan, StudySummary};
use inkpot_stats::Interval;

pub(super) use self::brief::read;
use crate::brief::BriefText;
use crate::failure::Failure;
use crate::figure_name::Name;
use crate::figures::{Fitting, Gallery};
use crate::kinds::kind::{Part, Tells, Written};
use crate::show::format::places;
use crate::show::study_view::StudyView;
use crate::show::table::{Cell, Column, On, Table};
use crate::show::{asked, costs, entrants};

/// The fitted stand-in as an agent file.
pub(crate) const STANDIN: &str = "standin.toml";

impl Tells for FitFinding {
    fn question(&self, _who: &str, _plan: &StudyPlan) -> String {
        "Which values play like the people of a log".into()
    }

    fn sentence(&self, _summary: &StudySummary) -> String {
        words::sentence(self)
    }

    fn headline(&self, _summary: &StudySummary) -> String {
        words::headline(self)
    }

    fn parts(&self, view: &StudyView) -> Vec<Part> {
        vec![
            Part::Table(columns(self)),
            Part::Lines(words::lines(self)),
            Part::Table(costs::table(view)),
            Part::Table(entrants::table(view.summary).only(On::Page)),
        ]
    }

    fn asked(&self, plan: &StudyPlan, game: &dyn GameEntry) -> Vec<(String, String)> {
        std::iter::once(("Log".to_string(), words::log(self))).chain(asked::entrants(plan, game)).collect()
    }

    fn method(&self) -> Option<String> {
        Some(words::method(self))
    }

    fn figures<'g>(&'g self, gallery: &'g Gallery) -> Result<Vec<Fitting<'g>>, Failure> {
        let mut fitting = vec![Fitting::new(Name::Rates, || Ok(gallery.rates().draw()))];
        fitting.extend(gallery.common());
        Ok(fitting)
    }
}

/// Builds the table of the stand-in beside the people, column by column.
fn columns(found: &FitFinding) -> Table {
    let columns = vec![
        Column::text("Column"),
        Column::figure("Logged mean"),
        Column::figure("Standard error"),
        Column::figure("Fitted stand-in"),
        Column::figure("Difference, in errors"),
    ];
    let row = |column: &FittedColumn| {
        let (mean, se) = (column.logged, column.logged_se);
        let places = places(&Interval { value: mean, low: mean - se, high: mean + se });
        let number = |x: f64| Cell::Said(format!("{x:.places$}"), x);
        let proved = column.low.zip(column.high).map(|(low, high)| Interval { value: column.simulated, low, high });
        let apart = (column.simulated - mean) / se;
        let cells = vec![
            Cell::text(&column.column),
            number(mean),
            number(se),
            proved.map_or_else(|| number(column.simulated), Cell::Figure),
            Cell::Said(format!("{apart:+.1}"), apart),
        ];
        (column.column.clone(), cells)
    };
    Table::new("People and stand-in, column by column", columns)
        .at_most(usize::MAX)
        .with(found.fitted.columns.iter().map(row))
}

impl Written for FitProof {
    /// A proof is not asked for: it has no brief of its own.
    fn write(&self, _plan: &StudyPlan, _brief: &mut BriefText) {}

    fn files(&self, _summary: Option<&StudySummary>) -> Result<Vec<(String, String)>, Failure> {
        Ok(vec![(STANDIN.into(), words::agent_file(self))])
    }
}
