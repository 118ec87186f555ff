//! A stage: one concrete setting of a game, ready to play matches. Static inside, `dyn` outside.

use serde::Serialize;

use crate::entry::GameFactory;
use crate::experience::{Experience, Feel};
use crate::fall::catch;
use crate::play::{Decision, Fall, Observer, Players, TICK_LIMIT, Unobserved, play};
use crate::{
    Agent, Chance, DecisionTimes, Ending, Game, Measured, Outcome, Person, Row, Rows, Seat, Setting, Stepper, Streams,
    Verdict,
};

/// Makes one agent a match, given the person it plays in the block.
pub type Factory<G> = Box<dyn Fn(Person) -> Box<dyn Agent<G>> + Send + Sync>;

/// Which match of a study.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Spot {
    /// Pairing or point.
    pub cell: u32,
    /// Block within the cell.
    pub block: u64,
    /// Number of the match within the block: the rotation of the entrants over the seats, round by round of a series.
    pub rotation: usize,
    /// Number of the match in the study.
    pub match_index: u64,
}

/// One moment of a match that is told while it is played.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[serde(rename_all = "snake_case", tag = "event")]
#[expect(
    missing_docs,
    reason = "ticks since the start, the seat, what it perceived, chose and weighed as JSON, scores by seat"
)]
pub enum Moment {
    /// A seat perceived something and chose.
    Choice {
        tick: u64,
        seat: Seat,
        view: serde_json::Value,
        action: serde_json::Value,
        #[serde(skip_serializing_if = "serde_json::Value::is_null")]
        thoughts: serde_json::Value,
    },
    /// The scores changed.
    Score { tick: u64, scores: Vec<f64> },
}

/// Gives the rows of any match of its setting.
pub trait Stage: Send + Sync {
    /// Matches a block: the number of seats, times the rounds of a series.
    fn rotations(&self) -> usize;
    /// Plays one match and appends its rows, one a seat in order of seat.
    fn play(&self, spot: Spot, rows: &mut Rows);
    /// The same, and tells every moment on the way; `choices` says whether perceptions and choices are wanted too.
    fn tell(&self, spot: Spot, choices: bool, listener: &mut dyn FnMut(Moment), rows: &mut Rows);
}

/// The stage of a concrete game.
pub(crate) struct StageOf<G: Game> {
    lay: GameFactory<G>,
    factories: Vec<Factory<G>>,
    entrants: Vec<u16>,
    streams: Streams,
    series: usize,
    feels: Vec<Feel>,
    a_second: f64,
    width: usize,
}

