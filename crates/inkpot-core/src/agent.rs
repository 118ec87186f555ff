//! The agent seam: a decision maker for one seat.

use std::fmt;
use std::time::Duration;

use crate::halt::NEVER;
use crate::{Chance, Features, Game, Halt, Imagine, Intent, Options, Person, Seat, Shape, Spent, Thoughts, Verdict};

/// A decision maker for a seat of a game.
pub trait Agent<G: Game>: Send {
    /// Called once before the first tick, with the seat's own chance.
    fn begin(&mut self, _seat: Seat, _chance: Chance) {}
    /// Decides; called whenever the seat acts. An agent that cannot decide gives up with its reason: the match is then
    /// forfeit, and the reason is kept with it.
    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp>;
    /// Returns the chance of each of these options, which are all of the seat's, if it knows them. Called instead of
    /// [`Agent::choose`] at the first decision of a match. A best response then uses these chances instead of
    /// estimating them from draws.
    fn shares(&mut self, _sight: &Sight<'_, G>, _options: &[G::Action]) -> Option<Vec<f64>> {
        None
    }
    /// Called once after the last tick.
    fn end(&mut self, _verdict: &Verdict) {}
    /// Turns into the agent of another match, as if built anew for this person; [`Agent::begin`] follows. Returns false
    /// if it cannot, and another is built instead. Nothing that it keeps may affect later behaviour, not even the
    /// layout of a table that grew. Worth implementing for costly agents (processes) or very short matches.
    fn renew(&mut self, _person: &Person) -> bool {
        false
    }
    /// Returns the pace of its decisions.
    fn pace(&self) -> Pace {
        Pace::Quick
    }
    /// Returns the cost of the last decision, if the agent searches.
    fn spent(&self) -> Option<Spent> {
        None
    }
    /// Returns the values of its last decision; after a panic the values found so far.
    fn thoughts(&self) -> Option<Thoughts<G::Action>> {
        None
    }
    /// Appends shapes of its beliefs at the last decision, in the units of the game's scene: presumed places of the
    /// others, memories. Called with the perception of that decision; by default empty.
    fn believes(&self, _sight: &Sight<'_, G>, _into: &mut Vec<Shape>) {}
    /// Makes `thoughts` value every option, and the replies down to this many layers, from now on. Slower; changes no
    /// choice.
    fn reflect(&mut self, _layers: u32) {}
}

/// The reason why an agent cannot decide, in words. One word wide, so that a choice costs no more for it.
#[derive(Clone, Debug, PartialEq, Eq)]
#[expect(clippy::box_collection, reason = "a thin pointer fits beside a small action in registers")]
pub struct GaveUp(Box<String>);

impl GaveUp {
    /// Gives up for this reason.
    pub fn because(reason: impl fmt::Display) -> Self {
        Self(Box::new(reason.to_string()))
    }
}

impl fmt::Display for GaveUp {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "gave up: {}", self.0)
    }
}

/// Pace of an agent's decisions: whether it thinks by the clock, and for how long.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Pace {
    /// Decisions so short that timing a sample of them is enough.
    Quick,
    /// Long enough to time each.
    Thinks,
    /// At most this long by the clock; one that takes longer by much is late, which is a fault.
    Within(Duration),
}

/// The input of a decision: the seat's perception, and all that the game derives from it.
///
/// The true state is out of reach: an agent cannot peek.
pub struct Sight<'a, G: Game> {
    game: &'a G,
    seat: Seat,
    tick: u64,
    halt: &'a Halt,
}

impl<'a, G: Game> Sight<'a, G> {
    /// Builds the sight of `seat` on a true or imagined state.
    #[inline]
    pub fn new(game: &'a G, seat: Seat, tick: u64) -> Self {
        Self { game, seat, tick, halt: &NEVER }
    }

    /// The same for a decision that may be asked to stop.
    #[inline]
    #[must_use]
    pub fn heeding(self, halt: &'a Halt) -> Self {
        Self { halt, ..self }
    }

    /// Returns the request to stop this decision: a long search checks it now and then, and decides at once after it is
    /// called.
    #[inline]
    pub fn halt(&self) -> &'a Halt {
        self.halt
    }

    /// Makes the view of the seat anew at each call.
    #[inline(always)]
    pub fn view(&self) -> G::View {
        self.game.view(self.seat)
    }

    /// The seat that decides.
    pub fn seat(&self) -> Seat {
        self.seat
    }

    /// Ticks or turns since the match began.
    pub fn tick(&self) -> u64 {
        self.tick
    }

    /// The score of a seat, if this seat may know it.
    pub fn score(&self, of: Seat) -> Option<f64> {
        if self.game.knows_score(self.seat, of) { self.game.scores().get(of).copied() } else { None }
    }
}

impl<G: Options> Sight<'_, G> {
    /// The seat's legal options now, written over `into`.
    pub fn options(&self, into: &mut Vec<G::Action>) {
        into.clear();
        self.game.options(self.seat, into);
    }

    /// A random action of the seat.
    pub fn draw(&self, chance: &mut Chance) -> G::Action {
        self.game.draw(self.seat, chance)
    }

    /// `action` if it is legal now, else the legal one most like it.
    pub fn repair(&self, action: &G::Action) -> G::Action {
        self.game.repair(self.seat, action)
    }
}

impl<G: Features> Sight<'_, G> {
    /// Writes the seat's perception as numbers into `into`.
    #[inline]
    pub fn observe(&self, into: &mut Vec<f32>) {
        self.game.observe(self.seat, into);
    }

    /// The legal action that comes nearest to an intent.
    #[inline]
    pub fn act(&self, intent: Intent<'_>) -> G::Action {
        self.game.act(self.seat, intent)
    }
}

impl<G: Imagine> Sight<'_, G> {
    /// A state that fits all that the seat knows, for thinking ahead; none if the game cannot give one.
    pub fn imagine(&self, chance: &mut Chance) -> Option<G> {
        self.game.imagine(self.seat, chance)
    }
}
