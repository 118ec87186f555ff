//! The agents of a match in order of seat, with their clocks.

use crate::clock::{Clock, TIMED_AMONG_FIRST};
use crate::{Agent, Chance, DecisionTimes, Game, GaveUp, Halt, Seat, Shape, Sight, Spent, Thoughts, Verdict};

/// The agents of a match in order of seat.
pub struct Players<G: Game> {
    seated: Vec<Seated<G>>,
    /// The seat whose agent is at work, or was last; `NOBODY` where it is the game's turn.
    deciding: Seat,
    /// The request to stop decisions.
    halt: Halt,
}

/// No seat.
const NOBODY: Seat = Seat::MAX;

/// One seat: its agent and its clock.
struct Seated<G: Game> {
    agent: Box<dyn Agent<G>>,
    clock: Clock,
}

impl<G: Game> Players<G> {
    /// Builds an empty set of players.
    pub fn nobody() -> Self {
        Self { seated: Vec::new(), deciding: NOBODY, halt: Halt::never() }
    }

    /// Lets decisions be asked to stop.
    pub(crate) fn heed(&mut self, halt: &Halt) {
        self.halt = halt.clone();
    }

    /// Whether they were asked to stop.
    pub(crate) fn is_halted(&self) -> bool {
        self.halt.is_called()
    }

    /// Gives the next seat to an agent, and lets it begin with its own chance.
    pub fn sit(&mut self, mut agent: Box<dyn Agent<G>>, chance: Chance) {
        // Which decisions are timed is a draw of its own.
        let first = chance.clone().below(TIMED_AMONG_FIRST as usize) as u64 + 1;
        agent.begin(self.seated.len(), chance);
        let clock = Clock::new(agent.pace(), first);
        self.seated.push(Seated { agent, clock });
    }

    /// All stand up, in order of seat.
    pub fn leave(&mut self) -> impl Iterator<Item = Box<dyn Agent<G>>> {
        self.rest();
        self.seated.drain(..).map(|seated| seated.agent)
    }

    /// The number of seats.
    pub fn seats(&self) -> usize {
        self.seated.len()
    }

    /// The seat whose agent was at work when a panic came; none if it was the game.
    pub fn deciding(&self) -> Option<Seat> {
        (self.deciding != NOBODY).then_some(self.deciding)
    }

    /// Ends the agents' part: from here on a panic is the game's.
    #[inline(always)]
    pub(crate) fn rest(&mut self) {
        self.deciding = NOBODY;
    }

    /// Mean time of the timed decisions of a seat in microseconds; NaN when none was timed.
    pub fn decision_us(&self, seat: Seat) -> f32 {
        self.seated[seat].clock.mean_us()
    }

    /// Decision times of a seat, where each was timed.
    pub fn decision_times(&self, seat: Seat) -> Option<&DecisionTimes> {
        self.seated[seat].clock.times()
    }

    /// Decisions of a seat that came too late for the pace its agent promised.
    pub fn late(&self, seat: Seat) -> u32 {
        self.seated[seat].clock.late()
    }

    /// Mean number of states that the agent of a seat advanced for a decision; 0 if it does not search.
    pub fn nodes(&self, seat: Seat) -> f64 {
        self.seated[seat].clock.nodes()
    }

    /// Makes every agent value its options from now on, this many layers deep, for readers of its thoughts.
    pub fn reflect(&mut self, layers: u32) {
        self.seated.iter_mut().for_each(|seated| seated.agent.reflect(layers));
    }

    /// The thoughts behind the last decision of a seat.
    pub fn thoughts(&self, seat: Seat) -> Option<Thoughts<G::Action>> {
        self.seated[seat].agent.thoughts()
    }

    /// Appends the beliefs of a seat's agent at its last decision, which was about this state.
    pub fn believes(&self, game: &G, seat: Seat, tick: u64, into: &mut Vec<Shape>) {
        self.seated[seat].agent.believes(&Sight::new(game, seat, tick), into);
    }

    /// The cost of the last decision of a seat, if its agent searches.
    pub fn spent(&self, seat: Seat) -> Option<Spent> {
        self.seated[seat].agent.spent()
    }

    /// Lets the agent of a seat decide.
    #[inline(always)]
    pub fn decide(&mut self, game: &G, seat: Seat, tick: u64) -> Result<G::Action, GaveUp> {
        self.deciding = seat;
        let Seated { agent, clock } = &mut self.seated[seat];
        clock.run(agent.as_mut(), &Sight::new(game, seat, tick).heeding(&self.halt))
    }

    /// Tells every agent how the match came out.
    pub fn farewell(&mut self, verdict: &Verdict) {
        for (seat, seated) in self.seated.iter_mut().enumerate() {
            self.deciding = seat;
            seated.agent.end(verdict);
        }
        self.rest();
    }
}
