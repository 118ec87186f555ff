//! The tight match loop around the stepper, and what listens to it.

use std::time::{Duration, Instant};

use crate::{Acting, Agent, Chance, DecisionTimes, Ending, Game, Pace, Seat, Sight, Stepper, Thoughts, Verdict};

/// A match that no rule ends is cut short after this many ticks.
pub const TICK_LIMIT: u64 = 10_000_000;

/// Of the agents that do not declare themselves thinkers, one decision in this many is timed.
const TIMED_ONE_IN: u64 = 64;

/// A decision is late when it took more than twice the time promised and this: what a busy machine may take by itself.
const GRACE: Duration = Duration::from_millis(20);

/// Listens to a match; every method has an empty default, and an unused observer costs nothing.
pub trait Observer<G: Game> {
    /// A seat has decided.
    #[inline]
    fn decided(&mut self, _tick: u64, _decision: &Decision<'_, G>) {}
    /// A tick has passed.
    #[inline]
    fn advanced(&mut self, _tick: u64, _game: &G) {}
}

/// A decision that was just made.
pub struct Decision<'a, G: Game> {
    /// Whose.
    pub seat: Seat,
    /// What it perceived.
    pub view: &'a G::View,
    /// What it chose.
    pub action: &'a G::Action,
    /// Who chose.
    pub agent: &'a dyn Agent<G>,
}

/// Nobody listens.
pub struct Unobserved;

impl<G: Game> Observer<G> for Unobserved {}

/// The agents of a match in order of seat, with the buffers they need.
pub struct Players<G: Game> {
    places: Vec<Place<G>>,
    deciding: Option<Seat>,
}

/// One seat: who sits there, the buffer of what is perceived, and the clock.
struct Place<G: Game> {
    agent: Box<dyn Agent<G>>,
    view: G::View,
    clock: Clock,
    states: States,
}

/// States advanced by a seat's agent, if it searches.
#[derive(Default)]
struct States {
    advanced: u64,
    decisions: u64,
}

impl<G: Game> Players<G> {
    /// Seats the agents and lets each begin with its own chance.
    pub fn seat(agents: Vec<Box<dyn Agent<G>>>, mut chance: impl FnMut(Seat) -> Chance) -> Self {
        let seated = agents.into_iter().enumerate().map(|(seat, mut agent)| {
            let own = chance(seat);
            // Which decisions are timed is a draw of its own, so that short matches have their share.
            let first = own.clone().below(TIMED_ONE_IN as usize) as u64 + 1;
            agent.begin(seat, own);
            let clock = Clock::new(agent.pace(), first);
            Place { agent, view: G::View::default(), clock, states: States::default() }
        });
        Self { places: seated.collect(), deciding: None }
    }

    /// How many sit here.
    pub fn seats(&self) -> usize {
        self.places.len()
    }

    /// The seat whose agent was deciding when the loop was left by a panic; none if the game was advancing.
    pub fn deciding(&self) -> Option<Seat> {
        self.deciding
    }

    /// Mean time of the timed decisions of a seat in microseconds; NaN when none was timed.
    pub fn decision_us(&self, seat: Seat) -> f32 {
        self.places[seat].clock.mean_us()
    }

    /// How long the decisions of a seat took, where each was timed.
    pub fn decision_times(&self, seat: Seat) -> Option<&DecisionTimes> {
        self.places[seat].clock.times.as_deref()
    }

    /// Decisions of a seat that came too late for the pace its agent promised.
    pub fn late(&self, seat: Seat) -> u32 {
        self.places[seat].clock.late
    }

    /// Mean number of states that the agent of a seat advanced for a decision; 0 if it does not search.
    pub fn nodes(&self, seat: Seat) -> f64 {
        let States { advanced, decisions } = self.places[seat].states;
        advanced as f64 / decisions.max(1) as f64
    }

    /// Asks every agent to value all its options from now on, for whoever wants to read its thoughts.
    pub fn reflect(&mut self) {
        self.places.iter_mut().for_each(|place| place.agent.reflect(1));
    }