impl<G: Game + Measured> StageOf<G>
where
    G::Action: Serialize,
    G::View: Serialize,
{
    pub(crate) fn new(lay: GameFactory<G>, factories: Vec<Factory<G>>, setting: &Setting, feels: Feels) -> Self {
        let entrants = setting.cast.iter().map(|casting| casting.entrant).collect();
        let (streams, series) = (Streams::of_study(setting.study_seed), setting.series as usize);
        let Feels { own, added, a_second } = feels;
        Self { lay, factories, entrants, streams, series, width: own + added.len(), feels: added, a_second }
    }

    fn run<O: Observer<G>>(&self, spot: Spot, reflect: bool, inner: &mut O, rows: &mut Rows) {
        let seating = self.seating(spot);
        let world_seed = self.streams.world_seed(spot.block, spot.rotation / self.factories.len());
        let mut table: Option<(Stepper<G>, Players<G>)> = None;
        let mut experience = Experience::new(&[]);
        let played = catch(|| {
            let mut world = Chance::from_seed(world_seed);
            let game = (self.lay)(&mut world);
            experience = Experience::new(game.scores());
            let agents = seating.iter().map(|&who| self.agent(who, spot)).collect();
            let players = Players::seat(agents, |seat| self.streams.seat(spot.block, spot.rotation, seat));
            let (stepper, players) = table.insert((Stepper::new(game, world), players));
            if reflect {
                players.reflect();
            }
            play(stepper, players, &mut Felt { inner, experience: &mut experience }, TICK_LIMIT)
        });
        let told = match played {
            Ok(Ok(verdict)) => Told { verdict: Some(verdict), incident: None, by: None },
            Ok(Err(Fall::Game(reason))) => Told { verdict: None, incident: Some(reason), by: None },
            Err(message) => Told::after_panic(message, table.as_ref()),
        };
        let mut feelings = Vec::with_capacity(self.feels.len());
        let ticks = table.as_ref().map_or(0, |(stepper, _)| stepper.tick());
        experience.figures(&self.feels, ticks, self.a_second, &mut feelings);
        self.write(spot, world_seed, (&seating, &feelings), &told, table.as_ref(), rows);
    }

    fn agent(&self, who: usize, spot: Spot) -> Box<dyn Agent<G>> {
        let chance = self.streams.person(spot.block, usize::from(self.entrants[who]));
        (self.factories[who])(Person { chance, matches_before: spot.rotation as u32 })
    }

    /// Who sits where: the cyclic shift of the entrants by the rotation; three and more are shuffled first.
    fn seating(&self, spot: Spot) -> Vec<usize> {
        let mut order: Vec<usize> = (0..self.factories.len()).collect();
        if order.len() > 2 {
            self.streams.order(spot.block).shuffle(&mut order);
        }
        order.rotate_left(spot.rotation % self.factories.len());
        order
    }

    fn write(
        &self,
        spot: Spot,
        world_seed: u64,
        (seating, feelings): (&[usize], &[f64]),
        told: &Told,
        table: Option<&(Stepper<G>, Players<G>)>,
        rows: &mut Rows,
    ) {
        let placements = told.verdict.as_ref().map(|verdict| verdict.placement.as_slice()).unwrap_or_default();
        for (seat, &who) in seating.iter().enumerate() {
            let stepper = table.map(|(stepper, _)| stepper);
            let start = rows.measures.len();
            // A game that panicked may panic again when asked for its figures.
            let mut measured = Vec::with_capacity(self.width);
            let asked = stepper.map(|stepper| catch(|| stepper.game().measures(seat, &mut measured)));
            if asked.is_none_or(|asked| asked.is_err()) {
                measured.clear();
            }
            rows.measures.append(&mut measured);
            rows.measures.resize(start + self.width - feelings.len(), f64::NAN);
            rows.measures.extend_from_slice(feelings);
            let placement = placements.get(seat).copied().unwrap_or(0);
            rows.rows.push(Row {
                cell: spot.cell,
                block: spot.block,
                rotation: spot.rotation as u16,
                match_index: spot.match_index,
                seat: seat as u16,
                entrant: self.entrants[who],
                world_seed,
                score: stepper.and_then(|stepper| stepper.game().scores().get(seat).copied()).unwrap_or(f64::NAN),
                outcome: if placements.is_empty() { Outcome::Void } else { Outcome::of(placement, placements) },
                placement,
                ticks: stepper.map_or(0, Stepper::tick),
                ending: told.verdict.as_ref().map_or("void".into(), |verdict| verdict.ending.word().clone()),
                cut_short: told.verdict.as_ref().is_some_and(|verdict| verdict.ending.cut_short()),
                faults: stepper.map_or(0, |stepper| stepper.faults()[seat])
                    + u32::from(told.by == Some(seat))
                    + table.map_or(0, |(_, players)| players.late(seat)),
                decision_us: table.map_or(f32::NAN, |(_, players)| players.decision_us(seat)),
                decision_times: table
                    .and_then(|(_, players)| players.decision_times(seat))
                    .map(DecisionTimes::to_bytes),
                nodes: table.map_or(0.0, |(_, players)| players.nodes(seat)),
                incident: told.incident.clone(),
            });
        }
    }
}

/// The measures of a stage: how many the game gives itself, which are added, and ticks a second.
pub(crate) struct Feels {
    pub(crate) own: usize,
    pub(crate) added: Vec<Feel>,
    pub(crate) a_second: f64,
}

/// Keeps up the measures that every game has, beside another observer.
struct Felt<'a, O> {
    inner: &'a mut O,
    experience: &'a mut Experience,
}

