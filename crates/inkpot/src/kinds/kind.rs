//! The program's methods of each kind of study.

use std::cell::RefCell;
use std::path::Path;

use inkpot_core::{GameEntry, GameSource};
use inkpot_lab::{KindDraft, Problem, SearchPlan, StudyKind, StudyPlan, StudySummary};
use toml::de::DeTable;

use crate::brief::{BriefText, Findings, Reader};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::figures::{Fitting, Gallery};
use crate::game_file;
use crate::show::asked::entrants;
use crate::show::study_view::StudyView;
use crate::show::table::Table;

/// A part of the output: a table, or lines that only the terminal shows.
pub(crate) enum Part {
    Table(Table),
    Lines(String),
}

/// The words, tables and figures of a kind's finding.
pub(crate) trait Tells {
    /// Writes the question of the study in a few words.
    fn question(&self, who: &str, _plan: &StudyPlan) -> String {
        who.to_string()
    }

    /// Writes the finding in one sentence.
    fn sentence(&self, summary: &StudySummary) -> String;

    /// The same in fewer words, for the title of a figure.
    fn headline(&self, summary: &StudySummary) -> String {
        self.sentence(summary)
    }

    /// Tables and lines, in order.
    fn parts(&self, view: &StudyView) -> Vec<Part>;

    /// Writes the report page's further sentences.
    fn sentences(&self) -> Vec<String> {
        Vec::new()
    }

    /// Lists the request of this kind, as name and value.
    fn asked(&self, plan: &StudyPlan, game: &dyn GameEntry) -> Vec<(String, String)> {
        entrants(plan, game)
    }

    /// Describes the method, beyond that of all studies.
    fn method(&self) -> Option<String> {
        None
    }

    /// Errs if the study's requirement is not established.
    fn requirement(&self) -> Result<(), Failure> {
        Ok(())
    }

    /// Whether entrants have figures over all their matches, comparable with those of other studies.
    fn has_entrants(&self) -> bool {
        true
    }

    /// The figures that fit, in order.
    fn figures<'g>(&'g self, gallery: &'g Gallery) -> Result<Vec<Fitting<'g>>, Failure>;
}

/// The design of a kind in a brief, and in the study's folder.
pub(crate) trait Written {
    /// Returns the noun of the study in a sentence.
    fn noun(&self, plan: &StudyPlan) -> &'static str {
        plan.kind().name()
    }

    /// Its own keys and tables.
    fn write(&self, plan: &StudyPlan, brief: &mut BriefText);

    /// Returns the files that the study keeps for people, name and text: before it is played, and with its finding.
    fn files(&self, _summary: Option<&StudySummary>) -> Result<Vec<(String, String)>, Failure> {
        Ok(Vec::new())
    }
}

/// A key of one kind's briefs, with its problem in another's.
pub(crate) struct OwnKey {
    pub(crate) key: &'static str,
    /// Returns the problem and the help for a key in a brief of another kind.
    pub(crate) elsewhere: fn(key: &str, here: StudyKind) -> (String, String),
}

/// The reader of a kind's briefs.
pub(crate) enum Reads {
    /// Its own keys, beside those that all kinds have which are played as drafted.
    Played(fn(&mut Reader) -> KindDraft),
    /// All of it, since a search has a brief of its own.
    SearchPlan(fn(&Brief) -> Result<Checkable<SearchPlan>, Failure>),
}

/// A brief's study, or everything in it that does not fit together.
pub(crate) type Checkable<T> = Result<T, Vec<Problem>>;

/// A brief that is read.
pub(crate) struct Brief<'a> {
    pub(crate) table: &'a DeTable<'a>,
    pub(crate) findings: &'a RefCell<Findings>,
    /// The folder from which files that it names are looked up.
    pub(crate) base: &'a Path,
    /// A log of people that is given beside the brief.
    pub(crate) log: Option<&'a Path>,
    pub(crate) desk: &'a Desk,
}

impl Brief<'_> {
    /// Reads the game of the brief, a game of the program or a game file beside the brief.
    pub(crate) fn game(&self, top: &mut Reader, sample: &str) -> Result<GameSource, Failure> {
        let typed = top.needed_text("game", sample).unwrap_or_default();
        game_file::source(&typed, self.base, &self.desk.registry)
    }
}

/// The words of a search before it has a finding.
pub(crate) trait Searches {
    /// Its brief with every default filled in. Reading it again gives the same search.
    fn write(&self) -> String;

    /// Writes the text of `check`, and the same as JSON; `effects` measures its modifiers.
    fn check(&self, effects: bool, desk: &Desk) -> Result<Checked, Failure>;

    /// Writes its plan in a few words.
    fn outline(&self) -> String;

    /// Files that its brief names, name and text, so that the study keeps all it was made from.
    fn files(&self) -> Vec<(&'static str, String)> {
        Vec::new()
    }
}

/// The output of `check` on a search.
pub(crate) struct Checked {
    /// After the brief's name.
    pub(crate) text: String,
    pub(crate) json: serde_json::Value,
}

/// Returns the problem and the help for a key of this kind in a brief of another.
pub(super) fn only(kind: StudyKind, key: &str) -> (String, String) {
    let name = kind.name();
    (format!("only a {name} has `{key}`"), format!("use kind = \"{name}\", or leave `{key}` out"))
}
