//! Reads the text of a brief into a study.

use std::cell::RefCell;
use std::path::Path;

use inkpot_core::nearest;
use inkpot_lab::{
    Draft, EntrantDraft, KindDraft as Drafted, Place, Problem, SearchPlan, StudyDraft, StudyKind, StudyPlan, resolve,
};

use toml::de::DeTable;

use crate::agent_file;
use crate::brief::{Findings, Reader, entrant_or_file};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::hint;
use crate::input;
use crate::kinds::{self, Brief, Checkable, Reads};
use crate::level;
use crate::pool::Pool;
use crate::source::{Source, toml_of};

/// A brief's study, resolved.
pub(crate) enum ResolvedBrief {
    /// A study that is played as it was drafted.
    Study(Box<StudyPlan>),
    /// One that searches first.
    Search(SearchPlan),
}

impl ResolvedBrief {
    /// Kind of the study.
    pub(crate) fn kind(&self) -> StudyKind {
        match self {
            Self::Study(plan) => plan.kind(),
            Self::Search(search) => search.kind(),
        }
    }
}

/// Reads and resolves the brief in a file; gives its text too. Files that it names are looked up beside it.
pub(crate) fn load(path: &Path, desk: &Desk) -> Result<(String, ResolvedBrief), Failure> {
    let text = input::text(path)?;
    let brief = read_named(&text, path, desk)?;
    Ok((text, brief))
}

/// The same with a log of people beside the brief, in place of the one that it names.
pub(crate) fn load_with_log(path: &Path, log: &Path, desk: &Desk) -> Result<(String, ResolvedBrief), Failure> {
    let text = input::text(path)?;
    let brief = read_with_log(&text, path, Some(log), desk)?;
    Ok((text, brief))
}

/// Reads and resolves a brief; its files are looked up beside this path, which also names it in messages.
pub(crate) fn read_named(text: &str, path: &Path, desk: &Desk) -> Result<ResolvedBrief, Failure> {
    read_with_log(text, path, None, desk)
}

fn read_with_log(text: &str, path: &Path, log: Option<&Path>, desk: &Desk) -> Result<ResolvedBrief, Failure> {
    let name = path.display().to_string();
    let help = format!("a brief is a TOML file; {} makes samples", hint::command(["new", "DIR"]));
    let table = toml_of(text, &name, &help, desk.color_err)?;
    let base = path.parent().unwrap_or(Path::new(""));
    let findings = RefCell::new(Findings::at(base));
    let brief = Brief { table: table.get_ref(), findings: &findings, base, log, desk };
    let parsed = read(&brief)?;
    let mut findings = findings.into_inner();
    match parsed {
        Ok(parsed) if findings.problems.is_empty() => Ok(parsed),
        other => {
            let places = std::mem::take(&mut findings.places);
            let problems = findings.with(other.err().unwrap_or_default());
            Err(Source::Brief { path: name, text: text.into(), places }.report(&problems, desk.color_err))
        }
    }
}

/// Checks the readable parts too, so that all problems come at once.
fn read(brief: &Brief) -> Result<Checkable<ResolvedBrief>, Failure> {
    let mut top = Reader::new(brief.table, Place::default(), brief.findings);
    let guess = guessed(brief.table);
    let named = top.needed_text("kind", &format!("`kind = \"{}\"`", guess.name()));
    // What else is wrong is told too, whatever is wrong with its kind.
    let known = named.map_or(guess, |name| kind(&name, guess, brief.findings));
    let reader: fn(&mut Reader) -> Drafted = match kinds::read(known) {
        Reads::SearchPlan(read) => return Ok(read(brief)?.map(ResolvedBrief::Search)),
        Reads::Played(reader) => reader,
    };
    let Some(typed) = typed(top, known, reader, brief)? else { return Ok(Err(Vec::new())) };
    let (draft, origins) = typed.with_files(brief.base, brief.desk)?;
    let plan = resolve(&draft, &brief.desk.registry).map(|plan| ResolvedBrief::Study(Box::new(plan)));
    Ok(plan.map_err(|problems| problems.into_iter().map(|problem| where_typed(problem, &origins)).collect()))
}

/// A brief as typed: files that it names are not read yet.
struct Typed {
    draft: StudyDraft,
    /// The entrants' files, where they have one.
    files: Vec<Option<String>>,
    pool: Option<String>,
}

