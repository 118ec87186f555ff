//! A held match: the rules, the players and the measurements together.

use crate::choices::ChoiceLog;
use crate::experience::Experience;
use crate::{Acting, Agent, Chance, Ending, Game, GaveUp, Halt, Players, Seat, SeatSet, Sight, Stepper, Verdict};

/// A match that no rule ends is cut short after this many ticks.
pub const TICK_LIMIT: u64 = 10_000_000;

/// One match under way with everybody at it.
///
/// [`MatchTable::play`] is the tight loop, in which every seat is decided by its own agent. Whoever holds a table may
/// do the same step by step: ask who is [`MatchTable::pending`], [`MatchTable::decide`] or [`MatchTable::choose`] for
/// each, and [`MatchTable::step`].
pub struct MatchTable<G: Game> {
    stepper: Stepper<G>,
    players: Players<G>,
    experience: Experience,
    /// The choices so far, where some are kept.
    log: Option<ChoiceLog<G::Action>>,
}

/// An error: the match could not be played to its end.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Fall {
    /// The game itself fell, with its reason.
    Game(String),
    /// The agent of a seat gave up, with its reason.
    Agent(Seat, GaveUp),
    /// The match was asked to stop.
    Halted,
}

/// A match looks this often, in ticks, whether it was asked to stop.
const HALT_EVERY: u64 = 256;

impl<G: Game> MatchTable<G> {
    /// A match at its start, with nobody seated yet; `world` is the game's own chance from here on.
    pub fn new(game: G, world: Chance) -> Self {
        let mut experience = Experience::default();
        experience.begin(game.scores());
        Self { stepper: Stepper::new(game, world), players: Players::nobody(), experience, log: None }
    }

    /// Another match at its start, in the memory of this one, with nobody seated yet.
    pub fn restart(&mut self, game: G, world: Chance) {
        self.experience.begin(game.scores());
        self.log = None;
        self.stepper.restart(game, world);
        self.players.leave().for_each(drop);
    }

    /// Lets the match, and its decisions, be asked to stop.
    pub fn heed(&mut self, halt: &Halt) {
        self.players.heed(halt);
    }

    /// Keeps how the lead changes, for the rows of the match.
    pub(crate) fn keep_leads(&mut self) {
        self.experience.keep_leads();
    }

    /// Keeps the choices of these seats from here on, for the rows of the match.
    pub(crate) fn keep_choices(&mut self, seats: SeatSet) {
        self.log = (!seats.is_empty()).then(|| ChoiceLog::of(seats));
    }

    /// The choices so far, where some are kept.
    pub(crate) fn log(&self) -> Option<&ChoiceLog<G::Action>> {
        self.log.as_ref()
    }

    /// Gives the next seat to an agent, and lets it begin with its own chance.
    pub fn sit(&mut self, agent: Box<dyn Agent<G>>, chance: Chance) {
        self.players.sit(agent, chance);
    }

    /// All stand up, in order of seat.
    pub fn leave(&mut self) -> impl Iterator<Item = Box<dyn Agent<G>>> {
        self.players.leave()
    }

    /// Returns the state, for holders of the match.
    pub fn game(&self) -> &G {
        self.stepper.game()
    }

    /// The rules under way.
    pub fn stepper(&self) -> &Stepper<G> {
        &self.stepper
    }

    /// The players.
    pub fn players(&self) -> &Players<G> {
        &self.players
    }

    /// Ticks so far.
    pub fn tick(&self) -> u64 {
        self.stepper.tick()
    }

    pub(crate) fn experience(&self) -> &Experience {
        &self.experience
    }

    /// Writes over `into` the seats that must choose before the next step and have not, in order of seat; nobody once
    /// the match is over.
    #[inline]
    pub fn pending(&self, into: &mut Vec<Seat>) {
        into.clear();
        let stepper = &self.stepper;
        stepper.acting().for_each(stepper.game().seats(), |seat| {
            if stepper.choices().get(seat).is_none() {
                into.push(seat);
            }
        });
    }

