//! A stage: one concrete setting of a game, ready to play matches. Static inside, `dyn` outside.
//!
//! `Stage::play_block` plays the matches of a block in order. An agent that remembers (`AgentKind::remembering`) lasts for the block; a match that is played or
//! opened alone is preceded by those before it. `Stage::open_recorded` plays recorded seats by the choices in their rows; other seats are replayed and must match.

use std::sync::Arc;

use crate::fall::catch;
use crate::held::HeldMatch;
use crate::held_table::{Cast, HeldTable};
use crate::record::Played;
use crate::setup::{PositionError, Setup};
use crate::{Agent, Chance, Game, Halt, MatchTable, Playable, Record, Rows, Seat, Spot, TICK_LIMIT};

/// Plays any match of its setting and returns the rows. Costly parts are kept from match to match, without effect on
/// results.
pub trait Stage: Send {
    /// Matches of a block.
    fn matches_a_block(&self) -> usize;
    /// Lets matches and decisions from now on be asked to stop. The rows of one that was under way then mean nothing.
    fn heed(&mut self, halt: &Halt);
    /// Plays one match and appends its rows, one a seat in order of seat. Where an agent remembers the matches of its
    /// block, those before it are played first, unless they just were.
    fn play(&mut self, spot: Spot, rows: &mut Rows);
    /// Plays all matches of a block in order and appends their rows; `first` is the first of them.
    fn play_block(&mut self, first: Spot, rows: &mut Rows) {
        for number in 0..self.matches_a_block() {
            let match_index = first.match_index + number as u64;
            self.play(Spot { rotation: number, match_index, ..first }, rows);
        }
    }
    /// The same match at its start, for somebody to hold.
    fn open(&self, spot: Spot) -> Box<dyn HeldMatch>;
    /// Opens a match in which some seats are played by their records.
    fn open_recorded(&self, spot: Spot, record: &Record) -> Box<dyn HeldMatch>;
    /// A match that begins at a position written as text, or at the plain start, for somebody to hold.
    fn open_at(&self, position: Option<&str>) -> Result<Box<dyn HeldMatch>, PositionError>;
}

/// The stage of a concrete game.
pub(crate) struct StageOf<G: Game> {
    setup: Arc<Setup<G>>,
    seating: Vec<usize>,
    halt: Halt,
    /// The table of the match before, whose memory the next takes over.
    table: Option<MatchTable<G>>,
    /// Agents of matches before, by the place in the cast.
    agents: Vec<Option<Box<dyn Agent<G>>>>,
    /// The match that comes next for agents that remember: its block, and its number there.
    next: Option<(u64, usize)>,
}

impl<G: Game> StageOf<G> {
    pub(crate) fn new(setup: Setup<G>) -> Self {
        Self::of(Arc::new(setup))
    }

    fn of(setup: Arc<Setup<G>>) -> Self {
        let agents = (0..setup.seats()).map(|_| None).collect();
        Self { setup, seating: Vec::new(), halt: Halt::never(), table: None, agents, next: None }
    }

    /// Puts everybody at the table for a match. Errs with the message of a panic, and the seat whose agent it was.
    fn deal(&mut self, spot: Spot) -> Result<(), (Option<Seat>, String)> {
        let Self { setup, seating, halt, table, agents, next } = self;
        let goes_on = spot.rotation > 0 && *next == Some((spot.block, spot.rotation));
        let laid = catch(|| setup.laid(spot)).map_err(|message| (None, message))?;
        let (game, world) = laid.map_err(|message| (None, message))?;
        // What was used before goes before anything is caught: if that falls, it is no fault of this match.
        let table = match table {
            Some(table) => {
                table.restart(game, world);
                table
            }
            None => table.insert(MatchTable::new(game, world)),
        };
        table.heed(halt);
        if spot.leads && setup.has_course() {
            table.keep_leads();
        }
        table.keep_choices(setup.recorded(seating));
        // All agents are there before the first begins.
        for (seat, &who) in seating.iter().enumerate() {
            let by = |message| (Some(seat), message);
            let person = setup.person(who, spot);
            let stays = if setup.remembers[who] {
                goes_on && agents[who].is_some()
            } else {
                let renewed = agents[who].as_mut().map(|agent| catch(|| agent.renew(&person)).map_err(by));
                renewed.transpose()? == Some(true)
            };
            if !stays {
                drop(agents[who].take());
                let made = catch(|| setup.agent(who, person)).map_err(by)?;
                agents[who] = Some(made.map_err(|gave_up| by(gave_up.to_string()))?);
            }
        }
        for (seat, &who) in seating.iter().enumerate() {
            if let Some(agent) = agents[who].take() {
                let seated = catch(|| table.sit(agent, setup.seat_chance(spot, seat)));
                seated.map_err(|message| (Some(seat), message))?;
            }
        }
        Ok(())
    }
}

