//! Values of knobs by name.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::{Knob, KnobError, KnobRange, KnobValue, nearest};

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

    /// Sets the word of a choice and gives back the set.
    #[must_use]
    pub fn with_word(mut self, name: &str, word: &str) -> Self {
        self.set(name, KnobValue::Word(word.into()));
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

    /// The bytes of a file of a resolved set; panics as `number` does.
    pub fn bytes(&self, name: &str) -> &[u8] {
        match self.get(name) {
            Some(KnobValue::File { bytes, .. }) => &bytes.0,
            _ => panic!("a kind asks only for files that it declares, not for `{name}`"),
        }
    }

    /// With the file that each knob for a file names as a word read by `read`; errs where that errs.
    pub fn with_files<E>(
        mut self,
        knobs: &[Knob],
        mut read: impl FnMut(&str) -> Result<KnobValue, E>,
    ) -> Result<Self, E> {
        for knob in knobs.iter().filter(|knob| matches!(knob.range, KnobRange::File { .. })) {
            if let Some(KnobValue::Word(file)) = self.get(&knob.name) {
                let read = read(file)?;
                self.set(&knob.name, read);
            }
        }
        Ok(self)
    }

    /// The same with every file by its name alone, for people.
    #[must_use]
    pub fn without_bytes(&self) -> Self {
        let plain = |value: &KnobValue| match value {
            KnobValue::File { file, .. } => KnobValue::Word(file.clone()),
            other => other.clone(),
        };
        if self.iter().all(|(_, value)| !matches!(value, KnobValue::File { .. })) {
            return self.clone();
        }
        self.iter().map(|(name, value)| (name.to_string(), plain(value))).collect()
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

    /// Those of these values that one of the knobs allows.
    #[must_use]
    pub fn allowed(&self, knobs: &[Knob]) -> Self {
        let mut allowed = Self::default();
        for (name, value) in self.iter() {
            if knobs.iter().any(|knob| knob.name == name && knob.check(value).is_ok()) {
                allowed.set(name, value.clone());
            }
        }
        allowed
    }

    /// The word of the choice beside which a knob has no effect; none where it has one.
    fn unmet(&self, knob: &Knob, knobs: &[Knob]) -> Option<String> {
        let condition = knob.condition()?;
        let default = || knobs.iter().find(|other| other.name == condition.knob)?.default_value();
        match self.get(&condition.knob).cloned().or_else(default)? {
            KnobValue::Word(word) if !condition.words.contains(&word) => Some(word),
            _ => None,
        }
    }

    /// Every knob that is set and has no effect beside the others.
    fn idle(&self, knobs: &[Knob]) -> Vec<KnobError> {
        let set = knobs.iter().filter(|knob| self.get(&knob.name).is_some());
        let idle = set.filter_map(|knob| {
            let (condition, word) = (knob.condition()?, self.unmet(knob, knobs)?);
            let (choice, needed) = (condition.knob.clone(), condition.words.clone());
            Some(KnobError::Idle { knob: knob.name.clone(), choice, word, needed })
        });
        idle.collect()
    }

    /// Fills in every knob that is not set and that has an effect beside the others: from the knob it follows, or its
    /// default. Errs with all that is wrong.
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
        errors.extend(self.idle(knobs));
        if !errors.is_empty() {
            return Err(errors);
        }
        let mut all = self.clone();
        for knob in knobs {
            let taken = knob.group().is_some_and(|group| all.in_force(group, knobs).is_some());
            if all.get(&knob.name).is_none() && !taken && all.unmet(knob, knobs).is_none() {
                let master = knob.master().and_then(|master| all.get(master)).and_then(KnobValue::number);
                match master.and_then(|at| knob.followed(at)).or_else(|| knob.default_value()) {
                    Some(value) => all.set(&knob.name, value),
                    None => errors.push(KnobError::Missing { knob: knob.name.clone(), allowed: knob.allowed() }),
                }
            }
        }
        if errors.is_empty() { Ok(all) } else { Err(errors) }
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
        let unchanged = base.iter().filter(|(name, _)| !dropped(name));
        self.over(&unchanged.map(|(name, value)| (name.to_string(), value.clone())).collect())
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
