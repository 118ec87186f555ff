//! A stage: one concrete setting of a game, ready to play matches. Static inside, `dyn` outside.

use std::sync::Arc;

use crate::fall::catch;
use crate::held::HeldMatch;
use crate::held_table::HeldTable;
use crate::record::Played;
use crate::setup::{PositionError, Setup};
use crate::{Agent, Chance, Game, Halt, Playable, Record, Rows, Seat, Spot, TICK_LIMIT, Table};

/// Gives the rows of any match of its setting. What is costly to make is kept from match to match, with no bearing on
/// how they come out.
pub trait Stage: Send {
    /// Matches of a block.
    fn matches_a_block(&self) -> usize;
    /// Lets matches and decisions from now on be asked to stop. The rows of one that was under way then mean nothing.
    fn heed(&mut self, halt: &Halt);
    /// Plays one match and appends its rows, one a seat in order of seat.
    fn play(&mut self, spot: Spot, rows: &mut Rows);
    /// The same match at its start, for somebody to hold.
    fn open(&self, spot: Spot) -> Box<dyn HeldMatch>;
    /// The same where some seats are played by record, whoever sat there.
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
    table: Option<Table<G>>,
    /// Agents of matches before, by the place in the cast.
    agents: Vec<Option<Box<dyn Agent<G>>>>,
}

impl<G: Game> StageOf<G> {
    pub(crate) fn new(setup: Setup<G>) -> Self {
        let agents = (0..setup.seats()).map(|_| None).collect();
        Self { setup: Arc::new(setup), seating: Vec::new(), halt: Halt::never(), table: None, agents }
    }

    /// Puts everybody at the table for a match. Errs with the message of a panic, and the seat whose agent it was.
    fn deal(&mut self, spot: Spot) -> Result<(), (Option<Seat>, String)> {
        let Self { setup, seating, halt, table, agents } = self;
        let laid = catch(|| setup.laid(spot)).map_err(|message| (None, message))?;
        let (game, world) = laid.map_err(|message| (None, message))?;
        // What was used before goes before anything is caught: if that falls, it is no fault of this match.
        let table = match table {
            Some(table) => {
                table.restart(game, world);
                table
            }
            None => table.insert(Table::new(game, world)),
        };
        table.heed(halt);
        if spot.leads {
            table.keep_leads();
        }
        table.keep_choices(setup.recorded(seating));
        // All agents are there before the first begins.
        for (seat, &who) in seating.iter().enumerate() {
            let by = |message| (Some(seat), message);
            let person = setup.person(who, spot);
            let renewed = agents[who].as_mut().map(|agent| catch(|| agent.renew(&person)).map_err(by)).transpose()?;
            if renewed != Some(true) {
                drop(agents[who].take());
                agents[who] = Some(catch(|| setup.agent(who, person)).map_err(by)?);
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

impl<G: Playable> Stage for StageOf<G> {
    fn matches_a_block(&self) -> usize {
        self.setup.matches_a_block()
    }

    fn heed(&mut self, halt: &Halt) {
        self.halt = halt.clone();
    }

    fn play(&mut self, spot: Spot, rows: &mut Rows) {
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
            // What has fallen is not used again.
            self.table = None;
            self.agents.fill_with(|| None);
        }
    }

    fn open(&self, spot: Spot) -> Box<dyn HeldMatch> {
        self.open_recorded(spot, &Record::default())
    }

    fn open_recorded(&self, spot: Spot, record: &Record) -> Box<dyn HeldMatch> {
        let mut seating = Vec::new();
        self.setup.seating(spot, &mut seating);
        let begun = catch(|| self.setup.laid(spot)).and_then(|laid| laid);
        let begun = begun.and_then(|(game, world)| catch(|| Table::new(game, world)));
        Box::new(HeldTable::begin(self.setup.clone(), spot, seating, record, begun))
    }

    fn open_at(&self, position: Option<&str>) -> Result<Box<dyn HeldMatch>, PositionError> {
        let spot = Spot::default();
        let state = catch(|| self.setup.position(position));
        let state = state.map_err(|reason| PositionError::Fell { game: self.setup.game.clone(), reason })??;
        let world = Chance::from_seed(self.setup.world_seed(spot));
        let seating = (0..self.setup.seats()).collect();
        Ok(Box::new(HeldTable::begin(
            self.setup.clone(),
            spot,
            seating,
            &Record::default(),
            Ok(Table::new(state, world)),
        )))
    }
}
