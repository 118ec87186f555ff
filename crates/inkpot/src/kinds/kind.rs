//! What a kind of study does its own way in the program.

use std::cell::RefCell;
use std::path::Path;

use inkpot_core::GameEntry;
use inkpot_lab::{KindDraft, Problem, SearchPlan, StudyKind, StudyPlan, StudySummary};
use toml::de::DeTable;

use crate::brief::{BriefText, Findings, Reader};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::figures::{Fitting, Gallery};
use crate::show::asked::entrants;
use crate::show::study_view::StudyView;
use crate::show::table::Table;

/// A part of what is told: a table, or lines that only the terminal shows.
pub(crate) enum Part {
    Table(Table),
    Lines(String),
}

/// How the finding of a kind is told and drawn.
pub(crate) trait Tells {
    /// What was asked of those who played, in few words.
    fn question(&self, who: &str, _plan: &StudyPlan) -> String {
        who.to_string()
    }

    /// What was found, in one sentence.
    fn sentence(&self, summary: &StudySummary) -> String;

    /// The same in fewer words, for the title of a figure.
    fn headline(&self, summary: &StudySummary) -> String {
        self.sentence(summary)
    }

    /// Tables and lines, in order.
    fn parts(&self, view: &StudyView) -> Vec<Part>;

    /// What the report page says besides the first sentence.
    fn sentences(&self) -> Vec<String> {
        Vec::new()
    }

    /// What was asked of this kind, as name and value.
    fn asked(&self, plan: &StudyPlan, game: &dyn GameEntry) -> Vec<(String, String)> {
        entrants(plan, game)
    }

    /// How its figures were computed, besides what holds for all studies.
    fn method(&self) -> Option<String> {
        None
    }

    /// Errs when what the study requires is not established.
    fn requirement(&self) -> Result<(), Failure> {
        Ok(())
    }

    /// Whether entrants are told over all they played, and so can be compared with those of other studies.
    fn has_entrants(&self) -> bool {
        true
    }

    /// The figures that fit, in order.
    fn figures<'g>(&'g self, gallery: &'g Gallery) -> Result<Vec<Fitting<'g>>, Failure>;
}

/// How the design of a kind stands in a brief, and in the study's folder.
pub(crate) trait Written {
    /// What a study of the kind is called in a sentence.
    fn noun(&self, plan: &StudyPlan) -> &'static str {
        plan.kind().name()
    }

    /// Its own keys and tables.
    fn write(&self, plan: &StudyPlan, brief: &mut BriefText);

    /// Files that the study keeps for people, name and text: before it is played, and with what was found.
    fn files(&self, _summary: Option<&StudySummary>) -> Result<Vec<(String, String)>, Failure> {
        Ok(Vec::new())
    }
}

/// A key of a brief that only one kind has, and what is wrong with it in another.
pub(crate) struct OwnKey {
    pub(crate) key: &'static str,
    /// What is wrong with it in a brief of this kind, and what helps.
    pub(crate) elsewhere: fn(key: &str, here: StudyKind) -> (String, String),
}

/// How a brief is read.
pub(crate) enum Reads {
    /// Its own keys, beside those that all kinds have which are played as drafted.
    Played(fn(&mut Reader) -> KindDraft),
    /// All of it, since a search has a brief of its own.
    SearchPlan(fn(&Brief) -> Result<Checkable<SearchPlan>, Failure>),
}

/// What a brief asks for, or everything in it that does not fit together.
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

/// How a search is told before it has found anything.
pub(crate) trait Searches {
    /// Its brief with every default filled in. Reading it again gives the same search.
    fn write(&self) -> String;

    /// What `check` says of it, and the same as JSON; `effects` asks what its modifiers do.
    fn check(&self, effects: bool, desk: &Desk) -> Result<Checked, Failure>;

    /// What it is going to do, in few words.
    fn outline(&self) -> String;

    /// Files that its brief names, name and text, so that the study keeps all it was made from.
    fn files(&self) -> Vec<(&'static str, String)> {
        Vec::new()
    }
}

/// What `check` says of a search.
pub(crate) struct Checked {
    /// After the brief's name.
    pub(crate) text: String,
    pub(crate) json: serde_json::Value,
}

/// What is wrong with a key that only this kind has, in a brief of another.
pub(super) fn only(kind: StudyKind, key: &str) -> (String, String) {
    let name = kind.name();
    (format!("only a {name} has `{key}`"), format!("use kind = \"{name}\", or leave `{key}` out"))
}