    /// What the agent of a seat weighed last.
    pub fn thoughts(&self, seat: Seat) -> Option<Thoughts<G::Action>> {
        self.places[seat].agent.thoughts()
    }

    #[inline(always)]
    fn decide<O: Observer<G>>(&mut self, game: &G, seat: Seat, tick: u64, observer: &mut O) -> G::Action {
        self.deciding = Some(seat);
        let Place { agent, view, clock, states } = &mut self.places[seat];
        game.view(seat, view);
        let sight = Sight::new(game, view, seat, tick);
        clock.left -= 1;
        let action = if clock.left == 0 { clock.time(|| agent.choose(&sight)) } else { agent.choose(&sight) };
        if clock.times.is_some() {
            states.count(agent.as_ref());
        }
        self.deciding = None;
        observer.decided(tick, &Decision { seat, view, action: &action, agent: agent.as_ref() });
        action
    }
}

impl States {
    #[inline(never)]
    fn count<G: Game>(&mut self, agent: &dyn Agent<G>) {
        if let Some(spent) = agent.spent() {
            self.advanced += spent.nodes;
            self.decisions += 1;
        }
    }
}

/// Times one decision in `every`; keeps the times where it times each.
struct Clock {
    every: u64,
    left: u64,
    timed: u64,
    timed_s: f64,
    times: Option<Box<DecisionTimes>>,
    limit: Duration,
    late: u32,
}

impl Clock {
    /// A clock that times this decision first, counted from 1, unless it times each.
    fn new(pace: Pace, first: u64) -> Self {
        let every = if pace == Pace::Quick { TIMED_ONE_IN } else { 1 };
        let times = (pace != Pace::Quick).then(Box::default);
        let limit = if let Pace::Within(promised) = pace { promised * 2 + GRACE } else { Duration::MAX };
        Self { every, left: first.min(every), timed: 0, timed_s: 0.0, times, limit, late: 0 }
    }

    #[cold]
    #[inline(never)]
    fn time<A>(&mut self, decide: impl FnOnce() -> A) -> A {
        self.left = self.every;
        let start = Instant::now();
        let action = decide();
        let took = start.elapsed();
        self.timed_s += took.as_secs_f64();
        self.timed += 1;
        self.late += u32::from(took > self.limit);
        if let Some(times) = &mut self.times {
            times.add(took.as_secs_f64() * 1e6);
        }
        action
    }

    fn mean_us(&self) -> f32 {
        (self.timed_s * 1e6 / self.timed as f64) as f32
    }
}

/// A match that could not be played to its end.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Fall {
    /// The game itself fell, with its reason.
    Game(String),
}

/// Plays a match to its end, or to `tick_limit`.
///
/// Buffers are reused: nothing is allocated a tick by the loop itself. Errs when the game falls.
pub fn play<G: Game, O: Observer<G>>(
    stepper: &mut Stepper<G>,
    players: &mut Players<G>,
    observer: &mut O,
    tick_limit: u64,
) -> Result<Verdict, Fall> {
    while stepper.tick() < tick_limit {
        if stepper.acting() == Acting::Nobody {
            break;
        }
        stepper.collect(|game, seat, tick| players.decide(game, seat, tick, observer));
        stepper.step().map_err(Fall::Game)?;
        observer.advanced(stepper.tick(), stepper.game());
    }
    if stepper.acting() == Acting::Nobody {
        return finish(stepper, players);
    }
    let verdict = Verdict::by_score(stepper.game().scores(), Ending::CutShort("tick limit".into()));
    farewell(players, &verdict);
    Ok(verdict)
}

fn finish<G: Game>(stepper: &Stepper<G>, players: &mut Players<G>) -> Result<Verdict, Fall> {
    let verdict = stepper.verdict().ok_or_else(|| Fall::Game("nobody acts, yet the game gives no verdict".into()))?;
    farewell(players, &verdict);
    Ok(verdict)
}

fn farewell<G: Game>(players: &mut Players<G>, verdict: &Verdict) {
    for (seat, place) in players.places.iter_mut().enumerate() {
        players.deciding = Some(seat);
        place.agent.end(verdict);
    }
    players.deciding = None;
}
