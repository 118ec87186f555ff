//! Pools: a field that many studies share, kept in one file with its running ratings.
//!
//! The program only ever adds to the end of the file; what its owner wrote stays as it is.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::fs;
use std::path::{Path, PathBuf};

use inkpot_core::{Knobs, Level};
use inkpot_lab::{Asked, Draft, EntrantDraft, Place, Plan, Summary, TournamentDraft, resolve};
use inkpot_stats::{Games, Running};

use crate::brief::{Findings, Reader, entrant};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::level;
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
    /// What was added, in order.
    pub(crate) added: Vec<Added>,
    /// The field, checked.
    pub(crate) plan: Plan,
}

/// A study that was added, and the ratings after it.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Added {
    pub(crate) study: String,
    pub(crate) matches: u64,
    pub(crate) ratings: BTreeMap<String, Running>,
}

impl Pool {
    /// Reads and checks a pool.
    pub(crate) fn load(path: &Path, desk: &Desk) -> Result<Self, Failure> {
        let text = fs::read_to_string(path).map_err(|error| Failure::file("read", path, &error))?;
        let shown = path.display().to_string();
        let help = "a pool has `game`, `anchor` and one [[entrant]] for each of its field";
        let table = toml_of(&text, &shown, help, desk.color_err)?;
        let findings = RefCell::new(Findings::default());
        let mut top = Reader::new(table.get_ref(), Place::default(), &findings);
        let game = top.needed_text("game", "`game = \"piste\"`").unwrap_or_default();
        let (level, anchor, rules) = (top.text("level"), top.text("anchor"), top.knobs("rules"));
        let base = path.parent().unwrap_or(Path::new(""));
        let level = level.map(|text| level::typed(&text, &game, base, desk)).transpose()?;
        let entrants: Vec<EntrantDraft> = top.tables("entrant").into_iter().map(entrant).collect();
        let added = top.tables("added").into_iter().map(added).collect();
        top.finish();
        let draft = Draft {
            game: game.clone(),
            level: level.clone(),
            rules: rules.clone(),
            entrants: entrants.clone(),
            asked: Asked::Tournament(TournamentDraft { anchor: anchor.clone(), ..TournamentDraft::default() }),
            ..Draft::default()
        };
        let Findings { mut problems, places } = findings.into_inner();
        let plan = resolve(&draft, &desk.registry).map_err(|more| problems.extend(more)).ok();
        match plan.filter(|_| problems.is_empty()) {
            Some(plan) => Ok(Self { path: path.into(), text, game, level, anchor, rules, entrants, added, plan }),
            None => Err(Source::Brief { path: shown, text: text.clone(), places }.report(&problems, desk.color_err)),
        }
    }

    /// Puts the field into a draft that names this pool.
    pub(crate) fn enter(self, draft: &mut Draft) -> Result<(), Failure> {
        if draft.game != self.game {
            return Err(Failure::wrong(
                format!("{} is a pool of `{}`, not of `{}`", self.path.display(), self.game, draft.game),
                "name the pool's own game",
            ));
        }
        draft.entrants.extend(self.entrants);
        if let Asked::Tournament(asked) = &mut draft.asked {
            asked.anchor = asked.anchor.take().or(self.anchor);
        }
        draft.rules = draft.rules.over(&self.rules);
        draft.level = draft.level.take().or(self.level);
        Ok(())
    }

    /// The running ratings, those of newcomers included.
    pub(crate) fn ratings(&self) -> BTreeMap<String, Running> {
        let last = self.added.last();
        let own = |name: &String| last.and_then(|added| added.ratings.get(name)).copied().unwrap_or_default();
        self.plan.entrants.iter().map(|entrant| (entrant.name.clone(), own(&entrant.name))).collect()
    }