    /// The sight of a seat.
    pub fn sight(&self, seat: Seat) -> Sight<'_, G> {
        Sight::new(self.stepper.game(), seat, self.stepper.tick())
    }

    /// Makes every agent value its options from now on, this many layers deep, for readers of its thoughts.
    pub fn reflect(&mut self, layers: u32) {
        self.players.reflect(layers);
    }

    /// Lets the agent of a seat decide, and takes its choice for the coming step.
    #[inline]
    pub fn decide(&mut self, seat: Seat) -> Result<(), Fall> {
        self.seated(seat)?;
        let action = self.players.decide(self.stepper.game(), seat, self.stepper.tick());
        self.stepper.choose(seat, action.map_err(|reason| Fall::Agent(seat, reason))?);
        Ok(())
    }

    /// Gives the choice of a seat for the coming step, in place of its agent.
    pub fn choose(&mut self, seat: Seat, action: G::Action) {
        self.stepper.choose(seat, action);
    }

    /// One tick with the choices given; a seat that acts without one is at fault.
    #[inline(always)]
    pub fn step(&mut self) -> Result<(), Fall> {
        self.players.rest();
        if let Some(log) = &mut self.log {
            log.take(self.stepper.choices(), self.players.seats());
        }
        self.stepper.step().map_err(Fall::Game)?;
        self.experience.look(self.stepper.tick(), self.stepper.game().scores());
        self.sound()
    }

    /// One tick in which every seat that has not chosen is decided by its own agent. False once the match is over.
    #[inline(always)]
    pub fn turn(&mut self) -> Result<bool, Fall> {
        let Self { stepper, players, .. } = self;
        let seats = players.seats();
        let decide = |game: &G, seat, tick| {
            if seat >= seats {
                return Err(nobody_there(seat, seats));
            }
            players.decide(game, seat, tick).map_err(|why| Fall::Agent(seat, why))
        };
        let collected = stepper.collect(decide);
        // A fault of the game comes first: its agents may have failed over what it showed them.
        self.sound()?;
        if !collected? {
            return Ok(false);
        }
        self.step()?;
        Ok(true)
    }

    /// Plays the match to its end, or to `tick_limit`, each seat decided by its own agent.
    ///
    /// Buffers are reused: nothing is allocated a tick by the loop itself. Errs when the game falls or an agent gives
    /// up.
    pub fn play(&mut self, tick_limit: u64) -> Result<Verdict, Fall> {
        while self.stepper.tick() < tick_limit && self.turn()? {
            if self.stepper.tick().is_multiple_of(HALT_EVERY) && self.players.is_halted() {
                return Err(Fall::Halted);
            }
        }
        self.finish()
    }

    /// Errs where something went wrong in the game at any call.
    #[inline(always)]
    pub(crate) fn sound(&self) -> Result<(), Fall> {
        self.stepper.game().fault().map_or(Ok(()), |reason| Err(Fall::Game(reason)))
    }

    /// Errs where nobody sits at a seat.
    fn seated(&self, seat: Seat) -> Result<(), Fall> {
        let seats = self.players.seats();
        if seat < seats { Ok(()) } else { Err(nobody_there(seat, seats)) }
    }

    /// Errs where a match cannot have come out so: with other places than there are, or without a score for each seat.
    pub(crate) fn comes_out(&self, verdict: &Verdict) -> Result<(), Fall> {
        let (seats, scores) = (self.players.seats(), self.stepper.game().scores());
        if scores.len() != seats {
            return Err(Fall::Game(format!("its scores are {scores:?} for {seats} seats")));
        }
        verdict.check(scores).map_err(Fall::Game)
    }

    /// Ends the match: by its rules where it is over, else cut short at the tick limit. Tells the agents.
    pub fn finish(&mut self) -> Result<Verdict, Fall> {
        self.sound()?;
        let verdict = if self.stepper.acting() == Acting::Nobody {
            let missing = || Fall::Game("nobody acts, yet the game gives no verdict".into());
            self.stepper.verdict().ok_or_else(missing)?
        } else {
            self.cut_short("tick limit")
        };
        self.comes_out(&verdict)?;
        self.sound()?;
        self.end(&verdict);
        Ok(verdict)
    }

    /// Tells the agents how it came out.
    pub fn end(&mut self, verdict: &Verdict) {
        self.players.farewell(verdict);
    }

    /// Returns the verdict of a match cut short now for this reason.
    pub fn cut_short(&self, why: &'static str) -> Verdict {
        Verdict::by_score(self.stepper.game().scores(), Ending::CutShort(why.into()))
    }
}

#[cold]
fn nobody_there(seat: Seat, seats: usize) -> Fall {
    Fall::Game(format!("it lets seat {seat} act, and there are {seats} seats, counted from 0"))
}
