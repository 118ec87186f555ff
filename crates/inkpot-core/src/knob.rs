//! Knobs: numeric or choice parameters of an agent or a game, described once and checked everywhere by that.

use std::fmt;
use std::ops::RangeInclusive;

use serde::{Deserialize, Serialize, Serializer};
use thiserror::Error;

use crate::Bytes;

/// The description of a knob.
#[derive(Clone, Debug)]
pub struct Knob {
    /// Its name, as typed.
    pub name: String,
    /// The range of its values.
    pub range: KnobRange,
    /// Unit of a number, empty if it has none.
    pub unit: String,
    /// One line: the effect of the knob.
    pub help: String,
    follows: Option<Follow>,
    group: Option<String>,
    condition: Option<Condition>,
    by_clock: bool,
}

/// The values a knob may take.
#[derive(Clone, Debug, PartialEq)]
#[expect(
    missing_docs,
    reason = "bounds (both allowed) and default; the allowed words and the default among them; what the file holds"
)]
pub enum KnobRange {
    Real {
        low: f64,
        high: f64,
        default: f64,
    },
    Whole {
        low: i64,
        high: i64,
        default: i64,
    },
    Choice {
        of: Vec<String>,
        default: String,
    },
    /// A file, which has no default: it must be given.
    File {
        holds: String,
    },
}

/// A knob that takes its default from another knob along a curve.
#[derive(Clone, Debug)]
struct Follow {
    master: String,
    curve: fn(f64) -> f64,
}

/// The condition on another knob under which a knob has an effect.
#[derive(Clone, Debug)]
pub(crate) struct Condition {
    /// A choice that is listed before it.
    pub(crate) knob: String,
    /// Its words, any of them.
    pub(crate) words: Vec<String>,
}

impl Knob {
    /// A real number within bounds.
    pub fn real(name: &str, bounds: RangeInclusive<f64>, default: f64) -> Self {
        Self::new(name, KnobRange::Real { low: *bounds.start(), high: *bounds.end(), default })
    }

    /// A whole number within bounds.
    pub fn whole(name: &str, bounds: RangeInclusive<i64>, default: i64) -> Self {
        Self::new(name, KnobRange::Whole { low: *bounds.start(), high: *bounds.end(), default })
    }

    /// Marks a knob that, once set, makes its agent decide by the clock and so not reproducible.
    #[must_use]
    pub fn by_the_clock(self) -> Self {
        Self { by_clock: true, ..self }
    }

    /// Whether its agent decides by the clock where it is set.
    pub fn is_by_the_clock(&self) -> bool {
        self.by_clock
    }

    /// One of some words; the first is the default.
    pub fn choice(name: &str, of: &[&str]) -> Self {
        let of: Vec<String> = of.iter().map(ToString::to_string).collect();
        let default = of.first().cloned().unwrap_or_default();
        Self::new(name, KnobRange::Choice { of, default })
    }

    /// A file that must be given; the factory reads its contents.
    pub fn file(name: &str, holds: &str) -> Self {
        Self::new(name, KnobRange::File { holds: holds.into() })
    }

    fn new(name: &str, range: KnobRange) -> Self {
        Self {
            name: name.into(),
            range,
            unit: String::new(),
            help: String::new(),
            follows: None,
            group: None,
            condition: None,
            by_clock: false,
        }
    }

    /// With a unit.
    #[must_use]
    pub fn unit(mut self, unit: &str) -> Self {
        self.unit = unit.into();
        self
    }

    /// With its line of help.
    #[must_use]
    pub fn help(mut self, help: &str) -> Self {
        self.help = help.into();
        self
    }

    /// Takes its default from the value of `master`, a knob listed before it, along `curve`.
    #[must_use]
    pub fn follows(mut self, master: &str, curve: fn(f64) -> f64) -> Self {
        self.follows = Some(Follow { master: master.into(), curve });
        self
    }

    /// One of several knobs of which just one is in force: the one that is set, or else the first listed.
    #[must_use]
    pub fn one_of(mut self, group: &str) -> Self {
        self.group = Some(group.into());
        self
    }