    /// Adds what a study found as one rating period; `plan` is the study's.
    pub(crate) fn add(&mut self, summary: &Summary, plan: &Plan) -> Result<(), Failure> {
        self.check(summary, plan)?;
        let before = self.ratings();
        let mut periods: BTreeMap<&str, Vec<Games>> = BTreeMap::new();
        let mut matches = 0;
        for pairing in &summary.pairings {
            let (Some(a), Some(b), Some(seen)) = (before.get(&pairing.a), before.get(&pairing.b), pairing.win_rate)
            else {
                continue;
            };
            matches += pairing.matches;
            let games = |opponent, share| Games::of(opponent, share, pairing.matches, summary.confidence);
            periods.entry(&pairing.a).or_default().push(games(*b, &seen));
            periods.entry(&pairing.b).or_default().push(games(*a, &seen.complement()));
        }
        if periods.is_empty() {
            return Err(Failure::wrong(
                format!("in `{}` no two of the pool met", summary.study),
                "add studies in which entrants of the pool play each other",
            ));
        }
        let after = |name: &String| periods.get(name.as_str()).map_or(&[][..], Vec::as_slice);
        let mut ratings: BTreeMap<String, Running> =
            before.iter().map(|(name, own)| (name.clone(), own.after(after(name)))).collect();
        // The scale is pinned to the anchor, which stays at 0.
        let zero = self.anchor.as_ref().and_then(|anchor| ratings.get(anchor)).map_or(0.0, |anchor| anchor.rating);
        for own in ratings.values_mut() {
            own.rating -= zero;
        }
        let added = Added { study: summary.study.clone(), matches, ratings };
        self.text.push_str(&added.text());
        self.added.push(added);
        Ok(())
    }

    /// Whether a study belongs to this pool: its game, rules, and under every name of the pool the pool's own agent.
    fn check(&self, summary: &Summary, plan: &Plan) -> Result<(), Failure> {
        let study = &summary.study;
        if self.added.iter().any(|added| added.study == *study) {
            return Err(Failure::wrong(
                format!("`{study}` was added to {} before", self.path.display()),
                "a study counts once; give a new run a name of its own",
            ));
        }
        if !plan.same_setting(&self.plan) {
            return Err(Failure::wrong(
                format!("`{study}` was not played at the game, level and rules of {}", self.path.display()),
                "a pool is one game, level and set of rules; make another pool for others",
            ));
        }
        for entrant in &plan.entrants {
            let own = self.plan.entrants.iter().find(|own| own.name == entrant.name);
            if own.is_some_and(|own| own.kind != entrant.kind || own.knobs != entrant.knobs) {
                return Err(Failure::wrong(
                    format!("`{}` of `{study}` is another agent than the pool's", entrant.name),
                    "give a changed agent a name of its own, so that its rating begins anew",
                ));
            }
        }
        Ok(())
    }

    /// Writes the file, whole.
    pub(crate) fn save(&self) -> Result<(), Failure> {
        let aside = self.path.with_extension("toml.part");
        let written = fs::write(&aside, &self.text).and_then(|()| fs::rename(&aside, &self.path));
        written.map_err(|error| Failure::file("write", &self.path, &error))
    }
}

fn added(mut table: Reader) -> Added {
    let study = table.needed_text("study", "`study = \"tournament-piste-001\"`").unwrap_or_default();
    let matches = table.count("matches").unwrap_or(0);
    let ratings = table.table("ratings").map(|inner| inner.number_lists(3)).unwrap_or_default();
    table.finish();
    let running = |list: Vec<f64>| Running { rating: list[0], deviation: list[1], volatility: list[2] };
    Added { study, matches, ratings: ratings.into_iter().map(|(name, list)| (name, running(list))).collect() }
}

impl Added {
    /// What is written to the end of the pool's file.
    fn text(&self) -> String {
        let mut text = format!(
            "\n[[added]]\nstudy = {}\nmatches = {}\n\n# Rating, its deviation, its volatility\n[added.ratings]\n",
            toml::Value::from(self.study.as_str()),
            self.matches
        );
        for (name, own) in &self.ratings {
            let name = toml::Value::from(name.as_str());
            let _ = writeln!(text, "{name} = [{:?}, {:?}, {:?}]", own.rating, own.deviation, own.volatility);
        }
        text
    }
}
