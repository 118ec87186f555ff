//! A strict reader of TOML tables that keeps places and collects everything that is wrong.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::ops::Range;
use std::path::{Path, PathBuf};

use inkpot_core::{KnobValue, Knobs, nearest};
use inkpot_lab::{Place, Problem, VaryRange};
use toml::Spanned;
use toml::de::{DeTable, DeValue};

use crate::weights;

/// The findings of reading, beside the values.
#[derive(Default)]
pub(crate) struct Findings {
    pub(crate) problems: Vec<Problem>,
    pub(crate) places: BTreeMap<Place, Range<usize>>,
    /// The folder from which files that are named are looked up.
    base: PathBuf,
    /// Keys that are absent since their values stand under a misspelled key.
    meant: Vec<Place>,
}

impl Findings {
    /// Starts without findings; named files are looked up from this folder.
    pub(crate) fn at(base: &Path) -> Self {
        Self { base: base.into(), ..Self::default() }
    }

    /// Returns all problems, those of reading first, and later ones only if they do not follow from them: nothing is
    /// said of a misspelled key, or of a whole with an unreadable part.
    pub(crate) fn with(self, later: Vec<Problem>) -> Vec<Problem> {
        let Self { mut problems, meant, .. } = self;
        let missed = |problem: &Problem| meant.iter().any(|place| problem.at.is_within(place));
        problems.retain(|problem| !missed(problem));
        let whole = Place::default();
        let follows = |later: &Problem| {
            missed(later) || later.at != whole && problems.iter().any(|other| other.at.is_within(&later.at))
        };
        let later: Vec<Problem> = later.into_iter().filter(|problem| !follows(problem)).collect();
        problems.extend(later);
        problems
    }
}

/// One table under its key path.
pub(crate) struct Reader<'a, 'i> {
    table: &'a DeTable<'i>,
    place: Place,
    known: Vec<&'static str>,
    foreign: Vec<&'static str>,
    findings: &'a RefCell<Findings>,
}

impl<'a, 'i> Reader<'a, 'i> {
    /// A table that stands here.
    pub(crate) fn new(table: &'a DeTable<'i>, place: Place, findings: &'a RefCell<Findings>) -> Self {
        for (name, value) in table {
            let span = name.span().start..value.span().end;
            findings.borrow_mut().places.insert(place.key(name.get_ref()), span);
        }
        Self { table, place, known: Vec::new(), foreign: Vec::new(), findings }
    }

    fn get(&mut self, key: &'static str) -> Option<&'a DeValue<'i>> {
        self.known.push(key);
        self.table.get(key).map(Spanned::get_ref)
    }

    pub(crate) fn problem(&self, key: &str, what: impl Into<String>, help: impl Into<String>) {
        self.findings.borrow_mut().problems.push(Problem::new(self.place.key(key), what, help));
    }

    fn mistyped(&self, key: &str, value: &DeValue, wanted: &str) {
        self.problem(key, format!("`{key}` cannot be {}", describe(value)), format!("it must be {wanted}"));
    }

    /// A text, if the key is there.
    pub(crate) fn text(&mut self, key: &'static str) -> Option<String> {
        match self.get(key)? {
            DeValue::String(text) => Some(text.to_string()),
            other => {
                self.mistyped(key, other, "a text in quotes");
                None
            }
        }
    }

    /// Whether there is a key that has no place here. It is not told as unknown too, nor as one that there could be.
    pub(crate) fn has_foreign(&mut self, key: &'static str) -> bool {
        let there = self.table.get(key).is_some();
        if there {
            self.foreign.push(key);
        }
        there
    }

    /// One of some words, if the key is there; `name` gives the word for each.
    pub(crate) fn word<T: Copy>(
        &mut self,
        key: &'static str,
        all: &[T],
        name: impl Fn(T) -> &'static str,
    ) -> Option<T> {
        let word = self.text(key)?;
        let found = all.iter().copied().find(|item| name(*item) == word);
        if found.is_none() {
            let names: Vec<&str> = all.iter().map(|item| name(*item)).collect();
            let near = nearest(&word, names.iter().copied()).map(|near| format!("did you mean `{near}`? It"));
            let one_of = if names.len() > 1 { "one of: " } else { "" };
            let help = format!("{} must be {one_of}{}", near.as_deref().unwrap_or("it"), names.join(", "));
            self.problem(key, format!("`{key}` cannot be `{word}`"), help);
        }
        found
    }

    /// A text that must be there.
    pub(crate) fn needed_text(&mut self, key: &'static str, example: &str) -> Option<String> {
        if self.table.get(key).is_none() {
            self.known.push(key);
            self.problem(key, format!("the key `{key}` is missing"), format!("add a line like {example}"));
            return None;
        }
        self.text(key)
    }

