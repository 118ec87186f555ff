//! Times and costs of a seat's decisions.

use std::time::{Duration, Instant};

use crate::{Agent, DecisionTimes, Game, GaveUp, Pace, Sight};

/// For agents that do not declare themselves thinkers: one of this many first decisions is timed, so that short matches
/// have their share ...
pub(crate) const TIMED_AMONG_FIRST: u64 = 64;
/// ... and from then on one in this many, since looking at the clock costs as much as some decisions.
const TIMED_ONE_IN: u64 = 256;

/// The grace of a decision: it is late after more than twice its promised time and this, the noise of a busy machine.
pub const GRACE: Duration = Duration::from_millis(20);

/// Times one decision in `every`; where it times each, keeps the times and counts the states advanced.
pub(crate) struct Clock {
    every: u64,
    left: u64,
    timed: u64,
    timed_s: f64,
    limit: Duration,
    late: u32,
    each: Option<Box<Each>>,
}

/// The record of an agent whose decisions are all timed.
#[derive(Default)]
struct Each {
    times: DecisionTimes,
    states: u64,
    searches: u64,
}

impl Clock {
    /// A clock that times this decision first, counted from 1, unless it times each.
    pub(crate) fn new(pace: Pace, first: u64) -> Self {
        let every = if pace == Pace::Quick { TIMED_ONE_IN } else { 1 };
        let limit = if let Pace::Within(promised) = pace { promised * 2 + GRACE } else { Duration::MAX };
        let each = (pace != Pace::Quick).then(Box::default);
        Self { every, left: first.min(every), timed: 0, timed_s: 0.0, limit, late: 0, each }
    }

    /// Lets an agent decide, and times it if it is its turn.
    #[inline(always)]
    pub(crate) fn run<G: Game>(&mut self, agent: &mut dyn Agent<G>, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        self.left -= 1;
        if self.left == 0 { self.time(agent, sight) } else { agent.choose(sight) }
    }

    #[cold]
    #[inline(never)]
    fn time<G: Game>(&mut self, agent: &mut dyn Agent<G>, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        self.left = self.every;
        let start = Instant::now();
        let action = agent.choose(sight);
        let took = start.elapsed();
        self.timed_s += took.as_secs_f64();
        self.timed += 1;
        self.late += u32::from(took > self.limit);
        if let Some(each) = &mut self.each {
            each.times.add(took.as_secs_f64() * 1e6);
            if let Some(spent) = agent.spent() {
                each.states += spent.nodes;
                each.searches += 1;
            }
        }
        action
    }

    /// Mean time of the timed decisions in microseconds; NaN when none was timed.
    pub(crate) fn mean_us(&self) -> f32 {
        (self.timed_s * 1e6 / self.timed as f64) as f32
    }

    /// Returns the times of decisions, if all were timed.
    pub(crate) fn times(&self) -> Option<&DecisionTimes> {
        self.each.as_ref().map(|each| &each.times)
    }

    /// Decisions that came too late for the pace that was promised.
    pub(crate) fn late(&self) -> u32 {
        self.late
    }

    /// Mean number of states advanced for a decision; 0 for an agent that does not search.
    pub(crate) fn nodes(&self) -> f64 {
        self.each.as_ref().map_or(0.0, |each| each.states as f64 / each.searches.max(1) as f64)
    }
}
