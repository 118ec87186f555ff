//! The file of weights that an agent plays by, at some share of its training.

use inkpot_core::{Chance, Knob, KnobValue, Knobs};
use inkpot_learn::Weights;

/// Reads the file of the knob `file`. Errs with the problem.
pub(crate) fn read(knobs: &Knobs) -> Result<Weights, String> {
    let Some(KnobValue::File { file, bytes }) = knobs.get("file") else {
        return Err("the knob `file` names no file".into());
    };
    Weights::from_bytes(&bytes.0).map_err(|error| format!("`{file}` cannot be used: {error}"))
}

/// The knob `training`: how far a policy had been trained.
pub(crate) fn training() -> Knob {
    Knob::real("training", 0.0..=1.0, 1.0).help(
        "how much of its training it has had; between two saved states each match is played by one of them, the nearer one \
         more often",
    )
}

/// A policy at some share of its training: in each match one of two states.
#[derive(Clone)]
pub(crate) struct Trained<T> {
    earlier: T,
    later: T,
    /// The share of matches played by the later one.
    share: f64,
}

impl<T: Clone> Trained<T> {
    /// The last of all.
    pub(crate) fn whole(last: T) -> Self {
        Self { earlier: last.clone(), later: last, share: 1.0 }
    }

    /// At this share, of states by their share, in order, and the last one. Errs where no earlier one was kept.
    pub(crate) fn at(share: f64, stages: &[(f64, T)], last: T) -> Result<Self, String> {
        if share >= 1.0 {
            return Ok(Self::whole(last));
        }
        let Some(first) = stages.first() else {
            return Err("it keeps no earlier state of its training; leave `training` at 1".into());
        };
        let (from, earlier) = stages.iter().rev().find(|(by, _)| *by <= share).unwrap_or(first);
        let (to, later) = stages.iter().find(|(by, _)| *by > share).map_or((1.0, &last), |(by, stage)| (*by, stage));
        let share = ((share - from) / (to - from)).clamp(0.0, 1.0);
        Ok(Self { earlier: earlier.clone(), later: later.clone(), share })
    }

    /// Each of its states made into something else, once where both are the same.
    pub(crate) fn each<U: Clone>(&self, make: impl Fn(T) -> Result<U, String>) -> Result<Trained<U>, String>
    where
        T: PartialEq,
    {
        let later = make(self.later.clone())?;
        let same = self.earlier == self.later;
        let earlier = if same { later.clone() } else { make(self.earlier.clone())? };
        Ok(Trained { earlier, later, share: self.share })
    }

    /// The later of its states.
    pub(crate) fn later(&self) -> &T {
        &self.later
    }

    /// Whether every match is played by one of its states, always the same.
    pub(crate) fn is_single(&self) -> bool {
        self.share <= 0.0 || self.share >= 1.0
    }

    /// The state of a match; nothing is drawn where it can only be one.
    pub(crate) fn of_match(&self, chance: &mut Chance) -> &T {
        let later = self.share >= 1.0 || self.share > 0.0 && chance.happens(self.share);
        if later { &self.later } else { &self.earlier }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn between_two_states_each_is_played_by_how_near_it_is() {
        let stages = [(0.0, 'a'), (0.25, 'b'), (0.5, 'c')];
        let share = |training: f64| {
            let played = Trained::at(training, &stages, 'd').unwrap();
            let mut chance = Chance::from_seed(1);
            let mut seen = std::collections::BTreeMap::new();
            (0..10_000).for_each(|_| *seen.entry(*played.of_match(&mut chance)).or_insert(0) += 1);
            seen
        };
        assert_eq!(share(1.0), [('d', 10_000)].into());
        assert_eq!(share(0.25), [('b', 10_000)].into());
        let near = share(0.3);
        assert!((7_800..8_200).contains(&near[&'b']) && near[&'b'] + near[&'c'] == 10_000, "{near:?}");
        let late = share(0.875);
        assert!((2_300..2_700).contains(&late[&'c']) && late[&'c'] + late[&'d'] == 10_000, "{late:?}");
        assert!(Trained::at(0.5, &[], 'd').is_err());
    }
}