impl Typed {
    /// The draft with all files read, and for each of its entrants the key under which it was typed.
    fn with_files(self, base: &Path, desk: &Desk) -> Result<(StudyDraft, Vec<Place>), Failure> {
        let Self { mut draft, files, pool } = self;
        let (mut entrants, mut origins) = (Vec::new(), Vec::new());
        for (index, (typed, file)) in std::mem::take(&mut draft.entrants).into_iter().zip(files).enumerate() {
            let keys = match file {
                None => vec![typed],
                Some(pattern) => from_files(base, &pattern, &typed, desk)?,
            };
            origins.extend(keys.iter().map(|_| Place::item("entrant", index)));
            entrants.extend(keys);
        }
        draft.entrants = entrants;
        if let Some(path) = pool {
            let pool = Pool::load(&base.join(path), desk)?;
            origins.extend(pool.entrants.iter().map(|_| Place::from("pool")));
            pool.enter(&mut draft)?;
        }
        Ok((draft, origins))
    }
}

/// Reads the entrants of agent files, with the brief's further keys.
fn from_files(base: &Path, pattern: &str, typed: &EntrantDraft, desk: &Desk) -> Result<Vec<EntrantDraft>, Failure> {
    let mut drafts = agent_file::load_all(base, pattern, desk)?;
    if let ([only], Some(name)) = (drafts.as_mut_slice(), &typed.name) {
        only.name = Some(name.clone());
    }
    for draft in &mut drafts {
        draft.knobs = typed.knobs.over(&draft.knobs);
        draft.vary.clone_from(&typed.vary);
    }
    Ok(drafts)
}

/// The problem under the key that was typed: an entrant's place in the draft is not that in the brief where files stand
/// for several.
fn where_typed(mut problem: Problem, origins: &[Place]) -> Problem {
    if let Some((index, origin)) = problem.at.item_of("entrant").and_then(|index| Some((index, origins.get(index)?))) {
        problem.at = problem.at.moved(&Place::item("entrant", index), origin);
    }
    problem
}

fn typed(
    mut top: Reader,
    kind: StudyKind,
    reader: fn(&mut Reader) -> Drafted,
    brief: &Brief,
) -> Result<Option<Typed>, Failure> {
    let game = brief.game(&mut top, "`game = \"piste\"`")?;
    let (mut entrants, mut files) = (Vec::new(), Vec::new());
    for table in top.tables("entrant") {
        let (draft, file) = entrant_or_file(table);
        entrants.push(draft);
        files.push(file);
    }
    let level = top.text("level").map(|text| level::typed(&text, &game, brief.base, brief.desk));
    let shared = Draft {
        level: level.transpose()?,
        seed: top.count("seed"),
        matches: top.count("matches"),
        series: top.count("series"),
        confidence: top.number("confidence"),
        rules: top.knobs("rules"),
        entrants,
        frame_ms: top.number("frame_ms"),
        record: top.flag("record").unwrap_or(false),
        game,
        seats: top.count("seats"),
    };
    let draft = StudyDraft { shared, asked: reader(&mut top) };
    foreign_keys(kind, &mut top);
    let pool = top.text("pool");
    top.finish();
    let is_named = !draft.game.name().is_empty();
    Ok(is_named.then_some(Typed { draft, files, pool }))
}

/// Keys that mean something only in another kind of study: they would silently do nothing.
fn foreign_keys(kind: StudyKind, top: &mut Reader) {
    for key in StudyKind::ALL.into_iter().filter(|other| *other != kind).flat_map(kinds::own_keys) {
        if top.has_foreign(key.key) {
            let (what, help) = (key.elsewhere)(key.key, kind);
            top.problem(key.key, what, help);
        }
    }
}

/// Returns the kind of this name; otherwise reports the likely one.
fn kind(name: &str, guess: StudyKind, findings: &RefCell<Findings>) -> StudyKind {
    let named = |name: &str| StudyKind::ALL.into_iter().find(|kind| kind.name() == name);
    named(name).unwrap_or_else(|| {
        let names = StudyKind::ALL.map(StudyKind::name);
        let near = nearest(name, names);
        let hint = near.as_ref().map(|near| format!("did you mean `{near}`? ")).unwrap_or_default();
        let help = format!("{hint}Available: {}", names.join(", "));
        findings.borrow_mut().problems.push(Problem::new("kind", format!("there is no kind of study `{name}`"), help));
        near.and_then(|near| named(&near)).unwrap_or(guess)
    })
}

/// The kind of study that a brief is most like, by the keys that only one kind has.
fn guessed(table: &DeTable) -> StudyKind {
    let has = |key: &str| table.get(key).is_some();
    let has_own = |kind: &StudyKind| kinds::own_keys(*kind).iter().any(|key| has(key.key));
    match () {
        () if has("rung") => StudyKind::Tune,
        () if has("log") || has("standin") => StudyKind::Fit,
        () if has("steps") || has("self_play") => StudyKind::Train,
        () if has("subject") || has("term") || has("method") => StudyKind::Evolve,
        () => StudyKind::ALL.into_iter().find(has_own).unwrap_or_default(),
    }
}
