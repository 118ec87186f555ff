//! Places in a draft.

use std::fmt;

/// A place in a draft, from the outside in: `entrant[1].knobs.skill`.
#[derive(Clone, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
#[must_use]
pub struct Place(Vec<Step>);

/// One step of the way.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Step {
    Key(String),
    Item(usize),
}

impl Place {
    /// An item of a list.
    pub fn item(list: &str, index: usize) -> Self {
        Self::from(list).at(index)
    }

    /// A key in here; the place itself where the key is empty.
    pub fn key(&self, key: &str) -> Self {
        if key.is_empty() { self.clone() } else { self.then(Step::Key(key.into())) }
    }

    /// An item of the list that stands here.
    pub fn at(&self, index: usize) -> Self {
        self.then(Step::Item(index))
    }

    fn then(&self, step: Step) -> Self {
        let mut steps = self.0.clone();
        steps.push(step);
        Self(steps)
    }

    /// The place around it; none of the whole.
    pub fn around(&self) -> Option<Self> {
        let (_, steps) = self.0.split_last()?;
        Some(Self(steps.to_vec()))
    }

    /// Whether it is this place or stands in it.
    pub fn is_within(&self, other: &Self) -> bool {
        self.0.starts_with(&other.0)
    }

    /// Whether it is a key of this name or stands in one.
    pub fn has(&self, key: &str) -> bool {
        self.0.iter().any(|step| matches!(step, Step::Key(name) if name == key))
    }

    /// The number of the item of a list that it is or stands in.
    pub fn item_of(&self, list: &str) -> Option<usize> {
        match self.0.as_slice() {
            [Step::Key(key), Step::Item(index), ..] if key == list => Some(*index),
            _ => None,
        }
    }

    /// Moves a place from below `from` to below `to`; other places stay.
    pub fn moved(&self, from: &Self, to: &Self) -> Self {
        match self.0.strip_prefix(from.0.as_slice()) {
            Some(rest) => Self(to.0.iter().chain(rest).cloned().collect()),
            None => self.clone(),
        }
    }
}

/// A key of the whole, or the whole where the key is empty.
impl From<&str> for Place {
    fn from(key: &str) -> Self {
        Self::default().key(key)
    }
}

impl From<&Self> for Place {
    fn from(place: &Self) -> Self {
        place.clone()
    }
}

impl fmt::Display for Place {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        for (index, step) in self.0.iter().enumerate() {
            match step {
                Step::Key(key) if index == 0 => write!(f, "{key}")?,
                Step::Key(key) => write!(f, ".{key}")?,
                Step::Item(item) => write!(f, "[{item}]")?,
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_place_is_written_as_it_is_typed() {
        let skill = Place::item("entrant", 1).key("knobs").key("skill");
        assert_eq!(skill.to_string(), "entrant[1].knobs.skill");
        assert_eq!(Place::from("").to_string(), "");
        assert_eq!(Place::from("game").key(""), Place::from("game"));
    }

    #[test]
    fn a_place_stands_in_all_places_around_it() {
        let skill = Place::item("entrant", 1).key("skill");
        let around: Vec<String> =
            std::iter::successors(Some(skill.clone()), Place::around).map(|place| place.to_string()).collect();
        assert_eq!(around, ["entrant[1].skill", "entrant[1]", "entrant", ""]);
        assert!(skill.is_within(&Place::from("entrant")) && !skill.is_within(&Place::item("entrant", 0)));
        assert_eq!((skill.item_of("entrant"), skill.item_of("rung")), (Some(1), None));
    }

    #[test]
    fn what_stands_elsewhere_is_not_moved() {
        let (first, standin) = (Place::item("entrant", 0), Place::from("standin"));
        assert_eq!(first.key("agent").moved(&first, &standin), standin.key("agent"));
        assert_eq!(Place::item("entrant", 10).moved(&first, &standin), Place::item("entrant", 10));
    }
}
