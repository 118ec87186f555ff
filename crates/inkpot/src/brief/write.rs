//! The parts of a brief's text.

use inkpot_core::{KnobValue, Knobs};
use inkpot_lab::Entrant;
use toml::{Table, Value};

/// A brief that is being written.
#[derive(Default)]
pub(crate) struct BriefText {
    top: Table,
    tables: String,
}

impl BriefText {
    /// A key with its value.
    pub(crate) fn put(&mut self, key: &str, value: impl Into<Value>) {
        self.top.insert(key.into(), value.into());
    }

    /// The same where there is a value.
    pub(crate) fn put_some(&mut self, key: &str, value: Option<impl Into<Value>>) {
        if let Some(value) = value {
            self.put(key, value);
        }
    }

    /// A table, headed and with its lines.
    pub(crate) fn table(&mut self, text: &str) {
        self.tables.push('\n');
        self.tables.push_str(text);
    }

    /// All of it, with the seed and the rules.
    pub(crate) fn finish(self, seed: u64, rules: &Knobs) -> String {
        // TOML numbers end at 2^63; a larger seed is written in full all the same, and read back.
        format!("{}seed = {seed}\n\n[rules]\n{}{}", self.top, knobs(rules), self.tables)
    }
}

pub(crate) fn knobs(knobs: &Knobs) -> String {
    let lines: Vec<String> = knobs.iter().map(|(name, knob)| format!("{name} = {}", value(knob))).collect();
    lines.join("\n") + "\n"
}

pub(crate) fn value(knob: &KnobValue) -> Value {
    match knob {
        KnobValue::Number(x) if x.fract() == 0.0 && x.abs() < 1e15 => Value::Integer(*x as i64),
        KnobValue::Number(x) => Value::Float(*x),
        KnobValue::Word(word) | KnobValue::File { file: word, .. } => Value::from(word.as_str()),
    }
}

/// Writes the lines of an agent with its set knobs.
pub(crate) fn agent(entrant: &Entrant) -> String {
    format!("agent = {}\nknobs = {}\n", Value::from(entrant.agent.as_str()), inline_knobs(&entrant.given))
}

/// Knobs in a line.
pub(crate) fn inline_knobs(knobs: &Knobs) -> String {
    inline(knobs.iter().map(|(name, knob)| (name.to_string(), value(knob).to_string())))
}

/// Keys and values in a line.
pub(crate) fn inline(items: impl Iterator<Item = (String, String)>) -> String {
    let items: Vec<String> = items.map(|(key, value)| format!("{key} = {value}")).collect();
    if items.is_empty() { "{}".into() } else { format!("{{ {} }}", items.join(", ")) }
}