    /// A whole number from 0 up, if the key is there.
    pub(crate) fn count(&mut self, key: &'static str) -> Option<u64> {
        let value = self.get(key)?;
        match number(value) {
            Some(KnobValue::Number(x)) if matches!(value, DeValue::Integer(_)) => {
                let text = if let DeValue::Integer(integer) = value {
                    integer.as_str().replace('_', "")
                } else {
                    String::new()
                };
                let parsed = text.parse::<u64>().ok().or_else(|| (0.0..9e15).contains(&x).then_some(x as u64));
                if parsed.is_none() {
                    self.problem(
                        key,
                        format!("`{key}` cannot be {text}"),
                        "it must be a whole number from 0 to 18446744073709551615",
                    );
                }
                parsed
            }
            _ => {
                self.mistyped(key, value, "a whole number");
                None
            }
        }
    }

    /// A finite number, if the key is there.
    pub(crate) fn number(&mut self, key: &'static str) -> Option<f64> {
        let value = self.get(key)?;
        match number(value) {
            Some(KnobValue::Number(x)) if x.is_finite() => Some(x),
            _ => {
                self.mistyped(key, value, "a finite number");
                None
            }
        }
    }

    /// Knob values under a table.
    pub(crate) fn knobs(&mut self, key: &'static str) -> Knobs {
        let Some(value) = self.get(key) else { return Knobs::default() };
        let DeValue::Table(table) = value else {
            self.mistyped(key, value, "a table, as in { skill = 0.6 }");
            return Knobs::default();
        };
        let inner = Reader::new(table, self.place.key(key), self.findings);
        let mut knobs = Knobs::default();
        for (name, value) in table {
            if name.get_ref().is_empty() {
                self.problem(key, "a knob without a name cannot be set", "write its name, as in { skill = 0.6 }");
                continue;
            }
            match knob_value(value.get_ref()) {
                Some(value) => knobs.set(name.get_ref(), inner.with_file(name.get_ref(), value)),
                None => inner.mistyped(name.get_ref(), value.get_ref(), "a number or a text in quotes"),
            }
        }
        knobs
    }

    /// Returns the value of a knob with its file read; unchanged if the file cannot be read, which is reported.
    fn with_file(&self, key: &str, value: KnobValue) -> KnobValue {
        let Some(file) = weights::is_file(&value) else { return value };
        let base = self.findings.borrow().base.clone();
        match weights::read(&base, file) {
            Ok(read) => read,
            Err(unread) => {
                self.problem(key, unread.what, unread.help.unwrap_or(weights::MISSING));
                value
            }
        }
    }

    /// Yes or no, if the key is there.
    pub(crate) fn flag(&mut self, key: &'static str) -> Option<bool> {
        match self.get(key)? {
            DeValue::Boolean(flag) => Some(*flag),
            other => {
                self.mistyped(key, other, "true or false");
                None
            }
        }
    }

    /// A list of texts; none if the key is not there.
    pub(crate) fn texts(&mut self, key: &'static str) -> Vec<String> {
        let Some(value) = self.get(key) else { return Vec::new() };
        let texts = match value {
            DeValue::Array(items) => items.iter().map(|item| item.get_ref().as_str().map(String::from)).collect(),
            _ => None,
        };
        texts.unwrap_or_else(|| {
            self.mistyped(key, value, "a list of texts, as in [\"en\", \"de\"]");
            Vec::new()
        })
    }

    /// Texts by language; none if the key is not there.
    pub(crate) fn by_language(&mut self, key: &'static str) -> BTreeMap<String, String> {
        let Some(value) = self.get(key) else { return BTreeMap::new() };
        let texts = match value {
            DeValue::Table(table) => table
                .iter()
                .map(|(name, text)| Some((name.get_ref().to_string(), text.get_ref().as_str()?.to_string())))
                .collect(),
            _ => None,
        };
        texts.unwrap_or_else(|| {
            self.mistyped(key, value, "texts by language, as in { en = \"Gentle\" }");
            BTreeMap::new()
        })
    }

    /// A table under a key, if it is there.
    pub(crate) fn table(&mut self, key: &'static str) -> Option<Reader<'a, 'i>> {
        match self.get(key)? {
            DeValue::Table(table) => Some(Reader::new(table, self.place.key(key), self.findings)),
            other => {
                self.mistyped(key, other, "a table, as in { skill = [0.2, 0.4] }");
                None
            }
        }
    }

    /// All values of a table of knobs, each a list of values or a range to spread over.
    pub(crate) fn ranges(self) -> Vec<(String, VaryRange)> {
        let mut ranges = Vec::new();
        for (name, value) in self.table {
            let name = name.get_ref();
            match value.get_ref() {
                DeValue::Table(table) => {
                    let mut inner = Reader::new(table, self.place.key(name), self.findings);
                    let (low, high, points) = (inner.number("from"), inner.number("to"), inner.count("points"));
                    match (low, high, points) {
                        (Some(low), Some(high), Some(points)) => {
                            ranges.push((name.to_string(), VaryRange::Span { low, high, points }));
                        }
                        _ => inner.problem("", "a range is not complete", "give all of `from`, `to` and `points`"),
                    }
                    inner.finish();
                }
                other => match list(other) {
                    Some(values) => ranges.push((name.to_string(), VaryRange::List(values))),
                    None => self.mistyped(name, other, "a list of two or more values, or { from, to, points }"),
                },
            }
        }
        ranges
    }

