//! The held match of a concrete game.

use std::borrow::Cow;
use std::sync::Arc;

use serde_json::Value;

use crate::fall::catch;
use crate::held::{Considered, HeldMatch};
use crate::record::Played;
use crate::setup::Setup;
use crate::{
    Acting, Agent, Fall, Game, MatchTable, Playable, Record, Rows, Scene, Seat, Shape, Spot, TICK_LIMIT, Thoughts,
};

/// A table with its setup, opened by a stage.
pub(crate) struct HeldTable<G: Game> {
    setup: Arc<Setup<G>>,
    spot: Spot,
    seating: Vec<usize>,
    table: Option<MatchTable<G>>,
    /// The tick at which a person left it, where it is played by record.
    left_at: Option<u64>,
    /// The result, once the match is over.
    played: Option<Played>,
}

/// The agents of a held match.
pub(crate) struct Cast<G: Game> {
    /// By seat, the place in the cast.
    pub(crate) seating: Vec<usize>,
    /// By place in the cast, an agent that remembers the matches before; none of one that is made for this match.
    pub(crate) remembering: Vec<Option<Box<dyn Agent<G>>>>,
}

impl<G: Game> Cast<G> {
    /// Agents that are all made for this match.
    pub(crate) fn seated(seating: Vec<usize>) -> Self {
        Self { remembering: seating.iter().map(|_| None).collect(), seating }
    }
}

/// Writes something of the game as JSON. Errs with the serialiser's reason.
fn json(what: &str, value: impl serde::Serialize) -> Result<Value, String> {
    serde_json::to_value(value).map_err(|error| format!("{what} cannot be written as JSON: {error}"))
}

/// Serialises a value for an onlooker: an error stands in its place.
fn shown(what: &str, value: impl serde::Serialize) -> Value {
    json(what, value).unwrap_or_else(Value::String)
}

impl<G: Playable> HeldTable<G> {
    /// Lets everybody sit down at a table; `begun` may have fallen already.
    pub(crate) fn begin(
        setup: Arc<Setup<G>>,
        spot: Spot,
        cast: Cast<G>,
        record: &Record,
        begun: Result<MatchTable<G>, String>,
    ) -> Self {
        let Cast { seating, mut remembering } = cast;
        let seated = begun.map_err(|message| (None, message)).and_then(|mut table| {
            if spot.leads {
                table.keep_leads();
            }
            table.keep_choices(setup.recorded(&seating));
            let agent = |(seat, &who): (Seat, &usize)| {
                let recorded = record.player(seat).map_err(|message| (None, message))?;
                if let Some(agent) = recorded.or_else(|| remembering[who].take()) {
                    return Ok(agent);
                }
                let made = catch(|| setup.agent(who, setup.person(who, spot)));
                let made = made.and_then(|made| made.map_err(|gave_up| gave_up.to_string()));
                made.map_err(|message| (Some(seat), message))
            };
            let agents = seating.iter().enumerate().map(agent).collect::<Result<Vec<_>, _>>()?;
            for (seat, agent) in agents.into_iter().enumerate() {
                let seated = catch(|| table.sit(agent, setup.seat_chance(spot, seat)));
                seated.map_err(|message| (Some(seat), message))?;
            }
            Ok(table)
        });
        let (table, played) = match seated {
            Ok(table) => (Some(table), None),
            Err((by, message)) => (None, Some(Played::never(message, by, setup.seats()))),
        };
        let mut held = Self { setup, spot, seating, table, left_at: record.left_at(), played };
        held.look();
        held
    }

    /// Notices when the match is over.
    pub(crate) fn look(&mut self) {
        let Some(table) = self.table.as_mut().filter(|_| self.played.is_none()) else { return };
        if self.left_at.is_some_and(|left| table.tick() >= left) {
            self.played = Some(Played::abandoned());
            return;
        }
        let ended = catch(|| {
            let over = table.tick() >= TICK_LIMIT || table.stepper().acting() == Acting::Nobody;
            over.then(|| table.finish())
        });
        match ended {
            Ok(None) => {}
            Ok(Some(ended)) => self.played = Some(Played::of(Ok(ended), table)),
            Err(message) => self.played = Some(Played::of(Err(message), table)),
        }
    }