impl<G: Game, O: Observer<G>> Observer<G> for Felt<'_, O> {
    #[inline]
    fn decided(&mut self, tick: u64, decision: &Decision<'_, G>) {
        self.inner.decided(tick, decision);
    }

    #[inline]
    fn advanced(&mut self, tick: u64, game: &G) {
        self.inner.advanced(tick, game);
        self.experience.look(tick, game.scores());
    }
}

/// How a match came out, falls included.
struct Told {
    verdict: Option<Verdict>,
    incident: Option<String>,
    by: Option<Seat>,
}

impl Told {
    /// The seat whose agent panicked forfeits: last place, the others tie before it. A match whose game panicked, or
    /// that never began, is void.
    fn after_panic<G: Game>(message: String, table: Option<&(Stepper<G>, Players<G>)>) -> Self
    where
        G::Action: Serialize,
    {
        let Some((stepper, players)) = table else {
            return Self { verdict: None, incident: Some(message), by: None };
        };
        let seats = players.seats();
        let choices: Vec<_> = (0..seats).map(|seat| stepper.choices().get(seat)).collect();
        let choices = serde_json::to_string(&choices).unwrap_or_default();
        let by = players.deciding();
        let who = by.map_or("the game".to_string(), |seat| format!("seat {seat}"));
        let search = by.and_then(|seat| search_of(players, seat)).unwrap_or_default();
        let incident = format!("{who} {message}; tick {}, choices so far {choices}{search}", stepper.tick());
        let verdict = by.filter(|_| seats > 1).map(|loser| Verdict {
            placement: (0..seats).map(|seat| if seat == loser { seats as u16 } else { 1 }).collect(),
            ending: Ending::Decided("forfeit".into()),
        });
        Self { verdict, incident: Some(incident), by }
    }
}

/// How far the search of a seat had got, in words.
fn search_of<G: Game>(players: &Players<G>, seat: Seat) -> Option<String>
where
    G::Action: Serialize,
{
    // An agent that panicked may panic again when asked for its thoughts.
    let thoughts = catch(|| players.thoughts(seat)).ok()??;
    let line = serde_json::to_string(&thoughts.looking_at).ok()?;
    let (nodes, depth) = (thoughts.spent.nodes, thoughts.spent.depth);
    Some(format!("; it was looking at the line {line} after {nodes} states, {depth} turns deep"))
}

impl<G: Game + Measured> Stage for StageOf<G>
where
    G::Action: Serialize,
    G::View: Serialize,
{
    fn rotations(&self) -> usize {
        self.factories.len() * self.series
    }

    fn play(&self, spot: Spot, rows: &mut Rows) {
        self.run(spot, false, &mut Unobserved, rows);
    }

    fn tell(&self, spot: Spot, choices: bool, listener: &mut dyn FnMut(Moment), rows: &mut Rows) {
        self.run(spot, choices, &mut Teller { choices, listener, scores: Vec::new() }, rows);
    }
}

/// Turns a match into moments.
struct Teller<'a> {
    choices: bool,
    listener: &'a mut dyn FnMut(Moment),
    scores: Vec<f64>,
}

impl<G: Game> Observer<G> for Teller<'_>
where
    G::Action: Serialize,
    G::View: Serialize,
{
    fn decided(&mut self, tick: u64, decision: &Decision<'_, G>) {
        if self.choices {
            let json = |value: Result<serde_json::Value, _>| value.unwrap_or(serde_json::Value::Null);
            (self.listener)(Moment::Choice {
                tick,
                seat: decision.seat,
                view: json(serde_json::to_value(decision.view)),
                action: json(serde_json::to_value(decision.action)),
                thoughts: decision
                    .agent
                    .thoughts()
                    .map_or(serde_json::Value::Null, |all| json(serde_json::to_value(all))),
            });
        }
    }

    fn advanced(&mut self, tick: u64, game: &G) {
        if self.scores != game.scores() {
            self.scores = game.scores().to_vec();
            (self.listener)(Moment::Score { tick, scores: self.scores.clone() });
        }
    }
}
