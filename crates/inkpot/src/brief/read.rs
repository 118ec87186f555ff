//! From the text of a brief to a draft.

use std::cell::RefCell;
use std::fs;
use std::path::Path;

use inkpot_core::nearest;
use inkpot_lab::{
    Draft, EntrantDraft, Format, Plan, Problem, Requirement, StudyKind, Tune, VaryDraft, VaryRange, resolve,
    resolve_tune,
};
use toml::de::DeTable;

use super::reader::{Findings, Reader};
use crate::agent_file;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::pool::Pool;
use crate::source::{Source, toml_of};

/// What a brief asks for.
pub(crate) enum Asked {
    /// A study.
    Study(Box<Plan>),
    /// Knobs that meet targets.
    Tune(Box<Tune>),
}

/// Reads and resolves the brief in a file; gives its text too. Files that it names are looked up beside it.
pub(crate) fn load(path: &Path, desk: &Desk) -> Result<(String, Asked), Failure> {
    let text = fs::read_to_string(path).map_err(|error| Failure::file("read", path, &error))?;
    let base = path.parent().unwrap_or(Path::new(""));
    let asked = read_from(base, &text, &path.display().to_string(), desk)?;
    Ok((text, asked))
}

/// Reads and resolves a brief that names no files; `name` is what messages call it.
pub(crate) fn read(text: &str, name: &str, desk: &Desk) -> Result<Plan, Failure> {
    match read_from(Path::new(""), text, name, desk)? {
        Asked::Study(plan) => Ok(*plan),
        Asked::Tune(_) => Err(Failure::Failed(format!("{name} is a tuning, where a study was expected"))),
    }
}

/// Reads and resolves a brief of any kind that names no files.
pub(crate) fn read_any(text: &str, name: &str, desk: &Desk) -> Result<Asked, Failure> {
    read_from(Path::new(""), text, name, desk)
}

/// Reads and resolves the brief of a tuning; `name` is what messages call it.
pub(crate) fn read_tune(text: &str, name: &str, desk: &Desk) -> Result<Tune, Failure> {
    match read_from(Path::new(""), text, name, desk)? {
        Asked::Tune(tune) => Ok(*tune),
        Asked::Study(plan) => Err(Failure::wrong(
            format!("{name} is a {}, not a tuning", plan.kind.name()),
            "a tuning says kind = \"tune\"; `inkpot run` runs any brief",
        )),
    }
}

fn read_from(base: &Path, text: &str, name: &str, desk: &Desk) -> Result<Asked, Failure> {
    let help = "a brief is a TOML file; `inkpot new DIR` makes samples";
    let table = toml_of(text, name, help, desk.color_err)?;
    let findings = RefCell::new(Findings::default());
    if table.get_ref().get("kind").and_then(|kind| kind.get_ref().as_str()) == Some(StudyKind::Tune.name()) {
        let draft = super::tune::draft(table.get_ref(), &findings);
        let Findings { mut problems, places } = findings.into_inner();
        let tune = resolve_tune(&draft, &desk.registry).map_err(|more| {
            // What could not be read has been told already.
            let unread = |problem: &Problem| problem.what.contains("``");
            problems.extend(more.into_iter().filter(|problem| !unread(problem)));
        });
        let source = Source::Brief { path: name.into(), text: text.into(), places };
        return match tune {
            Ok(tune) if problems.is_empty() => Ok(Asked::Tune(Box::new(tune))),
            _ => Err(source.report(&problems, desk.color_err)),
        };
    }
    let typed = typed(table.get_ref(), &findings);
    let (draft, origins) = match typed {
        Some(typed) => {
            let (draft, origins) = typed.with_files(base, desk)?;
            (Some(draft), origins)
        }
        None => (None, Vec::new()),
    };
    let Findings { mut problems, places } = findings.into_inner();
    let source = Source::Brief { path: name.into(), text: text.into(), places };
    // What could be read is checked too, so that all problems come at once.
    let plan = match draft {
        Some(draft) => resolve(&draft, &desk.registry)
            .map_err(|more| problems.extend(more.into_iter().map(|problem| where_typed(problem, &origins))))
            .ok(),
        None => None,
    };
    match plan.filter(|_| problems.is_empty()) {
        Some(plan) => Ok(Asked::Study(Box::new(plan))),
        None => Err(source.report(&problems, desk.color_err)),
    }
}

/// A brief as typed: files that it names are not read yet.
struct Typed {
    draft: Draft,
    /// The entrants' files, where they have one.
    files: Vec<Option<String>>,
    pool: Option<String>,
}

impl Typed {
    /// The draft with all files read, and for each of its entrants the key under which it was typed.
    fn with_files(self, base: &Path, desk: &Desk) -> Result<(Draft, Vec<String>), Failure> {
        let Self { mut draft, files, pool } = self;
        let (mut entrants, mut origins) = (Vec::new(), Vec::new());
        for (index, (typed, file)) in std::mem::take(&mut draft.entrants).into_iter().zip(files).enumerate() {
            let own = match file {
                None => vec![typed],
                Some(pattern) => from_files(base, &pattern, &typed, desk)?,
            };
            origins.extend(own.iter().map(|_| format!("entrant[{index}]")));
            entrants.extend(own);
        }
        draft.entrants = entrants;
        if let Some(path) = pool {
            let pool = Pool::load(&base.join(path), desk)?;
            origins.extend(pool.entrants.iter().map(|_| "pool".to_string()));
            pool.enter(&mut draft)?;
        }
        Ok((draft, origins))
    }
}

