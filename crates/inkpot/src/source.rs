//! Sources of a draft, so that a problem is shown where it was typed.

use std::collections::BTreeMap;
use std::ops::Range;

use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use inkpot_lab::{Place, Problem};
use toml::de::DeTable;

use crate::failure::Failure;

/// Problems that a report shows.
const SHOWN: usize = 10;

/// The places at which a draft's keys were typed.
pub(crate) enum Source {
    /// In a brief: its path, its text, and where each key stands.
    Brief { path: String, text: String, places: BTreeMap<Place, Range<usize>> },
    /// On the command line: the argument of each key.
    Arguments(BTreeMap<Place, String>),
}

impl Source {
    /// All problems in one report.
    pub(crate) fn report(&self, problems: &[Problem], color: bool) -> Failure {
        let mut parts: Vec<String> = problems.iter().take(SHOWN).map(|problem| self.shown(problem, color)).collect();
        match (problems.len(), problems.len().saturating_sub(SHOWN)) {
            (0 | 1, _) => {}
            (all, 0) => parts.push(format!("{all} problems; nothing was played")),
            (all, left) => parts.push(format!("{all} problems, {left} of them not shown; nothing was played")),
        }
        Failure::Wrong(parts.join("\n\n"))
    }

    fn shown(&self, problem: &Problem, color: bool) -> String {
        match self {
            Self::Brief { path, text, places } => {
                let span = nearest(places, &problem.at).cloned().unwrap_or(0..0);
                excerpt(path, text, span, &problem.what, &problem.help, color)
            }
            Self::Arguments(arguments) => {
                let place =
                    nearest(arguments, &problem.at).map(|argument| format!("\n  in `{argument}`")).unwrap_or_default();
                format!("error: {}{place}\n  help: {}", problem.what, problem.help)
            }
        }
    }
}

/// Returns the entry at a place, or at the nearest one around it: `entrant[0].knobs.skill`, `entrant[0].knobs`,
/// `entrant[0]`.
fn nearest<'a, T>(places: &'a BTreeMap<Place, T>, at: &Place) -> Option<&'a T> {
    std::iter::successors(Some(at.clone()), Place::around).find_map(|place| places.get(&place))
}

/// Reads a text as TOML; `name` names it in messages, `help` describes the expected contents.
pub(crate) fn toml_of<'t>(
    text: &'t str,
    name: &str,
    help: &str,
    color: bool,
) -> Result<toml::Spanned<DeTable<'t>>, Failure> {
    DeTable::parse(text).map_err(|error| {
        let what = format!("this is not TOML: {}", error.message().trim_end());
        Failure::Wrong(excerpt(name, text, error.span().unwrap_or(0..0), &what, help, color))
    })
}

/// An error with the lines of the file that it is about.
pub(crate) fn excerpt(path: &str, text: &str, span: Range<usize>, what: &str, help: &str, color: bool) -> String {
    let snippet = Snippet::source(text).path(path).annotation(AnnotationKind::Primary.span(span));
    let report = &[Level::ERROR.primary_title(what).element(snippet).element(Level::HELP.message(help))];
    let renderer = if color { Renderer::styled() } else { Renderer::plain() };
    renderer.render(report).clone()
}
