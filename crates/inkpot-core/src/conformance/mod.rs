//! Conformance: one check of a game's promises for its tests. It plays at random and checks every state.

mod agents;
mod broken;
mod careless;
mod features;
mod imagined;
mod keyed;
mod promise;
mod sheets;
mod walk;

use crate::{
    Appraise, Chance, Entry, Features, GameEntry, Imagine, Keyed, Knob, Knobs, Laying, Level, MOST_SEATS, Noted,
    Options, Pictured, Playable,
};

pub use broken::Broken;
use broken::{in_words, under};
use promise::Made;
use sheets::default_level;
use walk::{Draw, Mover, walk};

/// Makes a promise under these rules.
type Promised<'a, G> = Box<dyn Fn(&Knobs) -> Made<G> + 'a>;

/// A check of a game with its agents. Of every game it checks that
///
/// - its sheet and those of its agents are complete: names differ, help is there, defaults lie within their ranges;
/// - on every level, the seats that act exist, scores are finite and one a seat, measures are as many as the sheet
///   says, actions read back as they were written, and a verdict stands at the end and gives places that exist;
/// - the same seed gives the same match;
/// - a seat that makes no choice is at fault, and the match goes on.
///
/// Each capability adds what it promises: call the method of every one that the game has.
///
/// ```ignore
/// #[test]
/// fn the_game_keeps_what_it_promises() -> Result<(), inkpot_core::Broken> {
///     Conformance::of(&entry()).options().imagined().keyed().noted().agents().check()
/// }
/// ```
pub struct Conformance<'a, G: Playable> {
    entry: &'a Entry<G>,
    matches: u64,
    ticks: u64,
    rules: Vec<Knobs>,
    draw: Option<Draw<G>>,
    promises: Vec<Promised<'a, G>>,
    agents: bool,
}

impl<'a, G: Playable> Conformance<'a, G> {
    /// Starts the check of every game's promises: 20 matches a level at default rules, of up to 2,000 ticks each,
    /// played by the game's agents unless [`Conformance::options`] is called.
    pub fn of(entry: &'a Entry<G>) -> Self {
        let rules = vec![Knobs::default()];
        Self { entry, matches: 20, ticks: 2000, rules, draw: None, promises: Vec::new(), agents: false }
    }

    /// With this many matches a level, of up to this many ticks each.
    #[must_use]
    pub fn playing(self, matches: u64, ticks: u64) -> Self {
        Self { matches, ticks, ..self }
    }

    /// Under these rules too, beside the default ones.
    #[must_use]
    pub fn rules(mut self, rules: Knobs) -> Self {
        self.rules.push(rules);
        self
    }

    /// Checks [`Options`]: acting seats have options, each once; every option, drawn action and nudged action is legal;
    /// no option needs repair. Matches are then played by such actions.
    #[must_use]
    pub fn options(mut self) -> Self
    where
        G: Options,
    {
        self.draw = Some(promise::any_action);
        self.with(promise::options)
    }

    /// Checks [`Imagine`]: a seat's view, options and known scores equal those of the true state; the imagined state
    /// can be played on; a copy has the same future and shares none of its past.
    #[must_use]
    pub fn imagined(self) -> Self
    where
        G: Imagine + Options,
    {
        self.with(imagined::promise)
    }

    /// [`Appraise`]: the value of a state is finite for every seat; `weights` are the knobs that agents are given for it.
    #[must_use]
    pub fn appraised(self, weights: Vec<Knob>) -> Self
    where
        G: Appraise,
    {
        self.with(move |_| promise::appraised(weights.clone()))
    }

    /// [`Keyed`]: states with equal keys have the same scores, options and successors; a turned state has the turned
    /// options, which lead to turned states, and turning back undoes it.
    #[must_use]
    pub fn keyed(self) -> Self
    where
        G: Keyed + Options + Clone,
    {
        self.with(keyed::promise)
    }

    /// [`Noted`]: the text of a position is one line, and gives the same position when it is read; a text that is no
    /// position is an error.
    #[must_use]
    pub fn noted(self) -> Self
    where
        G: Noted,
    {
        self.with(promise::noted)
    }