    /// All keys that were not asked for, as values of knobs; yes and no as the words `true` and `false`.
    pub(crate) fn rest_as_knobs(self) -> Knobs {
        let mut knobs = Knobs::default();
        for (name, value) in self.table {
            let name = name.get_ref();
            if self.known.contains(&name.as_ref()) {
                continue;
            }
            let read = match value.get_ref() {
                DeValue::Boolean(flag) => Some(KnobValue::Word(flag.to_string())),
                other => knob_value(other),
            };
            match read {
                Some(value) => knobs.set(name, value),
                None => self.mistyped(name, value.get_ref(), "a number, a text in quotes, true or false"),
            }
        }
        knobs
    }

    /// A list of numbers, which may be empty, if the key is there.
    pub(crate) fn numbers(&mut self, key: &'static str) -> Option<Vec<f64>> {
        let value = self.get(key)?;
        let read = match value {
            DeValue::Array(items) => {
                items.iter().map(|item| number(item.get_ref())?.number()).collect::<Option<Vec<f64>>>()
            }
            _ => None,
        };
        if read.is_none() {
            self.mistyped(key, value, "a list of numbers, as in [32, 32]");
        }
        read
    }

    /// A list of knob values, if the key is there.
    pub(crate) fn values(&mut self, key: &'static str) -> Option<Vec<KnobValue>> {
        let value = self.get(key)?;
        let list = list(value);
        if list.is_none() {
            self.mistyped(key, value, "a list of two or more numbers or texts, as in [1, 2, 4]");
        }
        list
    }

    /// The tables under `[[key]]`, with their paths.
    pub(crate) fn tables(&mut self, key: &'static str) -> Vec<Reader<'a, 'i>> {
        let Some(value) = self.get(key) else { return Vec::new() };
        let DeValue::Array(items) = value else {
            self.mistyped(key, value, &format!("tables, each under its own [[{key}]]"));
            return Vec::new();
        };
        let mut readers = Vec::new();
        for (index, item) in items.iter().enumerate() {
            let place = self.place.key(key).at(index);
            self.findings.borrow_mut().places.insert(place.clone(), item.span());
            match item.get_ref() {
                DeValue::Table(table) => readers.push(Reader::new(table, place, self.findings)),
                other => self.mistyped(key, other, &format!("tables, each under its own [[{key}]]")),
            }
        }
        readers
    }

    /// Reports every key that nobody asked for.
    pub(crate) fn finish(self) {
        for (name, _) in self.table {
            let name = name.get_ref().as_ref();
            if !self.known.contains(&name) && !self.foreign.contains(&name) {
                let near = nearest(name, self.known.iter().copied());
                if let Some(near) = near.as_ref().filter(|near| self.table.get(near.as_str()).is_none()) {
                    self.findings.borrow_mut().meant.push(self.place.key(near));
                }
                let help = match near {
                    Some(near) => format!("did you mean `{near}`? Available: {}", self.known.join(", ")),
                    None => format!("available: {}", self.known.join(", ")),
                };
                self.problem(name, format!("there is no key `{name}` here"), help);
            }
        }
    }
}

fn number(value: &DeValue) -> Option<KnobValue> {
    match value {
        DeValue::Integer(integer) => {
            let digits = integer.as_str().replace('_', "");
            i128::from_str_radix(&digits, integer.radix()).ok().map(|x| KnobValue::Number(x as f64))
        }
        DeValue::Float(float) => float.as_str().replace('_', "").parse().ok().map(KnobValue::Number),
        _ => None,
    }
}

/// A list of two or more knob values.
fn list(value: &DeValue) -> Option<Vec<KnobValue>> {
    let DeValue::Array(items) = value else { return None };
    let values = items.iter().map(|item| knob_value(item.get_ref())).collect::<Option<Vec<_>>>();
    values.filter(|values| values.len() > 1)
}

fn knob_value(value: &DeValue) -> Option<KnobValue> {
    match value {
        DeValue::String(text) => Some(KnobValue::Word(text.to_string())),
        other => number(other),
    }
}

fn describe(value: &DeValue) -> String {
    match value {
        DeValue::String(text) => format!("the text {text:?}"),
        DeValue::Integer(integer) => format!("the number {}", integer.as_str()),
        DeValue::Float(float) => format!("the number {}", float.as_str()),
        DeValue::Boolean(flag) => flag.to_string(),
        DeValue::Datetime(_) => "a date".into(),
        DeValue::Array(_) => "a list".into(),
        DeValue::Table(_) => "a table".into(),
    }
}
