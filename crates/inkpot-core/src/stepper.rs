//! The rules of one match under way: it stops where choices are needed and goes on when it has them.

use crate::{Acting, Advance, Chance, Choices, Game, Seat, Verdict};

/// One match under way.
#[derive(Clone)]
pub struct Stepper<G: Game> {
    game: G,
    world: Chance,
    choices: Choices<G::Action>,
    faults: Vec<u32>,
    tick: u64,
}

impl<G: Game> Stepper<G> {
    /// A match from the game's start; `world` is the game's own chance from here on.
    pub fn new(game: G, world: Chance) -> Self {
        let seats = game.seats();
        Self { game, world, choices: Choices::none(seats), faults: vec![0; seats], tick: 0 }
    }

    /// Begins another match in the memory of this one.
    pub fn restart(&mut self, game: G, world: Chance) {
        let seats = game.seats();
        let choices = std::mem::replace(&mut self.choices, Choices::none(0));
        self.choices = choices.for_seats(seats);
        self.faults.clear();
        self.faults.resize(seats, 0);
        (self.game, self.world, self.tick) = (game, world, 0);
    }

    /// The seats that must choose before the next step.
    #[inline]
    pub fn acting(&self) -> Acting<'_> {
        self.game.acting()
    }

    /// The state, for observers.
    #[inline]
    pub fn game(&self) -> &G {
        &self.game
    }

    /// Ticks so far.
    #[inline]
    pub fn tick(&self) -> u64 {
        self.tick
    }

    /// Faults so far, by seat.
    pub fn faults(&self) -> &[u32] {
        &self.faults
    }

    /// The choices given for the coming step (after a panic: the last ones).
    pub fn choices(&self) -> &Choices<G::Action> {
        &self.choices
    }

    /// Gives the choice of a seat for the coming step.
    #[inline]
    pub fn choose(&mut self, seat: Seat, action: G::Action) {
        self.choices.set(seat, action);
    }

    /// Asks `decide` for the choice of every acting seat that has not chosen, in order of seat, until one errs. False
    /// where nobody acts any more.
    #[inline(always)]
    pub fn collect<E>(&mut self, mut decide: impl FnMut(&G, Seat, u64) -> Result<G::Action, E>) -> Result<bool, E> {
        let Self { game, choices, tick, .. } = self;
        let acting = game.acting();
        if acting == Acting::Nobody {
            return Ok(false);
        }
        acting.try_for_each(game.seats(), |seat| choices.fill(seat, || decide(game, seat, *tick)))?;
        Ok(true)
    }

    /// One tick with the choices given. Errs with the reason when the game itself falls.
    #[inline]
    pub fn step(&mut self) -> Result<(), String> {
        let advance = self.game.advance(&self.choices, &mut self.world);
        self.tick += 1;
        self.choices.clear();
        match advance {
            Advance::Fine => Ok(()),
            Advance::Faults(seats) => {
                if !seats.are_below(self.faults.len()) {
                    return Err(format!("it finds faults of seats beyond its {}", self.faults.len()));
                }
                for (seat, faults) in self.faults.iter_mut().enumerate() {
                    *faults += u32::from(seats.contains(seat));
                }
                Ok(())
            }
            Advance::Fell(reason) => Err(reason),
        }
    }

    /// The verdict, once nobody acts.
    pub fn verdict(&self) -> Option<Verdict> {
        self.game.verdict()
    }
}