    /// Has an effect only where `choice`, a knob listed before it, is one of these words; elsewhere it cannot be set.
    #[must_use]
    pub fn only_with(mut self, choice: &str, words: &[&str]) -> Self {
        let words = words.iter().map(ToString::to_string).collect();
        self.condition = Some(Condition { knob: choice.into(), words });
        self
    }

    /// Returns the condition on another knob under which this one has an effect.
    pub(crate) fn condition(&self) -> Option<&Condition> {
        self.condition.as_ref()
    }

    /// The group of which one knob is in force.
    pub fn group(&self) -> Option<&str> {
        self.group.as_deref()
    }

    /// The knob that this one follows unless it is set itself.
    pub fn master(&self) -> Option<&str> {
        self.follows.as_ref().map(|follow| follow.master.as_str())
    }

    /// Gives a numeric knob another default.
    pub fn set_default(&mut self, value: f64) {
        match &mut self.range {
            KnobRange::Real { default, .. } => *default = value,
            KnobRange::Whole { default, .. } => *default = value as i64,
            KnobRange::Choice { .. } | KnobRange::File { .. } => {}
        }
        let fine = self.default_value().is_none_or(|value| self.check(&value).is_ok());
        assert!(fine, "the default of `{}` lies within its range", self.name);
    }

    /// Its value where its master stands at `at`; none if it follows nobody.
    pub fn followed(&self, at: f64) -> Option<KnobValue> {
        let to = self.curve_at(at)?;
        Some(match &self.range {
            KnobRange::Real { low, high, .. } => KnobValue::Number(to.clamp(*low, *high)),
            KnobRange::Whole { low, high, .. } => KnobValue::Number(to.round().clamp(*low as f64, *high as f64)),
            KnobRange::Choice { default, .. } => KnobValue::Word(default.clone()),
            KnobRange::File { .. } => return None,
        })
    }

    /// Returns the knob's value at `at` of the knob that it follows, without clamping; none if it follows none.
    pub(crate) fn curve_at(&self, at: f64) -> Option<f64> {
        self.follows.as_ref().map(|follow| (follow.curve)(at))
    }

    /// Its default where nothing else is said; a file has none.
    pub fn default_value(&self) -> Option<KnobValue> {
        Some(match &self.range {
            KnobRange::Real { default, .. } => KnobValue::Number(*default),
            KnobRange::Whole { default, .. } => KnobValue::Number(*default as f64),
            KnobRange::Choice { default, .. } => KnobValue::Word(default.clone()),
            KnobRange::File { .. } => return None,
        })
    }

    /// Whether it has no default, so that it must be given.
    pub fn must_be_given(&self) -> bool {
        matches!(self.range, KnobRange::File { .. })
    }

    /// Bounds of a numeric knob.
    pub fn bounds(&self) -> Option<(f64, f64)> {
        match self.range {
            KnobRange::Real { low, high, .. } => Some((low, high)),
            KnobRange::Whole { low, high, .. } => Some((low as f64, high as f64)),
            KnobRange::Choice { .. } | KnobRange::File { .. } => None,
        }
    }

    /// The allowed values in words: `0 to 1`, `whole number 1 to 50`, `both or neither`.
    pub fn allowed(&self) -> String {
        match &self.range {
            KnobRange::Real { low, high, .. } => format!("a number from {low} to {high}"),
            KnobRange::Whole { low, high, .. } => format!("a whole number from {low} to {high}"),
            KnobRange::Choice { of, .. } => format!("one of: {}", of.join(", ")),
            KnobRange::File { holds } => format!("a file with {holds}"),
        }
    }

