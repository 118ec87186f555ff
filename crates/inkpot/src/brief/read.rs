//! From the text of a brief to a draft.

use std::cell::RefCell;
use std::fs;
use std::path::Path;

use inkpot_core::nearest;
use inkpot_lab::{Draft, EntrantDraft, Plan, Problem, StudyKind, VaryDraft, VaryRange, resolve};
use toml::de::DeTable;

use super::reader::{Findings, Reader};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::source::{Source, excerpt};

/// Reads and resolves the brief in a file; gives its text too.
pub(crate) fn load(path: &Path, desk: &Desk) -> Result<(String, Plan), Failure> {
    let text = fs::read_to_string(path).map_err(|error| Failure::file("read", path, &error))?;
    let plan = read(&text, &path.display().to_string(), desk)?;
    Ok((text, plan))
}

/// Reads and resolves a brief; `name` is what messages call it.
pub(crate) fn read(text: &str, name: &str, desk: &Desk) -> Result<Plan, Failure> {
    let table = DeTable::parse(text).map_err(|error| {
        let what = format!("this is not TOML: {}", error.message().trim_end());
        let help = "a brief is a TOML file; `inkpot new DIR` makes samples";
        Failure::Wrong(excerpt(name, text, error.span().unwrap_or(0..0), &what, help, desk.color_err))
    })?;
    let findings = RefCell::new(Findings::default());
    let draft = draft(table.get_ref(), &findings);
    let Findings { mut problems, places } = findings.into_inner();
    let source = Source::Brief { path: name.into(), text: text.into(), places };
    // What could be read is checked too, so that all problems come at once.
    let plan = match draft {
        Some(draft) => resolve(&draft, &desk.registry).map_err(|more| problems.extend(more)).ok(),
        None => None,
    };
    match plan.filter(|_| problems.is_empty()) {
        Some(plan) => Ok(plan),
        None => Err(source.report(&problems, desk.color_err)),
    }
}

fn draft(table: &DeTable, findings: &RefCell<Findings>) -> Option<Draft> {
    let mut top = Reader::new(table, "", findings);
    let kind = top.needed_text("kind", "`kind = \"batch\"`").and_then(|name| kind(&name, findings));
    let game = top.needed_text("game", "`game = \"piste\"`");
    let draft = Draft {
        kind: kind.unwrap_or(StudyKind::Batch),
        game: game.clone().unwrap_or_default(),
        level: top.text("level"),
        seed: top.count("seed"),
        matches: top.count("matches"),
        confidence: top.number("confidence"),
        rules: top.knobs("rules"),
        entrants: top.tables("entrant").into_iter().map(entrant).collect(),
        vary: top.tables("vary").into_iter().map(|table| vary(table, findings)).collect(),
        target: top.number("target"),
        frame_ms: top.number("frame_ms"),
    };
    top.finish();
    (kind.is_some() && game.is_some()).then_some(draft)
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

fn entrant(mut table: Reader) -> EntrantDraft {
    let draft = EntrantDraft {
        name: table.text("name"),
        agent: table.needed_text("agent", "`agent = \"fencer\"`").unwrap_or_default(),
        knobs: table.knobs("knobs"),
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