    /// Does something at the table that may fall, unless the match is over.
    pub(crate) fn at_table<T>(&mut self, what: impl FnOnce(&mut MatchTable<G>) -> Result<T, Fall>) -> Option<T> {
        let table = self.table.as_mut().filter(|_| self.played.is_none())?;
        let done = catch(|| {
            let done = what(table);
            table.sound().and(done)
        });
        match done {
            Ok(Ok(done)) => Some(done),
            Ok(Err(fall)) => {
                self.played = Some(Played::of(Ok(Err(fall)), table));
                None
            }
            Err(message) => {
                self.played = Some(Played::of(Err(message), table));
                None
            }
        }
    }

    /// Whether the match is over.
    pub(crate) fn is_over(&self) -> bool {
        self.played.is_some()
    }

    /// Reads something off the state; none where the game falls over it, or the match never began.
    pub(crate) fn look_at<T>(&self, what: impl FnOnce(&G) -> T) -> Option<T> {
        let table = self.table.as_ref()?;
        catch(|| what(table.game())).ok()
    }

    /// Appends the rows of the match as it stands: cut short now, where it is not over.
    pub(crate) fn record(&self, rows: &mut Rows) {
        let standing = || {
            let table = self.table.as_ref()?;
            catch(|| table.cut_short("under way")).ok().map(Played::out)
        };
        let never = || Played::never("the match never began".into(), None, 0);
        if let Some(played) = &self.played {
            self.setup.record(self.spot, &self.seating, played, self.table.as_ref(), rows);
        } else {
            let played = standing().unwrap_or_else(never);
            self.setup.record(self.spot, &self.seating, &played, self.table.as_ref(), rows);
        }
    }

    fn weighed(&self, seat: Seat) -> Option<Thoughts<Value>> {
        let table = self.table.as_ref()?;
        // An agent that panicked may panic again when asked for its thoughts.
        let thoughts = catch(|| table.players().thoughts(seat)).ok()??;
        Some(thoughts.map(&|action: &G::Action| shown("an action", action)))
    }
}

impl<G: Playable> HeldMatch for HeldTable<G> {
    fn seats(&self) -> usize {
        self.setup.seats()
    }

    fn entrant(&self, seat: Seat) -> u16 {
        self.setup.entrant(self.seating[seat])
    }

    fn tick(&self) -> u64 {
        self.table.as_ref().map_or(0, MatchTable::tick)
    }

    fn scores(&self) -> &[f64] {
        let scores = self.table.as_ref().and_then(|table| catch(|| table.game().scores()).ok());
        scores.unwrap_or_default()
    }

    fn scored_by(&self) -> Option<String> {
        self.look_at(|game| game.scored_by().map(Cow::into_owned))?
    }

    fn known_scores(&mut self, seat: Seat) -> Vec<Option<f64>> {
        let seats = self.seats();
        let known = |table: &mut MatchTable<G>| {
            let sight = table.sight(seat);
            Ok((0..seats).map(|of| sight.score(of)).collect())
        };
        self.at_table(known).unwrap_or_else(|| vec![None; seats])
    }

    fn pending(&self) -> Vec<Seat> {
        let mut seats = Vec::new();
        if let Some(table) = self.table.as_ref().filter(|_| self.played.is_none()) {
            // A game that falls here falls again at the next turn, which ends the match.
            let _ = catch(|| table.pending(&mut seats));
        }
        seats
    }

    fn view(&mut self, seat: Seat) -> Value {
        self.at_table(|table| json("a view", table.sight(seat).view()).map_err(Fall::Game)).unwrap_or(Value::Null)
    }

