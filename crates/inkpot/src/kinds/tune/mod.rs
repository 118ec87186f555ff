//! Tunings: knob values that meet targets, with the difficulty sheet that says so.

mod brief;
mod check;
mod figures;
mod tables;
pub(crate) mod words;

use inkpot_core::GameEntry;
use inkpot_lab::{Proof, Sheet, StudyPlan, StudySummary, TuneFinding};

pub(super) use self::brief::read;
pub(crate) use self::brief::{free as free_draft, free_table, range_lines};
use crate::brief::BriefText;
use crate::failure::Failure;
use crate::figures::{Fitting, Gallery};
use crate::kinds::kind::{Part, Tells, Written};
use crate::show::costs;
use crate::show::study_view::StudyView;

/// The sheet of a study, in both formats.
pub(crate) const SHEETS: [&str; 2] = ["sheet.json", "sheet.toml"];

impl Tells for TuneFinding {
    fn question(&self, _who: &str, _plan: &StudyPlan) -> String {
        "Which values suit each rung".into()
    }

    fn sentence(&self, _summary: &StudySummary) -> String {
        words::sentence(&self.tune)
    }

    fn parts(&self, view: &StudyView) -> Vec<Part> {
        vec![
            Part::Table(tables::values(&self.tune)),
            Part::Table(tables::targets(&self.tune)),
            Part::Lines(words::lines(&self.tune)),
            Part::Table(costs::table(view)),
        ]
    }

    fn sentences(&self) -> Vec<String> {
        let each = self.tune.rungs.iter().flat_map(|rung| {
            let targets = rung.targets.iter().filter_map(|target| words::target_sentence(rung, target));
            targets.chain(rung.misses.iter().map(|miss| format!("{}: {miss}.", rung.name)))
        });
        each.collect()
    }

    fn asked(&self, _plan: &StudyPlan, _game: &dyn GameEntry) -> Vec<(String, String)> {
        let each = self.tune.rungs.iter().map(|rung| {
            let targets = rung.targets.iter().map(|target| format!("{} {}", target.full_name(), words::wanted(target)));
            let players: Vec<&str> = rung.players.iter().map(|player| player.agent.as_str()).collect();
            let targets: Vec<String> = targets.collect();
            (format!("Rung {}", rung.name), format!("{}: {}", players.join(" and "), targets.join("; ")))
        });
        each.collect()
    }

    fn method(&self) -> Option<String> {
        Some(words::method(&self.tune))
    }

    fn requirement(&self) -> Result<(), Failure> {
        words::requirement(&self.tune)
    }

    fn has_entrants(&self) -> bool {
        false
    }

    fn figures<'g>(&'g self, gallery: &'g Gallery) -> Result<Vec<Fitting<'g>>, Failure> {
        figures::fitting(self, gallery)
    }
}

impl Written for Proof {
    /// A proof is not asked for: it has no brief of its own.
    fn write(&self, _plan: &StudyPlan, _brief: &mut BriefText) {}

    fn files(&self, summary: Option<&StudySummary>) -> Result<Vec<(String, String)>, Failure> {
        match summary.and_then(StudySummary::tune) {
            Some(tuning) => sheet_files(&tuning.proved(self)),
            None => sheet_files(&self.sheet),
        }
    }
}

/// The comment at the head of a sheet.
const SHEET_HEAD: &str = "# A difficulty sheet. What a game reads stands in each [[rung]]: every knob of the opponent under `opponent`, and the\n# rules that differ from `rules` above under `rules`. These values hold: the percentages under `modifiers` are in them\n# already, and only say by how much they differ from the rung's base.\n";

fn sheet_files(sheet: &Sheet) -> Result<Vec<(String, String)>, Failure> {
    let failed = |error: &dyn std::fmt::Display| Failure::Failed(format!("the sheet cannot be written: {error}"));
    let json = serde_json::to_string_pretty(sheet).map_err(|error| failed(&error))? + "\n";
    let toml = SHEET_HEAD.to_string() + &toml::to_string(sheet).map_err(|error| failed(&error))?;
    Ok(SHEETS.map(String::from).into_iter().zip([json, toml]).collect())
}
