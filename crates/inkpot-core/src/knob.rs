//! Knobs: numeric or choice parameters of an agent or a game, described once and checked everywhere by that.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt;
use std::ops::RangeInclusive;
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use thiserror::Error;

/// The description of a knob.
#[derive(Clone, Debug)]
pub struct Knob {
    /// Its name, as typed.
    pub name: String,
    /// What it may be.
    pub range: KnobRange,
    /// Unit of a number, empty if it has none.
    pub unit: String,
    /// One line: what turning it does.
    pub help: String,
    follows: Option<Follow>,
    group: Option<String>,
}

/// The values a knob may take.
#[derive(Clone, Debug, PartialEq)]
#[expect(missing_docs, reason = "bounds (both allowed) and default, or the allowed words and the default among them")]
pub enum KnobRange {
    Real { low: f64, high: f64, default: f64 },
    Whole { low: i64, high: i64, default: i64 },
    Choice { of: Vec<String>, default: String },
}

/// A knob that takes its default from another knob along a curve.
#[derive(Clone, Debug)]
struct Follow {
    master: String,
    curve: fn(f64) -> f64,
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

    /// One of some words; the first is the default.
    pub fn choice(name: &str, of: &[&str]) -> Self {
        let of: Vec<String> = of.iter().map(ToString::to_string).collect();
        let default = of.first().cloned().unwrap_or_default();
        Self::new(name, KnobRange::Choice { of, default })
    }

    fn new(name: &str, range: KnobRange) -> Self {
        Self { name: name.into(), range, unit: String::new(), help: String::new(), follows: None, group: None }
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
            KnobRange::Choice { .. } => {}
        }
        self.check(&self.default_value()).expect("a default lies within its range");
    }

    /// Its value where its master stands at `at`; none if it follows nobody.
    pub fn followed(&self, at: f64) -> Option<KnobValue> {
        let follow = self.follows.as_ref()?;
        Some(match &self.range {
            KnobRange::Real { low, high, .. } => KnobValue::Number((follow.curve)(at).clamp(*low, *high)),
            KnobRange::Whole { low, high, .. } => {
                KnobValue::Number((follow.curve)(at).round().clamp(*low as f64, *high as f64))
            }
            KnobRange::Choice { default, .. } => KnobValue::Word(default.clone()),
        })
    }

    /// Its default where nothing else is said.
    pub fn default_value(&self) -> KnobValue {
        match &self.range {
            KnobRange::Real { default, .. } => KnobValue::Number(*default),
            KnobRange::Whole { default, .. } => KnobValue::Number(*default as f64),
            KnobRange::Choice { default, .. } => KnobValue::Word(default.clone()),
        }
    }

    /// Bounds of a numeric knob.
    pub fn bounds(&self) -> Option<(f64, f64)> {
        match self.range {
            KnobRange::Real { low, high, .. } => Some((low, high)),
            KnobRange::Whole { low, high, .. } => Some((low as f64, high as f64)),
            KnobRange::Choice { .. } => None,
        }
    }

    /// What is allowed, in words: `0 to 1`, `whole number 1 to 50`, `both or neither`.
    pub fn allowed(&self) -> String {
        match &self.range {
            KnobRange::Real { low, high, .. } => format!("a number from {low} to {high}"),
            KnobRange::Whole { low, high, .. } => format!("a whole number from {low} to {high}"),
            KnobRange::Choice { of, .. } => format!("one of: {}", of.join(", ")),
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
    /// A number, whole or not.
    Number(f64),
    /// One of the words of a choice.
    Word(String),
}

impl KnobValue {
    /// Reads what was typed: a number if it is one, else a word.
    pub fn parse(text: &str) -> Self {
        text.parse().map_or_else(|_| Self::Word(text.to_string()), Self::Number)
    }

    /// The number, if it is one.
    pub fn number(&self) -> Option<f64> {
        match self {
            Self::Number(x) => Some(*x),
            Self::Word(_) => None,
        }
    }
}

impl fmt::Display for KnobValue {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Number(x) => write!(f, "{}", (x * 1e6).round() / 1e6),
            Self::Word(word) => f.write_str(word),
        }
    }
}