    /// Checks a value against the range.
    pub fn check(&self, value: &KnobValue) -> Result<(), KnobError> {
        let fine = match (&self.range, value) {
            (KnobRange::Real { low, high, .. }, KnobValue::Number(x)) => (*low..=*high).contains(x),
            (KnobRange::Whole { low, high, .. }, KnobValue::Number(x)) => {
                x.fract() == 0.0 && (*low as f64..=*high as f64).contains(x)
            }
            (KnobRange::Choice { of, .. }, KnobValue::Word(word)) => of.contains(word),
            (KnobRange::File { .. }, KnobValue::File { .. }) => true,
            _ => false,
        };
        if fine {
            return Ok(());
        }
        let hint = match (&self.range, value) {
            (KnobRange::Choice { of, .. }, KnobValue::Word(word)) => nearest(word, of.iter().map(String::as_str)),
            _ => None,
        };
        Err(KnobError::Value { knob: self.name.clone(), value: value.clone(), allowed: self.allowed(), nearest: hint })
    }
}

/// The value of a knob.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum KnobValue {
    /// A number, whole or not; a whole one is written as one.
    Number(#[serde(serialize_with = "whole_as_whole")] f64),
    /// One of the words of a choice.
    Word(String),
    /// A file.
    File {
        /// The file's name.
        file: String,
        /// The file's contents.
        bytes: Bytes,
    },
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "what serde calls")]
fn whole_as_whole<S: Serializer>(x: &f64, serializer: S) -> Result<S::Ok, S::Error> {
    if x.fract() == 0.0 && x.abs() < 9e15 { serializer.serialize_i64(*x as i64) } else { serializer.serialize_f64(*x) }
}

impl KnobValue {
    /// Reads typed text: a number if it is one, else a word.
    pub fn parse(text: &str) -> Self {
        text.parse().map_or_else(|_| Self::Word(text.to_string()), Self::Number)
    }

    /// The number, if it is one.
    pub fn number(&self) -> Option<f64> {
        match self {
            Self::Number(x) => Some(*x),
            Self::Word(_) | Self::File { .. } => None,
        }
    }
}

impl fmt::Display for KnobValue {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Number(x) => write!(f, "{}", (x * 1e6).round() / 1e6),
            Self::Word(word) | Self::File { file: word, .. } => f.write_str(word),
        }
    }
}

/// An error in the value of a knob.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum KnobError {
    /// No such knob.
    #[error("there is no knob `{knob}`")]
    #[expect(missing_docs, reason = "what was asked, the nearest name there is, all names there are")]
    Unknown { knob: String, nearest: Option<String>, known: Vec<String> },
    /// The value is not allowed.
    #[error("knob `{knob}` cannot be {value}: it must be {allowed}")]
    #[expect(missing_docs, reason = "the knob, the value given, what is allowed, the nearest allowed word")]
    Value { knob: String, value: KnobValue, allowed: String, nearest: Option<String> },
    /// A knob without a default is not set.
    #[error("the knob `{knob}` must be given: it is {allowed}")]
    #[expect(missing_docs, reason = "the knob, and what is allowed")]
    Missing { knob: String, allowed: String },
    /// A knob is set that has no effect beside the others.
    #[error("the knob `{knob}` has no effect where `{choice}` is {word}")]
    #[expect(missing_docs, reason = "the knob, the choice that decides, what it is, and what it would have to be")]
    Idle { knob: String, choice: String, word: String, needed: Vec<String> },
    /// The agent cannot play with these values where it is to.
    #[error("the agent `{kind}` cannot play here: {reason}")]
    #[expect(missing_docs, reason = "the agent kind, and what does not fit")]
    Unfit { kind: String, reason: String },
    /// Several knobs of a group of which one is in force are set.
    #[error("of `{}` only one can be set: each is a {group}", knobs.join("`, `"))]
    #[expect(missing_docs, reason = "the group's name and the knobs of it that are set")]
    Together { group: String, knobs: Vec<String> },
}

/// The known name that `typed` most likely meant, if one is close.
pub fn nearest<'a>(typed: &str, known: impl IntoIterator<Item = &'a str>) -> Option<String> {
    known
        .into_iter()
        .map(|name| (strsim::jaro_winkler(&typed.to_lowercase(), &name.to_lowercase()), name))
        .filter(|(likeness, _)| *likeness > 0.75)
        .max_by(|a, b| a.0.total_cmp(&b.0))
        .map(|(_, name)| name.to_string())
}
