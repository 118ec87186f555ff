//! Pools: a field that many studies share, kept in one file with its results in each study.
//!
//! The program only ever adds to the end of the file; what its owner wrote stays as it is.

use std::cell::RefCell;
use std::fmt::Write as _;
use std::path::{Path, PathBuf};

use inkpot_core::{GameEntry, Knobs, Level};
use inkpot_lab::{
    Draft, EntrantDraft, KindDraft, Place, PoolTable, StudyDraft, StudyPlan, TournamentDraft, pool_tables, rate_pool,
    resolve,
};
use inkpot_ledger::{Manifest, Study};
use inkpot_stats::Interval;

use crate::brief::{Findings, Reader, entrant};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::game_file;
use crate::input;
use crate::level;
use crate::output;
use crate::source::{Source, toml_of};

/// A pool as its file says.
pub(crate) struct Pool {
    path: PathBuf,
    text: String,
    pub(crate) game: String,
    level: Option<Level>,
    pub(crate) anchor: Option<String>,
    rules: Knobs,
    pub(crate) entrants: Vec<EntrantDraft>,
    /// The added studies, in order.
    pub(crate) added: Vec<Added>,
    /// The field, checked.
    pub(crate) plan: StudyPlan,
}

/// An added study, with the pool's results in it.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Added {
    pub(crate) study: String,
    pub(crate) tables: Vec<PoolTable>,
}

/// Whether adding a study changed anything.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Adding {
    Added,
    /// All of it was there.
    Known,
}

impl Pool {
    /// Reads and checks a pool.
    pub(crate) fn load(path: &Path, desk: &Desk) -> Result<Self, Failure> {
        let text = input::text(path)?;
        let shown = path.display().to_string();
        let help = "a pool has `game`, `anchor` and one [[entrant]] for each of its field";
        let table = toml_of(&text, &shown, help, desk.color_err)?;
        let findings = RefCell::new(Findings::at(path.parent().unwrap_or(Path::new(""))));
        let mut top = Reader::new(table.get_ref(), Place::default(), &findings);
        let game = top.needed_text("game", "`game = \"piste\"`").unwrap_or_default();
        let (level, anchor, rules) = (top.text("level"), top.text("anchor"), top.knobs("rules"));
        let base = path.parent().unwrap_or(Path::new(""));
        let source = game_file::source(&game, base, &desk.registry)?;
        let level = level.map(|text| level::typed(&text, &source, base, desk)).transpose()?;
        let entrants: Vec<EntrantDraft> = top.tables("entrant").into_iter().map(entrant).collect();
        let added: Vec<Option<Added>> = top.tables("added").into_iter().map(added).collect();
        top.finish();
        let shared = Draft {
            game: source.clone(),
            level: level.clone(),
            rules: rules.clone(),
            entrants: entrants.clone(),
            ..Draft::default()
        };
        let kind = KindDraft::Tournament(TournamentDraft { anchor: anchor.clone(), ..TournamentDraft::default() });
        let draft = StudyDraft { shared, asked: kind };
        let mut findings = findings.into_inner();
        let places = std::mem::take(&mut findings.places);
        let plan = resolve(&draft, &desk.registry);
        let (plan, more) = plan.map_or_else(|more| (None, more), |plan| (Some(plan), Vec::new()));
        let problems = findings.with(more);
        match plan.filter(|_| problems.is_empty()) {
            Some(plan) => {
                let added = added.into_iter().flatten().collect();
                Ok(Self {
                    path: path.into(),
                    text,
                    game: source.name().into(),
                    level,
                    anchor,
                    rules,
                    entrants,
                    added,
                    plan,
                })
            }
            None => Err(Source::Brief { path: shown, text: text.clone(), places }.report(&problems, desk.color_err)),
        }
    }

    /// Puts the field into a draft that names this pool.
    pub(crate) fn enter(self, draft: &mut StudyDraft) -> Result<(), Failure> {
        let (anchor, rules, level) = (self.anchor.clone(), self.rules.clone(), self.level.clone());
        let members = self.members_for(draft.game.name())?;
        draft.entrants.extend(members);
        if let KindDraft::Tournament(tournament) = &mut draft.asked {
            tournament.anchor = tournament.anchor.take().or(anchor);
        }
        draft.rules = draft.rules.over(&rules);
        draft.level = draft.level.take().or(level);
        Ok(())
    }

    /// The field, for a study of this game.
    pub(crate) fn members_for(self, game: &str) -> Result<Vec<EntrantDraft>, Failure> {
        if game == self.game {
            return Ok(self.entrants);
        }
        Err(Failure::wrong(
            format!("{} is a pool of `{}`, not of `{game}`", self.path.display(), self.game),
            "name the pool's own game",
        ))
    }

    /// Names of the field.
    fn members(&self) -> Vec<String> {
        self.plan.entrants.iter().map(|entrant| entrant.name.clone()).collect()
    }

    /// The field with its ratings from all that was added, jointly.
    pub(crate) fn ratings(&self) -> Vec<(String, Option<Interval>)> {
        let members = self.members();
        let tables: Vec<PoolTable> = self.added.iter().flat_map(|added| added.tables.iter().cloned()).collect();
        let anchor = self.anchor.as_ref().and_then(|anchor| members.iter().position(|name| name == anchor));
        let rated = rate_pool(&members, anchor, &tables, self.plan.ground.confidence);
        members.into_iter().zip(rated).collect()
    }

