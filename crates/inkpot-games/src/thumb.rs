//! Agents that weigh each option by rules of thumb and play the heaviest.

use inkpot_core::{Agent, Chance, GaveUp, Imagine, Options, Seat, Sight, Thoughts, Weighed};

/// Rules of thumb of a game.
pub(crate) trait Thumb<G: Options>: Copy + Send {
    /// Returns the value of an option of the acting seat.
    fn weigh(&self, state: &G, option: &G::Action) -> f64;
}

/// Plays the heaviest option; ties are broken by its chance.
pub(crate) struct ByThumb<A, T> {
    thumb: T,
    seat: Seat,
    chance: Chance,
    options: Vec<A>,
    weighed: Vec<f64>,
}

impl<A, T> ByThumb<A, T> {
    /// Plays by these rules.
    pub(crate) fn new(thumb: T) -> Self {
        Self { thumb, seat: 0, chance: Chance::from_seed(0), options: Vec::new(), weighed: Vec::new() }
    }
}

impl<G: Options + Imagine, T: Thumb<G>> Agent<G> for ByThumb<G::Action, T> {
    fn begin(&mut self, seat: Seat, chance: Chance) {
        self.seat = seat;
        self.chance = chance;
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        sight.options(&mut self.options);
        let state = sight.imagine(&mut self.chance).ok_or_else(|| GaveUp::because("nothing can be imagined"))?;
        self.weighed.clear();
        self.weighed.extend(self.options.iter().map(|option| self.thumb.weigh(&state, option)));
        let best = self.weighed.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        let heaviest = self.options.iter().zip(&self.weighed).filter(|(_, value)| **value == best);
        let pick = self.chance.below(heaviest.clone().count());
        Ok(heaviest.clone().nth(pick).map_or_else(|| self.options[0].clone(), |(option, _)| option.clone()))
    }

    fn shares(&mut self, sight: &Sight<'_, G>, options: &[G::Action]) -> Option<Vec<f64>> {
        self.choose(sight).ok()?;
        let best = self.weighed.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        let weighed = self.options.iter().zip(&self.weighed);
        let heaviest: Vec<_> = weighed.filter(|(_, value)| **value == best).map(|(option, _)| option).collect();
        let share = |option| if heaviest.contains(&option) { 1.0 / heaviest.len() as f64 } else { 0.0 };
        (!heaviest.is_empty()).then(|| options.iter().map(share).collect())
    }

    fn thoughts(&self) -> Option<Thoughts<G::Action>> {
        let weighed = self.options.iter().zip(&self.weighed);
        Some(Thoughts::of(
            weighed.map(|(option, &value)| Weighed::new(option.clone(), value).of_seat(self.seat).deep(1)).collect(),
        ))
    }
}