/// Knob values by name. A copy shares them until one is changed: a field of hundreds has many thousand pairings.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Knobs(Arc<BTreeMap<String, KnobValue>>);

impl Knobs {
    /// Sets a value and gives back the set, for tables of presets.
    #[must_use]
    pub fn with(mut self, name: &str, value: f64) -> Self {
        self.set(name, KnobValue::Number(value));
        self
    }

    /// Sets a value.
    pub fn set(&mut self, name: &str, value: KnobValue) {
        Arc::make_mut(&mut self.0).insert(name.into(), value);
    }

    /// The value of a knob, if it is there.
    pub fn get(&self, name: &str) -> Option<&KnobValue> {
        self.0.get(name)
    }

    /// The number of a knob of a resolved set.
    ///
    /// Panics when there is no such number: a kind asks only for the knobs it declares, which a test of the registry
    /// walks.
    pub fn number(&self, name: &str) -> f64 {
        self.get(name).and_then(KnobValue::number).expect("a kind asks only for numeric knobs that it declares")
    }

    /// The word of a choice of a resolved set; panics as `number` does.
    pub fn word(&self, name: &str) -> &str {
        match self.get(name) {
            Some(KnobValue::Word(word)) => word,
            _ => panic!("a kind asks only for choices that it declares, not for `{name}`"),
        }
    }

    /// All values in order of name.
    pub fn iter(&self) -> impl Iterator<Item = (&str, &KnobValue)> {
        self.0.iter().map(|(name, value)| (name.as_str(), value))
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// These values, and below them those of `base`.
    #[must_use]
    pub fn over(&self, base: &Knobs) -> Knobs {
        let mut all = base.clone();
        Arc::make_mut(&mut all.0).extend(self.iter().map(|(name, value)| (name.to_string(), value.clone())));
        all
    }

    /// Fills in every knob that is not set: from the knob it follows, or its default. Errs with all that is wrong.
    pub fn resolve(&self, knobs: &[Knob]) -> Result<Knobs, Vec<KnobError>> {
        let mut errors: Vec<KnobError> = Vec::new();
        for (name, value) in self.iter() {
            match knobs.iter().find(|knob| knob.name == name) {
                Some(knob) => errors.extend(knob.check(value).err()),
                None => errors.push(KnobError::Unknown {
                    knob: name.into(),
                    nearest: nearest(name, knobs.iter().map(|knob| knob.name.as_str())),
                    known: knobs.iter().map(|knob| knob.name.clone()).collect(),
                }),
            }
        }
        errors.extend(self.crowded(knobs));
        if !errors.is_empty() {
            return Err(errors);
        }
        let mut all = self.clone();
        for knob in knobs {
            let taken = knob.group().is_some_and(|group| all.in_force(group, knobs).is_some());
            if all.get(&knob.name).is_none() && !taken {
                let master = knob.master().and_then(|master| all.get(master)).and_then(KnobValue::number);
                let value = master.and_then(|at| knob.followed(at)).unwrap_or_else(|| knob.default_value());
                all.set(&knob.name, value);
            }
        }
        Ok(all)
    }
}

impl Knobs {
    /// These values, and below them those of `base`; of a group of which one is in force, one that is set here drops
    /// those of `base`.
    #[must_use]
    pub fn layered(&self, base: &Knobs, knobs: &[Knob]) -> Knobs {
        let dropped = |name: &str| {
            let group = knobs.iter().find(|knob| knob.name == name).and_then(Knob::group);
            group.is_some_and(|group| self.in_force(group, knobs).is_some())
        };
        let kept = base.iter().filter(|(name, _)| !dropped(name));
        self.over(&kept.map(|(name, value)| (name.to_string(), value.clone())).collect())
    }

    /// The knob of a group that is set, and its value.
    pub fn in_force<'a>(&'a self, group: &str, knobs: &'a [Knob]) -> Option<(&'a str, &'a KnobValue)> {
        let mut members = knobs.iter().filter(|knob| knob.group() == Some(group));
        members.find_map(|knob| Some((knob.name.as_str(), self.get(&knob.name)?)))
    }