    /// [`Pictured`]: the window has an area, and all coordinates are finite.
    #[must_use]
    pub fn pictured(self) -> Self
    where
        G: Pictured,
    {
        self.with(promise::pictured)
    }

    /// [`Features`]: an observation has as many figures as the sheet says, each once and from -1 to 1; every intent gives
    /// a legal action.
    #[must_use]
    pub fn featured(self) -> Self
    where
        G: Features + Clone,
    {
        let entry = self.entry;
        self.with(move |rules| features::promise(entry, rules))
    }

    /// Every agent and every preset, on every level, against the first agent of the game: it plays a block without a
    /// fault, and plays the same block again from the same seed.
    #[must_use]
    pub fn agents(self) -> Self {
        Self { agents: true, ..self }
    }

    fn with(mut self, promise: impl Fn(&Knobs) -> Made<G> + 'a) -> Self {
        self.promises.push(Box::new(promise));
        self
    }

    /// Checks it. Errs with the first promise that is broken, where, and how.
    pub fn check(&self) -> Result<(), Broken> {
        sheets::check(self.entry)?;
        for rules in &self.rules {
            for level in &self.entry.sheet().levels {
                self.check_level(rules, &default_level(self.entry.sheet(), &level.name))?;
            }
        }
        if self.agents { agents::check(self.entry, &self.rules) } else { Ok(()) }
    }

    fn check_level(&self, rules: &Knobs, level: &Level) -> Result<(), Broken> {
        let at = format!("on level {level}{}", under(rules));
        let seats = self.entry.seats();
        let mut counts = vec![*seats.start(), (*seats.end()).min(MOST_SEATS)];
        counts.dedup();
        counts.into_iter().try_for_each(|seats| self.check_seats(rules, level, seats, &at))
    }

    fn check_seats(&self, rules: &Knobs, level: &Level, seats: usize, at: &str) -> Result<(), Broken> {
        let resolved = rules.resolve(&self.entry.sheet().rules);
        let resolved = resolved.map_err(|errors| Broken { at: at.into(), what: in_words(&errors) })?;
        let features = self.entry.features(&resolved);
        let laying = Laying { rules: &resolved, level, seats, features: features.as_ref() };
        let lay = self.entry.laid(&laying).map_err(|what| Broken { at: at.into(), what })?;
        let laid = lay(&mut Chance::from_seed(0)).seats();
        if laid != seats {
            let what = format!("it is laid for {seats} seats and has {laid}; take them from `laying.seats`");
            return Err(Broken { at: at.into(), what });
        }
        let mut promises: Vec<_> = self.promises.iter().map(|promise| promise(&resolved)).collect();
        for number in 0..self.matches {
            let broken = |(tick, what)| Broken { at: format!("{at}, at tick {tick} of match {number}"), what };
            let mut played = Vec::new();
            walk(self.entry, &lay, number, self.ticks, &mut self.mover(number, &laying)?, &mut |state, chance| {
                promises.iter_mut().try_for_each(|promise| promise.holds(state, chance))?;
                played.push(walk::described(state));
                Ok(())
            })
            .map_err(broken)?;
            let mut before = played.into_iter();
            walk(self.entry, &lay, number, self.ticks, &mut self.mover(number, &laying)?, &mut |state, _| {
                let (before, now) = (before.next().unwrap_or_default(), walk::described(state));
                (before == now).then_some(()).ok_or_else(|| {
                    format!("the same seed gives another match: it was {before}, and played again it is {now}")
                })
            })
            .map_err(broken)?;
        }
        promises.iter().try_for_each(|promise| promise.tested()).map_err(|what| Broken { at: at.into(), what })?;
        careless::check(&lay, self.ticks).map_err(|what| Broken { at: at.into(), what })
    }

    fn mover(&self, number: u64, laying: &Laying) -> Result<Mover<G>, Broken> {
        match self.draw {
            Some(draw) => Ok(Mover::Draw(draw)),
            None => Mover::agents(self.entry, number, laying),
        }
    }
}