impl<G: Playable> StageOf<G> {
    /// Plays the matches of a block that come before this one, where somebody remembers them and they were not played
    /// last.
    fn catch_up(&mut self, spot: Spot) {
        let is_due = self.setup.is_remembered() && spot.rotation > 0 && self.next != Some((spot.block, spot.rotation));
        if !is_due {
            return;
        }
        let mut rows = Rows::new(self.setup.sources.len());
        for rotation in 0..spot.rotation {
            rows.clear();
            self.play_next(Spot { rotation, leads: false, ..spot }, &mut rows);
        }
    }

    /// Plays a match with agents as they are.
    fn play_next(&mut self, spot: Spot, rows: &mut Rows) {
        self.setup.seating(spot, &mut self.seating);
        let begun = self.deal(spot);
        let (table, played) = match (&mut self.table, begun) {
            (Some(table), Ok(())) => {
                let played = catch(|| table.play(TICK_LIMIT));
                (Some(&*table), Played::of(played, table))
            }
            (_, begun) => {
                let (by, message) = begun.err().unwrap_or_default();
                (None, Played::never(message, by, self.setup.seats()))
            }
        };
        self.setup.record(spot, &self.seating, &played, table, rows);
        if let Some(table) = self.table.as_mut().filter(|_| !played.fell()) {
            for (agent, &who) in table.leave().zip(&self.seating) {
                self.agents[who] = Some(agent);
            }
        } else {
            // What has fallen is not used again; whoever remembered begins anew.
            self.table = None;
            self.agents.fill_with(|| None);
        }
        self.next = Some((spot.block, spot.rotation + 1));
    }
}

impl<G: Playable> Stage for StageOf<G> {
    fn matches_a_block(&self) -> usize {
        self.setup.matches_a_block()
    }

    fn heed(&mut self, halt: &Halt) {
        self.halt = halt.clone();
    }

    fn play(&mut self, spot: Spot, rows: &mut Rows) {
        self.catch_up(spot);
        self.play_next(spot, rows);
    }

    fn open(&self, spot: Spot) -> Box<dyn HeldMatch> {
        self.open_recorded(spot, &Record::default())
    }

    fn open_recorded(&self, spot: Spot, record: &Record) -> Box<dyn HeldMatch> {
        let mut seating = Vec::new();
        self.setup.seating(spot, &mut seating);
        let begun = catch(|| self.setup.laid(spot)).and_then(|laid| laid);
        let begun = begun.and_then(|(game, world)| catch(|| MatchTable::new(game, world)));
        let mut before = Self::of(self.setup.clone());
        before.heed(&self.halt);
        before.catch_up(spot);
        let remembering =
            before.agents.into_iter().zip(&self.setup.remembers).map(|(agent, stays)| agent.filter(|_| *stays));
        let cast = Cast { seating, remembering: remembering.collect() };
        Box::new(HeldTable::begin(self.setup.clone(), spot, cast, record, begun))
    }

    fn open_at(&self, position: Option<&str>) -> Result<Box<dyn HeldMatch>, PositionError> {
        let spot = Spot::default();
        let state = catch(|| self.setup.position(position));
        let state = state.map_err(|reason| PositionError::Fell { game: self.setup.game.clone(), reason })??;
        let world = Chance::from_seed(self.setup.world_seed(spot));
        let cast = Cast::seated((0..self.setup.seats()).collect());
        Ok(Box::new(HeldTable::begin(
            self.setup.clone(),
            spot,
            cast,
            &Record::default(),
            Ok(MatchTable::new(state, world)),
        )))
    }
}