    fn options(&self, seat: Seat) -> Option<Vec<Value>> {
        let list = self.setup.abilities.options?;
        let table = self.table.as_ref()?;
        let mut options = Vec::new();
        catch(|| list(table.game(), seat, &mut options)).ok()?;
        Some(options.iter().map(|option| shown("an action", option)).collect())
    }

    fn scene(&self) -> Option<Scene> {
        let draw = self.setup.abilities.pictures?.scene;
        let mut scene = Scene::default();
        self.look_at(|game| draw(game, &mut scene))?;
        Some(scene)
    }

    fn perceived(&self, seat: Seat) -> Vec<Shape> {
        let mut shapes = Vec::new();
        if let (Some(pictures), Some(table)) = (self.setup.abilities.pictures, self.table.as_ref()) {
            // Who falls over what it draws is left out of the picture.
            let _ = catch(|| (pictures.sight)(table.game(), seat, &mut shapes));
            let _ = catch(|| table.players().believes(table.game(), seat, table.tick(), &mut shapes));
        }
        shapes
    }

    fn place(&self, seat: Seat) -> Option<[f64; 2]> {
        let place = self.setup.abilities.pictures?.place;
        self.look_at(|game| place(game, seat))?
    }

    fn note(&self) -> Option<String> {
        let positions = self.setup.abilities.positions?;
        let table = self.table.as_ref()?;
        catch(|| (positions.note)(table.game())).ok()
    }

    fn reflect(&mut self, layers: u32) {
        self.at_table(|table| {
            table.reflect(layers);
            Ok(())
        });
    }

    fn consider(&mut self, seat: Seat) -> Considered {
        let view = self.view(seat);
        let action = self.at_table(|table| {
            table.decide(seat)?;
            let written = |action| json("an action", action).map_err(Fall::Game);
            table.stepper().choices().get(seat).map_or(Ok(Value::Null), written)
        });
        let fell = || self.played.as_ref().and_then(Played::reason).unwrap_or("the match is over").to_string();
        Considered { view, action: action.ok_or_else(fell), thoughts: self.weighed(seat) }
    }

    fn choose(&mut self, seat: Seat, action: Value) -> Result<(), String> {
        let action: G::Action = serde_json::from_value(action).map_err(|error| error.to_string())?;
        self.at_table(|table| {
            table.choose(seat, action);
            Ok(())
        });
        Ok(())
    }

    fn step(&mut self) -> bool {
        self.at_table(MatchTable::step);
        self.look();
        self.played.is_none()
    }

    fn turn(&mut self) -> bool {
        let stepped = self.at_table(MatchTable::turn) == Some(true);
        if !stepped || self.tick() >= TICK_LIMIT || self.left_at.is_some() {
            self.look();
        }
        self.played.is_none()
    }

    fn standing(&self, rows: &mut Rows) {
        self.record(rows);
    }

    fn by_hand(&self, seat: Seat, held: Option<usize>, tapped: Option<usize>) -> Option<Value> {
        let hand = self.setup.abilities.hand?;
        self.look_at(|game| shown("an action", hand(game, seat, held, tapped)))
    }

    fn abandon(mut self: Box<Self>, rows: &mut Rows) {
        self.look();
        let played = self.played.take().unwrap_or_else(Played::abandoned);
        self.setup.record(self.spot, &self.seating, &played, self.table.as_ref(), rows);
    }

    fn close(mut self: Box<Self>, rows: &mut Rows) {
        self.look();
        let left = self.at_table(|table| {
            let verdict = table.cut_short("left");
            table.comes_out(&verdict)?;
            table.end(&verdict);
            Ok(verdict)
        });
        let played = self.played.take().or(left.map(Played::out));
        let played = played.unwrap_or_else(|| Played::never("the match never began".into(), None, 0));
        self.setup.record(self.spot, &self.seating, &played, self.table.as_ref(), rows);
    }
}