/// The entrants of agent files, with what the brief sets besides.
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
fn where_typed(mut problem: Problem, origins: &[String]) -> Problem {
    let typed = problem.at.strip_prefix("entrant[").and_then(|rest| {
        let (place, rest) = rest.split_once(']')?;
        Some(format!("{}{rest}", origins.get(place.parse::<usize>().ok()?)?))
    });
    problem.at = typed.unwrap_or(problem.at);
    problem
}

fn typed(table: &DeTable, findings: &RefCell<Findings>) -> Option<Typed> {
    let mut top = Reader::new(table, "", findings);
    let kind = top.needed_text("kind", "`kind = \"batch\"`").and_then(|name| kind(&name, findings));
    let game = top.needed_text("game", "`game = \"piste\"`");
    let (mut entrants, mut files) = (Vec::new(), Vec::new());
    for table in top.tables("entrant") {
        let (draft, file) = entrant_or_file(table);
        entrants.push(draft);
        files.push(file);
    }
    let format = top.text("format").and_then(|name| one_of(&name, "format", &Format::ALL, Format::name, findings));
    let until = top.text("until").and_then(|word| one_of(&word, "until", &["clear"], |word| word, findings));
    let require = top.text("require");
    let draft = Draft {
        kind: kind.unwrap_or(StudyKind::Batch),
        game: game.clone().unwrap_or_default(),
        level: top.text("level"),
        seed: top.count("seed"),
        matches: top.count("matches"),
        series: top.count("series"),
        confidence: top.number("confidence"),
        rules: top.knobs("rules"),
        entrants,
        vary: top.tables("vary").into_iter().map(|table| vary(table, findings)).collect(),
        target: top.number("target"),
        frame_ms: top.number("frame_ms"),
        format,
        rounds: top.count("rounds"),
        anchor: top.text("anchor"),
        until_clear: until.is_some(),
        equal_within: top.number("equal_within"),
        require: require.and_then(|name| one_of(&name, "require", &Requirement::ALL, Requirement::name, findings)),
    };
    let pool = top.text("pool");
    top.finish();
    (kind.is_some() && game.is_some()).then_some(Typed { draft, files, pool })
}

/// The one of this name, or a problem that lists them.
pub(super) fn one_of<T: Copy>(
    word: &str,
    key: &str,
    all: &[T],
    name: impl Fn(T) -> &'static str,
    findings: &RefCell<Findings>,
) -> Option<T> {
    let found = all.iter().copied().find(|one| name(*one) == word);
    if found.is_none() {
        let names: Vec<&str> = all.iter().map(|one| name(*one)).collect();
        let near = nearest(word, names.iter().copied()).map(|near| format!("did you mean `{near}`? It"));
        let help = format!("{} takes {}", near.as_deref().unwrap_or("it"), names.join(", "));
        findings.borrow_mut().problems.push(Problem::new(key, format!("`{key}` cannot be `{word}`"), help));
    }
    found
}

fn kind(name: &str, findings: &RefCell<Findings>) -> Option<StudyKind> {
    let found = StudyKind::ALL.into_iter().find(|kind| kind.name() == name);
    if found.is_none() {
        let names = StudyKind::ALL.map(StudyKind::name);
        let near = nearest(name, names).map(|near| format!("did you mean `{near}`? ")).unwrap_or_default();
        let help = format!("{near}There are: {}", names.join(", "));
        findings.borrow_mut().problems.push(Problem::new("kind", format!("there is no kind of study `{name}`"), help));
    }
    found
}

/// An `[[entrant]]`: an agent, or the file or files of one.
fn entrant_or_file(mut table: Reader) -> (EntrantDraft, Option<String>) {
    let file = table.text("file");
    let agent = table.text("agent");
    if file.is_some() == agent.is_some() {
        let what = if file.is_some() { "`agent` and `file` are both given" } else { "the key `agent` is missing" };
        table.problem("", what, "add one line like `agent = \"fencer\"`, or `file = \"agents/*.toml\"`");
    }
    let file = file.filter(|_| agent.is_none());
    (fields(table, agent), file)
}

/// An `[[entrant]]` of a file that names agents only.
pub(crate) fn entrant(mut table: Reader) -> EntrantDraft {
    let agent = table.needed_text("agent", "`agent = \"fencer\"`");
    fields(table, agent)
}

fn fields(mut table: Reader, agent: Option<String>) -> EntrantDraft {
    let draft = EntrantDraft {
        name: table.text("name"),
        agent: agent.unwrap_or_default(),
        knobs: table.knobs("knobs"),
        vary: table.table("vary").map(Reader::ranges).unwrap_or_default(),
    };
    table.finish();
    draft
}

fn vary(mut table: Reader, findings: &RefCell<Findings>) -> VaryDraft {
    let of = table.text("of");
    let knob = table.needed_text("knob", "`knob = \"skill\"`").unwrap_or_default();
    let values = table.values("values");
    let (low, high, points) = (table.number("from"), table.number("to"), table.count("points"));
    let path = table.path().to_string();
    let range = match (values, low, high, points) {
        (Some(values), None, None, None) => VaryRange::List(values),
        (None, Some(low), Some(high), Some(points)) => VaryRange::Span { low, high, points },
        _ => {
            let what = "it is not clear which values the knob takes";
            let help = "give either `values = [...]` or all of `from`, `to` and `points`";
            findings.borrow_mut().problems.push(Problem::new(path, what, help));
            VaryRange::List(Vec::new())
        }
    };
    table.finish();
    VaryDraft { of, knob, range }
}
