//! A stage: one concrete setting of a game, ready to play matches. Static inside, `dyn` outside.

use std::sync::Arc;

use crate::fall::catch;
use crate::held::HeldMatch;
use crate::held_table::HeldTable;
use crate::record::Played;
use crate::setup::{PositionError, Setup};
use crate::{Agent, Chance, Game, Playable, Rows, Spot, TICK_LIMIT, Table};

/// Gives the rows of any match of its setting. What is costly to make is kept from match to match, with no bearing on
/// how they come out.
pub trait Stage: Send {
    /// Matches a block: the number of seats, times the rounds of a series.
    fn rotations(&self) -> usize;
    /// Plays one match and appends its rows, one a seat in order of seat.
    fn play(&mut self, spot: Spot, rows: &mut Rows);
    /// The same match at its start, for somebody to hold.
    fn open(&self, spot: Spot) -> Box<dyn HeldMatch>;
    /// A match that begins at a position written as text, or at the plain start, for somebody to hold.
    fn open_at(&self, position: Option<&str>) -> Result<Box<dyn HeldMatch>, PositionError>;
}

/// The stage of a concrete game.
pub(crate) struct StageOf<G: Game> {
    setup: Arc<Setup<G>>,
    seating: Vec<usize>,
    /// The table of the match before, whose memory the next takes over.
    table: Option<Table<G>>,
    /// Agents of matches before, by the place in the cast.
    agents: Vec<Option<Box<dyn Agent<G>>>>,
}

impl<G: Game> StageOf<G> {
    pub(crate) fn new(setup: Setup<G>) -> Self {
        let agents = (0..setup.seats()).map(|_| None).collect();
        Self { setup: Arc::new(setup), seating: Vec::new(), table: None, agents }
    }

    /// Puts everybody at the table for a match; errs with the message of a panic.
    fn deal(&mut self, spot: Spot) -> Result<(), String> {
        let Self { setup, seating, table, agents } = self;
        catch(|| {
            let mut world = Chance::from_seed(setup.world_seed(spot));
            let game = (setup.lay)(&mut world);
            let table = match table {
                Some(table) => {
                    table.restart(game, world);
                    table
                }
                None => table.insert(Table::new(game, world)),
            };
            if spot.leads {
                table.keep_leads();
            }
            // All agents are there before the first begins.
            for &who in &*seating {
                let person = setup.person(who, spot);
                if !agents[who].as_mut().is_some_and(|agent| agent.renew(&person)) {
                    agents[who] = Some(setup.agent(who, person));
                }
            }
            for (seat, &who) in seating.iter().enumerate() {
                if let Some(agent) = agents[who].take() {
                    table.sit(agent, setup.seat_chance(spot, seat));
                }
            }
        })
    }
}

impl<G: Playable> Stage for StageOf<G> {
    fn rotations(&self) -> usize {
        self.setup.rotations()
    }

    fn play(&mut self, spot: Spot, rows: &mut Rows) {
        self.setup.seating(spot, &mut self.seating);
        let begun = self.deal(spot);
        let (table, played) = match (&mut self.table, begun) {
            (Some(table), Ok(())) => {
                let played = catch(|| table.play(TICK_LIMIT));
                (Some(&*table), Played::of(played, table))
            }
            (_, begun) => (None, Played::never(begun.err().unwrap_or_default())),
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
        let mut seating = Vec::new();
        self.setup.seating(spot, &mut seating);
        let begun = catch(|| {
            let mut world = Chance::from_seed(self.setup.world_seed(spot));
            Table::new((self.setup.lay)(&mut world), world)
        });
        Box::new(HeldTable::begin(self.setup.clone(), spot, seating, begun))
    }

    fn open_at(&self, position: Option<&str>) -> Result<Box<dyn HeldMatch>, PositionError> {
        let spot = Spot::default();
        let state = self.setup.position(position)?;
        let world = Chance::from_seed(self.setup.world_seed(spot));
        let seating = (0..self.setup.seats()).collect();
        Ok(Box::new(HeldTable::begin(self.setup.clone(), spot, seating, Ok(Table::new(state, world)))))
    }
}
