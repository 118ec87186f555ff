//! Agents from evolution or training, with their proofs.

mod brief;
mod held_back;
mod map;
mod paths;
pub(crate) mod searched;
mod tables;
pub(crate) mod together;
mod traces;
mod words;

use inkpot_core::GameEntry;
use inkpot_lab::{Finding, SearchFinding, SearchProof, StudyPlan, StudySummary};

pub(super) use self::brief::{
    is_readable, number, read_aim, read_legs, text, write_head, write_legs, write_method, write_terms, write_yardstick,
};
use self::searched::Searched;
use crate::brief::BriefText;
use crate::failure::Failure;
use crate::figure_name::Name;
use crate::figures::{Fitting, Gallery};
use crate::kinds::kind::{Part, Tells, Written};
use crate::show::costs;
use crate::show::study_view::StudyView;
use crate::stored::{CHECKPOINT, SEARCH};

/// The champion as an agent file.
const CHAMPION: &str = "champion.toml";

impl Tells for SearchFinding {
    fn question(&self, _who: &str, _plan: &StudyPlan) -> String {
        "What the search finds, and its figures on fresh blocks".into()
    }

    fn sentence(&self, summary: &StudySummary) -> String {
        words::sentence(&self.search, summary)
    }

    fn headline(&self, _summary: &StudySummary) -> String {
        words::headline(&self.search)
    }

    fn parts(&self, view: &StudyView) -> Vec<Part> {
        let measures = &view.game.sheet().measures;
        let mut parts = vec![Part::Table(tables::seeds(&self.search))];
        parts.extend(tables::legs(&self.search).map(Part::Table));
        parts.extend([
            Part::Table(tables::terms(&self.search, measures)),
            Part::Lines(words::lines(&self.search) + &self.map.as_ref().map_or_else(String::new, map::lines)),
            Part::Table(costs::table(view)),
        ]);
        parts
    }

    fn asked(&self, _plan: &StudyPlan, _game: &dyn GameEntry) -> Vec<(String, String)> {
        vec![
            ("Method".into(), self.search.method.name().into()),
            (words::score_name(&self.search).into(), words::fitness(&self.search)),
            ("Yardstick".into(), words::yardstick(&self.search)),
        ]
    }

    fn method(&self) -> Option<String> {
        Some(words::method(&self.search))
    }

    fn has_entrants(&self) -> bool {
        false
    }

    fn figures<'g>(&'g self, gallery: &'g Gallery) -> Result<Vec<Fitting<'g>>, Failure> {
        let searched = move || {
            let missing = || Failure::Failed("this study does not hold its search".into());
            Searched::open(gallery.study, gallery.summary, gallery.desk)?.ok_or_else(missing)
        };
        let mut fitting = vec![
            Fitting::new(Name::Learning, move || {
                let searched = searched()?;
                let by = searched.usual();
                together::learning(&[searched], by)
            }),
            Fitting::new(Name::Terms, move || Ok(traces::terms(&searched()?, gallery).draw())),
        ];
        if self.search.seeds.iter().any(|seed| seed.held_back.is_some()) {
            fitting.push(Fitting::new(Name::HeldBack, move || Ok(held_back::draw(&searched()?))));
        }
        if self.search.method.trains() {
            // Only a policy among options has shares.
            let searched = searched()?;
            if let Some(drawn) = traces::shares(&searched, gallery) {
                fitting.push(Fitting::new(Name::Shares, move || Ok(drawn.draw())));
            }
        }
        if self.search.seeds.iter().any(|seed| !seed.knobs.is_empty()) {
            fitting.push(Fitting::new(Name::Knobs, move || Ok(traces::knobs(&searched()?, gallery).draw())));
        }
        if let Some(map) = &self.map {
            fitting.push(Fitting::new(Name::Niches, move || Ok(map::niches(map, &self.search, gallery).draw())));
        }
        let game = gallery.desk.game(&gallery.summary.game)?;
        let alone = gallery.plan.cells.iter().all(|cell| cell.entrants.len() == 1);
        // Without the others there is nothing to draw, and all else still is.
        let checkpoint = gallery.study.read_sealed(CHECKPOINT, SEARCH);
        if let Err(error) = &checkpoint {
            gallery.desk.say(format!("warning: the figure `paths` is left out: {error}"));
        }
        let resumable = matches!(checkpoint, Ok(Some(_)));
        if game.has_scene() && alone && resumable {
            fitting.push(Fitting::new(Name::Paths, move || paths::draw(&searched()?, gallery)));
        }
        fitting.extend(gallery.common());
        Ok(fitting)
    }
}

impl Written for SearchProof {
    /// A proof is not asked for: it has no brief of its own.
    fn write(&self, _plan: &StudyPlan, _brief: &mut BriefText) {}

    fn files(&self, summary: Option<&StudySummary>) -> Result<Vec<(String, String)>, Failure> {
        let found = summary.and_then(|summary| match &summary.finding {
            Finding::Evolve(found) | Finding::Train(found) => Some(found),
            _ => None,
        });
        let champion = (CHAMPION.to_string(), words::agent_file(self, found.map(|found| &found.search)));
        let map = found.and_then(|found| found.map.as_ref()).or(self.map());
        Ok(std::iter::once(champion).chain(map.into_iter().flat_map(|map| map::files(self, map))).collect())
    }
}
