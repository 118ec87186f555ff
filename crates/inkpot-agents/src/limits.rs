//! Limits to an agent's skill: `slip` and `temper` make weaker grades of any agent.

use inkpot_core::{
    Agent, AgentKind, Chance, Factory, Game, GaveUp, Knob, KnobValue, Knobs, Options, Pace, Person, Seat, Shape, Sight,
    Spent, Thoughts, Verdict, Weighed,
};

use crate::soft::{drawn, shares};

/// Weaker grades of an agent kind, made by knobs.
pub trait Graded {
    /// With the knob `slip`, which makes a weaker player of any agent: this share of its decisions is replaced
    /// by a random legal one.
    #[must_use]
    fn graded(self) -> Self;

    /// With the knobs `slip` and `temper`; the latter draws from the agent's own values of its options, so it is for
    /// agents that give them as their thoughts.
    #[must_use]
    fn graded_by_values(self) -> Self;
}

impl<G: Options + 'static> Graded for AgentKind<G> {
    fn graded(self) -> Self {
        self.wrapped(|inner, knobs| limited(inner, number(knobs, "slip"), 0.0)).knob(slip())
    }

    fn graded_by_values(self) -> Self {
        let limited = |inner, knobs: &Knobs| limited(inner, number(knobs, "slip"), number(knobs, "temper"));
        self.wrapped(limited).knob(slip()).knob(temper())
    }
}

/// The knob `slip`.
fn slip() -> Knob {
    Knob::real("slip", 0.0..=1.0, 0.0).help("share of its decisions replaced by a random legal one")
}

/// The knob `temper`.
pub(crate) fn temper() -> Knob {
    Knob::real("temper", 0.0..=1000.0, 0.0)
        .unit("value")
        .help("softens its choice: an option this much worse is taken e times less often; 0 always takes the best")
}

/// The value of a limit; 0 where the knob is not set.
fn number(knobs: &Knobs, name: &str) -> f64 {
    knobs.get(name).and_then(KnobValue::number).unwrap_or(0.0)
}

/// A factory whose agents are limited so far; the factory itself where they limit nothing.
fn limited<G: Options + 'static>(inner: Factory<G>, slip: f64, temper: f64) -> Factory<G> {
    if slip == 0.0 && temper == 0.0 {
        return inner;
    }
    Box::new(move |person| {
        let inner = inner(person)?;
        Ok(Box::new(Limited { inner, slip, temper, slipped: false, chance: Chance::from_seed(0) }))
    })
}

struct Limited<G: Game> {
    inner: Box<dyn Agent<G>>,
    slip: f64,
    temper: f64,
    slipped: bool,
    chance: Chance,
}

impl<G: Options> Agent<G> for Limited<G> {
    fn begin(&mut self, seat: Seat, mut chance: Chance) {
        // The agent within draws what it would draw without limits.
        self.inner.begin(seat, chance.clone());
        self.chance = Chance::from_seed(!chance.bits());
        if self.temper > 0.0 {
            self.inner.reflect(1);
        }
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        let slips = self.slip > 0.0 && self.chance.happens(self.slip);
        self.slipped = slips;
        // A quick agent is asked even when it slips: it may live by all that it sees.
        if slips && self.inner.pace() != Pace::Quick {
            return Ok(sight.draw(&mut self.chance));
        }
        let choice = self.inner.choose(sight)?;
        if slips {
            return Ok(sight.draw(&mut self.chance));
        }
        if self.temper == 0.0 {
            return Ok(choice);
        }
        Ok(self.inner.thoughts().and_then(|thoughts| self.soften(&thoughts.options)).unwrap_or(choice))
    }

    /// Returns the chances with slips: any option by chance, else the softened choice. None for an agent without stated
    /// chances, whose values may themselves be random.
    fn shares(&mut self, sight: &Sight<'_, G>, options: &[G::Action]) -> Option<Vec<f64>> {
        let hard = self.inner.shares(sight, options)?;
        let within = if self.temper > 0.0 { self.softened(options).unwrap_or(hard) } else { hard };
        let any = self.slip / options.len() as f64;
        Some(within.into_iter().map(|share| any + (1.0 - self.slip) * share).collect())
    }

    fn renew(&mut self, person: &Person) -> bool {
        self.slipped = false;
        self.inner.renew(person)
    }

    fn end(&mut self, verdict: &Verdict) {
        self.inner.end(verdict);
    }

    fn pace(&self) -> Pace {
        self.inner.pace()
    }

    fn spent(&self) -> Option<Spent> {
        // A slip costs nothing; what the agent within says is of an earlier decision.
        self.inner.spent().map(|spent| if self.slipped { Spent::default() } else { spent })
    }

    fn thoughts(&self) -> Option<Thoughts<G::Action>> {
        self.inner.thoughts().filter(|_| !self.slipped)
    }

    fn believes(&self, sight: &Sight<'_, G>, into: &mut Vec<Shape>) {
        self.inner.believes(sight, into);
    }

    fn reflect(&mut self, layers: u32) {
        self.inner.reflect(layers);
    }
}

impl<G: Game> Limited<G> {
    /// Returns the chances of a softened choice by the agent's latest values; none if it has none.
    fn softened(&self, options: &[G::Action]) -> Option<Vec<f64>> {
        let weighed = self.inner.thoughts()?.options;
        let value = |option: &G::Action| weighed.iter().find(|other| other.option == *option).map(|other| other.value);
        let values: Vec<f64> = options.iter().map(|option| value(option).unwrap_or(f64::NAN)).collect();
        values.iter().any(|value| value.is_finite()).then(|| shares(&values, self.temper))
    }

    /// Draws an option, the likelier the better it is.
    fn soften(&mut self, options: &[Weighed<G::Action>]) -> Option<G::Action> {
        let values: Vec<f64> = options.iter().map(|option| option.value).collect();
        drawn(&values, self.temper, &mut self.chance).map(|place| options[place].option.clone())
    }
}
