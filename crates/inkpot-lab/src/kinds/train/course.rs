//! Courses: the looks of a repetition at its legs.

use inkpot_core::GameEntry;
use serde::{Deserialize, Serialize};

use super::asked::Train;
use crate::kinds::found::{Evaluation, LegFound, Looked, Pick, Purpose};
use crate::work::Play;

/// The looks at legs, one a look at the yardstick, until the last leg was passed.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(super) struct Course {
    looks: Vec<LegLook>,
}

/// A look at the leg that a repetition is on.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct LegLook {
    pub(super) leg: usize,
    /// Decisions by then.
    steps: u64,
    pub(super) looked: Looked,
    passed: bool,
}

impl Course {
    /// The leg that it is on; as many as there are once it has passed all.
    pub(super) fn leg(&self) -> usize {
        self.looks.iter().filter(|look| look.passed).count()
    }

    /// Whether it has passed all.
    pub(super) fn is_over(&self, train: &Train) -> bool {
        train.mixed || self.leg() >= train.legs.len()
    }

    /// The look at a leg that came with a look at the yardstick, these counted from 1; none once all legs were passed.
    pub(super) fn of_round(&self, round: u64) -> Option<&LegLook> {
        self.looks.get(round as usize - 1)
    }

    /// The last of them.
    pub(super) fn last(&self) -> Option<&LegLook> {
        self.looks.last()
    }

    /// Returns the look at a pick on the present leg; none once it has passed all.
    pub(super) fn look(
        &self,
        train: &Train,
        (number, pick): (usize, &Pick),
        first_block: u64,
        game: &dyn GameEntry,
    ) -> Option<Play> {
        (!self.is_over(train)).then(|| {
            let field = train.looking_at(self.leg());
            let seed = train.aim.stream(Purpose::Looks, number);
            let settings = train.aim.settings(&pick.genome, &field, seed, game);
            Play::new(settings, first_block, train.aim.yardstick_blocks())
        })
    }

    /// Takes the result of a look, after this many decisions.
    pub(super) fn take(&mut self, train: &Train, evaluation: &Evaluation, steps: u64, game: &dyn GameEntry) {
        let number = self.leg();
        let Some(leg) = train.legs.get(number).filter(|_| !train.mixed) else { return };
        let looked = Looked::of(evaluation, train.looking_at(number).pairings(), &train.aim, game.sheet());
        let passed = leg.is_passed(looked.value, &train.aim.yardstick);
        self.looks.push(LegLook { leg: number, steps, looked, passed });
    }

    /// Returns the result of each leg.
    pub(super) fn found(&self, train: &Train) -> Vec<LegFound> {
        let of = |number: usize| self.looks.iter().filter(move |look| look.leg == number);
        let each = train.legs.iter().enumerate();
        each.filter_map(|(number, leg)| Some((number, leg, leg.pass?)))
            .map(|(number, leg, pass)| LegFound {
                level: leg.level.to_string(),
                pass,
                passed: of(number).find(|look| look.passed).map(|look| look.steps),
                last: of(number).next_back().and_then(|look| look.looked.interval),
            })
            .collect()
    }
}
