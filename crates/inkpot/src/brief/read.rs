//! From the text of a brief to a draft.

use std::cell::RefCell;
use std::fs;
use std::path::Path;

use inkpot_core::nearest;
use inkpot_lab::{
    Asked as Drafted, CompareDraft, Draft, EntrantDraft, Format, Plan, Problem, Requirement, StudyKind, SweepDraft,
    TournamentDraft, Tune, VaryDraft, VaryRange, resolve, resolve_tune,
};
use toml::de::DeTable;

use super::entrant::entrant_or_file;
use super::reader::{Findings, Reader};
use crate::agent_file;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::level;
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

/// Reads and resolves a brief of any kind that names no files.
pub(crate) fn read_any(text: &str, name: &str, desk: &Desk) -> Result<Asked, Failure> {
    read_from(Path::new(""), text, name, desk)
}

/// Reads and resolves the brief of a tuning; `name` is what messages call it.
pub(crate) fn read_tune(text: &str, name: &str, desk: &Desk) -> Result<Tune, Failure> {
    match read_from(Path::new(""), text, name, desk)? {
        Asked::Tune(tune) => Ok(*tune),
        Asked::Study(plan) => Err(Failure::wrong(
            format!("{name} is a {}, not a tuning", plan.kind().name()),
            "a tuning says kind = \"tune\"; `inkpot run` runs any brief",
        )),
    }
}

fn read_from(base: &Path, text: &str, name: &str, desk: &Desk) -> Result<Asked, Failure> {
    let help = "a brief is a TOML file; `inkpot new DIR` makes samples";
    let table = toml_of(text, name, help, desk.color_err)?;
    let findings = RefCell::new(Findings::default());
    if table.get_ref().get("kind").and_then(|kind| kind.get_ref().as_str()) == Some(StudyKind::Tune.name()) {
        let draft = super::tune::draft(table.get_ref(), &findings, base, desk)?;
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
    let typed = typed(table.get_ref(), &findings, base, desk)?;
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

fn typed(table: &DeTable, findings: &RefCell<Findings>, base: &Path, desk: &Desk) -> Result<Option<Typed>, Failure> {
    let mut top = Reader::new(table, "", findings);
    let kind = top.needed_text("kind", "`kind = \"batch\"`").and_then(|name| kind(&name, findings));
    let game = top.needed_text("game", "`game = \"piste\"`");
    let (mut entrants, mut files) = (Vec::new(), Vec::new());
    for table in top.tables("entrant") {
        let (draft, file) = entrant_or_file(table);
        entrants.push(draft);
        files.push(file);
    }
    let level = top.text("level").map(|text| level::typed(&text, game.as_deref().unwrap_or_default(), base, desk));
    let draft = Draft {
        game: game.clone().unwrap_or_default(),
        level: level.transpose()?,
        seed: top.count("seed"),
        matches: top.count("matches"),
        series: top.count("series"),
        confidence: top.number("confidence"),
        rules: top.knobs("rules"),
        entrants,
        frame_ms: top.number("frame_ms"),
        asked: asked(kind.unwrap_or_default(), &mut top, findings),
    };
    let pool = top.text("pool");
    top.finish();
    Ok((kind.is_some() && game.is_some()).then_some(Typed { draft, files, pool }))
}

/// What a brief asks for as a study of its kind.
fn asked(kind: StudyKind, top: &mut Reader, findings: &RefCell<Findings>) -> Drafted {
    let asked = match kind {
        StudyKind::Sweep => Drafted::Sweep(SweepDraft {
            vary: top.tables("vary").into_iter().map(|table| vary(table, findings)).collect(),
            target: top.number("target"),
        }),
        StudyKind::Tournament => Drafted::Tournament(TournamentDraft {
            format: top.word("format", &Format::ALL, Format::name),
            rounds: top.count("rounds"),
            anchor: top.text("anchor"),
        }),
        StudyKind::Compare => Drafted::Compare(CompareDraft {
            until_clear: top.word("until", &["clear"], |word| word).is_some(),
            equal_within: top.number("equal_within"),
            require: top.word("require", &Requirement::ALL, Requirement::name),
        }),
        StudyKind::Batch | StudyKind::Tune => Drafted::Batch,
    };
    foreign_keys(kind, top);
    asked
}

/// Keys that mean something only in another kind of study: they would silently do nothing.
fn foreign_keys(kind: StudyKind, top: &mut Reader) {
    let of = [
        (StudyKind::Tournament, ["format", "rounds", "anchor"]),
        (StudyKind::Compare, ["until", "equal_within", "require"]),
    ];
    for (other, key) in of.into_iter().flat_map(|(other, keys)| keys.map(|key| (other, key))) {
        if other != kind && top.has_foreign(key) {
            let name = other.name();
            let help = format!("use kind = \"{name}\", or leave `{key}` out");
            top.problem(key, format!("only a {name} has `{key}`"), help);
        }
    }
    if kind == StudyKind::Sweep {
        return;
    }
    if top.has_foreign("vary") {
        let field = if kind == StudyKind::Batch { "" } else { "; for a field, put `vary` into an [[entrant]]" };
        let help = format!("use kind = \"sweep\", or leave [[vary]] out{field}");
        top.problem("vary", format!("a {} varies nothing", kind.name()), help);
    }
    if top.has_foreign("target") {
        let help = "use kind = \"sweep\" with a [[vary]], or leave `target` out";
        top.problem("target", "only a sweep has a target", help);
    }
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