    /// Confidence of the ratings.
    pub(crate) fn confidence(&self) -> f64 {
        self.plan.ground.confidence
    }

    /// Matches between members in all that was added.
    pub(crate) fn matches(&self) -> u64 {
        self.added.iter().flat_map(|added| &added.tables).map(PoolTable::matches).sum()
    }

    /// Adds the pool's results in a study; a study that was added before changes nothing.
    pub(crate) fn add(
        &mut self,
        study: &Study,
        manifest: &Manifest,
        plan: &StudyPlan,
        game: &dyn GameEntry,
    ) -> Result<Adding, Failure> {
        self.check(study.name(), plan)?;
        let tables = pool_tables(study, manifest, plan, game, &self.members())?;
        if tables.is_empty() {
            return Err(Failure::wrong(
                format!("no two entrants of the pool met in `{}`", study.name()),
                "add studies in which entrants of the pool play each other",
            ));
        }
        let added = Added { study: study.name().into(), tables };
        if self.added.contains(&added) {
            return Ok(Adding::Known);
        }
        self.fresh(&added)?;
        self.text.push_str(&added.text());
        self.added.push(added);
        Ok(Adding::Added)
    }

    /// Whether nothing of a study was counted before.
    fn fresh(&self, new: &Added) -> Result<(), Failure> {
        let (study, path) = (&new.study, self.path.display());
        if self.added.iter().any(|added| added.study == *study) {
            return Err(Failure::wrong(
                format!("another study named `{study}` was already added to {path}"),
                "give a new run a name of its own",
            ));
        }
        let overlaps =
            |added: &&Added| added.tables.iter().any(|old| new.tables.iter().any(|table| table.overlaps(old)));
        if let Some(before) = self.added.iter().find(overlaps) {
            return Err(Failure::wrong(
                format!("`{study}` and `{}`, which was added to {path}, have the same seed and pairing", before.study),
                "the same matches count once; play with another --seed",
            ));
        }
        Ok(())
    }

    /// Whether a study belongs to this pool: its game, rules, and under every name of the pool the pool's own agent.
    fn check(&self, study: &str, plan: &StudyPlan) -> Result<(), Failure> {
        if !plan.same_setting(&self.plan) {
            return Err(Failure::wrong(
                format!("`{study}` was not played at the game, level and rules of {}", self.path.display()),
                "a pool holds one game, level and set of rules; make another pool for others",
            ));
        }
        for entrant in &plan.entrants {
            let known = self.plan.entrants.iter().find(|other| other.name == entrant.name);
            if known.is_some_and(|known| known.kind != entrant.kind || known.knobs != entrant.knobs) {
                return Err(Failure::wrong(
                    format!("`{}` of `{study}` is not the agent that the pool has under this name", entrant.name),
                    "give a changed agent a new name, so that its rating starts afresh",
                ));
            }
        }
        Ok(())
    }

    /// Writes the file, whole.
    pub(crate) fn save(&self) -> Result<(), Failure> {
        output::write(&self.path, &self.text)
    }
}

fn added(mut reader: Reader) -> Option<Added> {
    let study = reader.needed_text("study", "`study = \"tournament-piste-001\"`");
    if reader.table("ratings").is_some() {
        let help = "delete every [[added]] from the file and add the studies again";
        reader.problem("ratings", "this is how an earlier version kept ratings, and they were not reliable", help);
        return None;
    }
    let tables = reader.tables("table").into_iter().map(table).collect::<Option<Vec<_>>>();
    reader.finish();
    Some(Added { study: study?, tables: tables? })
}

fn table(mut reader: Reader) -> Option<PoolTable> {
    let (seed, first_block) = (reader.count("seed"), reader.count("first_block"));
    let (entrants, courses) = (reader.texts("entrants"), reader.texts("courses"));
    let blocks = reader.needed_text("blocks", "`blocks = \"0 1 0\"`, the number of each block's course");
    let numbers =
        |blocks: String| blocks.split_whitespace().map(|word| word.parse().ok()).collect::<Option<Vec<usize>>>();
    let read =
        blocks.and_then(numbers).and_then(|blocks| PoolTable::read(entrants, seed?, first_block?, &courses, &blocks));
    if read.is_none() {
        reader.problem("", "this is not what the program writes", "delete this [[added]] and add the study again");
    }
    reader.finish();
    read
}

impl Added {
    /// Returns the text to append to the pool's file.
    fn text(&self) -> String {
        let mut text = format!("\n[[added]]\nstudy = {}\n", toml::Value::from(self.study.as_str()));
        for table in &self.tables {
            let blocks = table.blocks().map(|number| number.to_string()).collect::<Vec<_>>().join(" ");
            let _ = write!(
                text,
                "\n[[added.table]]\nentrants = {}\nseed = {}\nfirst_block = {}\ncourses = {}\nblocks = \"{blocks}\"\n",
                toml::Value::from(table.entrants.clone()),
                table.seed,
                table.first_block,
                toml::Value::from(table.courses()),
            );
        }
        text
    }
}