    /// Groups of which more than one knob is set.
    fn crowded(&self, knobs: &[Knob]) -> Vec<KnobError> {
        let groups: BTreeSet<&str> = knobs.iter().filter_map(Knob::group).collect();
        let set = |group: &str| -> Vec<String> {
            let members = knobs.iter().filter(|knob| knob.group() == Some(group));
            members.filter(|knob| self.get(&knob.name).is_some()).map(|knob| knob.name.clone()).collect()
        };
        let crowds = groups.into_iter().map(|group| (group, set(group))).filter(|(_, set)| set.len() > 1);
        crowds.map(|(group, knobs)| KnobError::Together { group: group.into(), knobs }).collect()
    }
}

impl FromIterator<(String, KnobValue)> for Knobs {
    fn from_iter<I: IntoIterator<Item = (String, KnobValue)>>(values: I) -> Self {
        Self(Arc::new(values.into_iter().collect()))
    }
}

/// What can be wrong with a knob value.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum KnobError {
    /// No such knob.
    #[error("there is no knob `{knob}`")]
    #[expect(missing_docs, reason = "what was asked, the nearest name there is, all names there are")]
    Unknown { knob: String, nearest: Option<String>, known: Vec<String> },
    /// The value is not allowed.
    #[error("knob `{knob}` cannot be {value}: it takes {allowed}")]
    #[expect(missing_docs, reason = "the knob, the value given, what is allowed, the nearest allowed word")]
    Value { knob: String, value: KnobValue, allowed: String, nearest: Option<String> },
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

#[cfg(test)]
mod tests {
    use super::*;

    fn knobs() -> Vec<Knob> {
        vec![
            Knob::real("skill", 0.0..=1.0, 0.5),
            Knob::whole("reaction", 0..=60, 12).follows("skill", |s| 24.0 - 18.0 * s),
            Knob::choice("double", &["both", "neither"]),
        ]
    }

    #[test]
    fn a_follower_takes_its_default_from_the_master_and_rounds() {
        let got = Knobs::default().with("skill", 0.3).resolve(&knobs()).unwrap();
        assert_eq!(got.number("reaction"), 19.0); // 24 - 5.4 = 18.6
        assert_eq!(Knobs::default().resolve(&knobs()).unwrap().number("reaction"), 15.0);
    }

    #[test]
    fn an_explicit_value_overrides_the_master() {
        let got = Knobs::default().with("skill", 1.0).with("reaction", 40.0).resolve(&knobs()).unwrap();
        assert_eq!(got.number("reaction"), 40.0);
        assert_eq!(got.word("double"), "both");
    }

    #[test]
    fn every_wrong_value_is_reported() {
        let mut given = Knobs::default().with("skill", f64::NAN).with("reaktion", 1.0).with("reaction", 1.5);
        given.set("double", KnobValue::Word("niether".into()));
        let errors = given.resolve(&knobs()).unwrap_err();
        assert_eq!(errors.len(), 4);
        assert!(
            errors
                .iter()
                .any(|error| matches!(error, KnobError::Unknown { nearest: Some(name), .. } if name == "reaction"))
        );
        assert!(
            errors
                .iter()
                .any(|error| matches!(error, KnobError::Value { nearest: Some(word), .. } if word == "neither"))
        );
    }

    #[test]
    fn of_a_group_one_knob_is_in_force() {
        let knobs =
            [Knob::whole("depth", 0..=9, 4).one_of("budget"), Knob::whole("nodes", 0..=900, 100).one_of("budget")];
        let plain = Knobs::default().resolve(&knobs).unwrap();
        assert_eq!(plain, Knobs::default().with("depth", 4.0));
        let nodes = Knobs::default().with("nodes", 7.0);
        assert_eq!(nodes.resolve(&knobs).unwrap(), nodes);
        assert_eq!(nodes.layered(&plain, &knobs), nodes);
        let both = nodes.over(&plain).resolve(&knobs).unwrap_err();
        assert!(matches!(both.as_slice(), [KnobError::Together { knobs, .. }] if knobs == &["depth", "nodes"]));
    }

    #[test]
    fn far_names_get_no_suggestion() {
        assert_eq!(nearest("zebra", ["skill", "reaction"]), None);
        assert_eq!(nearest("Skil", ["skill", "reaction"]).as_deref(), Some("skill"));
    }
}
