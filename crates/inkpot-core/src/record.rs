//! From a match that was played to its rows.

use serde::Serialize;

use crate::experience::Source;
use crate::fall::catch;
use crate::row::ABANDONED;
use crate::setup::Setup;
use crate::{
    DecisionTimes, Ending, Fall, Game, MatchTable, Measured, Outcome, Row, Rows, Seat, Spot, Stepper, Verdict,
};

/// The result of a match, falls included.
pub(crate) struct Played {
    verdict: Option<Verdict>,
    incident: Option<String>,
    /// Why something fell, as it said so itself.
    reason: Option<String>,
    /// The seat whose agent fell.
    by: Option<Seat>,
    /// The reason of a void match, which counts for nobody.
    void: &'static str,
}

/// The ending of a match that could not be played.
const VOID: &str = "void";

impl Played {
    /// A finished match.
    pub(crate) fn out(verdict: Verdict) -> Self {
        Self { verdict: Some(verdict), incident: None, reason: None, by: None, void: VOID }
    }

    /// A person left it: it counts for nobody.
    pub(crate) fn abandoned() -> Self {
        Self { verdict: None, incident: None, reason: None, by: None, void: ABANDONED }
    }

    /// It never began: void, or, where that is because the agent of a seat fell, forfeit.
    pub(crate) fn never(message: String, by: Option<Seat>, seats: usize) -> Self {
        let incident = match by {
            Some(seat) => format!("seat {seat} {message}; before the first tick"),
            None => message.clone(),
        };
        Self { verdict: forfeit(by, seats), incident: Some(incident), reason: Some(message), by, void: VOID }
    }

    /// Builds the result of a match from how playing ended; a panic gives its message.
    pub(crate) fn of<G: Game>(played: Result<Result<Verdict, Fall>, String>, table: &MatchTable<G>) -> Self
    where
        G::Action: Serialize,
    {
        match played {
            Ok(Ok(verdict)) => Self::out(verdict),
            Ok(Err(Fall::Game(reason))) => Self::after_fall(&format!("failed: {reason}"), None, table),
            Ok(Err(Fall::Agent(seat, reason))) => Self::after_fall(&reason.to_string(), Some(seat), table),
            Ok(Err(Fall::Halted)) => Self::never("it was asked to stop".into(), None, 0),
            Err(message) => Self::after_fall(&message, table.players().deciding(), table),
        }
    }

    /// The seat whose agent fell forfeits: last place, the others tie before it. A match whose game fell is void.
    fn after_fall<G: Game>(message: &str, by: Option<Seat>, table: &MatchTable<G>) -> Self
    where
        G::Action: Serialize,
    {
        let stepper = table.stepper();
        let seats = table.players().seats();
        let choices: Vec<_> = (0..seats).map(|seat| stepper.choices().get(seat)).collect();
        let choices = serde_json::to_string(&choices).unwrap_or_default();
        let who = by.map_or("the game".to_string(), |seat| format!("seat {seat}"));
        let search = by.and_then(|seat| search_of(table, seat)).unwrap_or_default();
        let mut incident = format!("{who} {message}; tick {}, choices so far {choices}{search}", stepper.tick());
        let mut verdict = forfeit(by, seats);
        // A game that fell over its scores, or has none worth the name, takes the forfeit with it.
        if let Some(forfeit) = &verdict {
            let fell = match catch(|| table.comes_out(forfeit)) {
                Ok(Err(Fall::Game(reason))) => Some(format!("failed: {reason}")),
                Ok(_) => None,
                Err(message) => Some(message),
            };
            if let Some(message) = fell {
                incident = format!("{incident}; the game {message}");
                verdict = None;
            }
        }
        Self { verdict, incident: Some(incident), reason: Some(message.into()), by, void: VOID }
    }

    /// Whether something fell, so that nothing at the table should be used again.
    pub(crate) fn fell(&self) -> bool {
        self.incident.is_some()
    }

    /// Why the agent or the game fell, if one did, as it said so itself.
    pub(crate) fn reason(&self) -> Option<&str> {
        self.reason.as_deref()
    }
}

/// The seat whose agent fell comes last, the others tie before it. None where there is no other.
fn forfeit(by: Option<Seat>, seats: usize) -> Option<Verdict> {
    let loser = by.filter(|_| seats > 1)?;
    let placement = (0..seats).map(|seat| if seat == loser { seats as u16 } else { 1 }).collect();
    Some(Verdict { placement, ending: Ending::Decided("forfeit".into()) })
}

/// Describes the progress of a seat's search.
fn search_of<G: Game>(table: &MatchTable<G>, seat: Seat) -> Option<String>
where
    G::Action: Serialize,
{
    // An agent that panicked may panic again when asked for its thoughts.
    let thoughts = catch(|| table.players().thoughts(seat)).ok()??;
    let line = serde_json::to_string(&thoughts.looking_at).ok()?;
    let (nodes, depth) = (thoughts.spent.nodes, thoughts.spent.depth);
    Some(format!("; it was looking at the line {line} after {nodes} states, {depth} turns deep"))
}

impl<G: Game<Action: Serialize> + Measured> Setup<G> {
    /// Appends the rows of a match; `table` is none if it never began.
    pub(crate) fn record(
        &self,
        spot: Spot,
        seating: &[usize],
        played: &Played,
        table: Option<&MatchTable<G>>,
        rows: &mut Rows,
    ) {
        let placements = played.verdict.as_ref().map(|verdict| verdict.placement.as_slice()).unwrap_or_default();
        let stepper = table.map(MatchTable::stepper);
        let players = table.map(MatchTable::players);
        let world_seed = self.world_seed(spot);
        // A game that fell may fall again when asked for its scores.
        let scores = stepper.and_then(|stepper| catch(|| stepper.game().scores()).ok()).unwrap_or_default();
        for (seat, &who) in seating.iter().enumerate() {
            self.measures(seat, table, rows);
            let placement = placements.get(seat).copied().unwrap_or(0);
            let crashed = u32::from(played.by == Some(seat));
            let late = players.map_or(0, |players| players.late(seat));
            rows.rows.push(Row {
                cell: spot.cell,
                block: spot.block,
                rotation: spot.rotation as u16,
                match_index: spot.match_index,
                seat: seat as u16,
                entrant: self.entrant(who),
                world_seed,
                score: scores.get(seat).copied().unwrap_or(f64::NAN),
                outcome: if placements.is_empty() { Outcome::Void } else { Outcome::of(placement, placements) },
                placement,
                ticks: stepper.map_or(0, Stepper::tick),
                ending: played.verdict.as_ref().map_or(played.void.into(), |verdict| verdict.ending.word().clone()),
                cut_short: played.verdict.as_ref().is_some_and(|verdict| verdict.ending.cut_short()),
                faults: stepper.map_or(0, |stepper| stepper.faults()[seat]) + crashed + late,
                late,
                crashed,
                decision_us: players.map_or(f32::NAN, |players| players.decision_us(seat)),
                decision_times: players.and_then(|players| players.decision_times(seat)).map(DecisionTimes::to_bytes),
                nodes: players.map_or(0.0, |players| players.nodes(seat)),
                leads: table.filter(|_| seat == 0).and_then(|table| table.experience().leads(table.tick())),
                choices: table.and_then(MatchTable::log).and_then(|log| log.written(seat)),
                incident: played.incident.clone(),
            });
        }
    }

    /// Appends the measures of a seat: the game's own at first, then each put where its column is.
    fn measures(&self, seat: Seat, table: Option<&MatchTable<G>>, rows: &mut Rows) {
        let start = rows.measures.len();
        let width = self.sources.iter().filter(|source| **source == Source::Game).count();
        // A game that panicked may panic again when asked for its figures.
        let measured = table.map(|table| catch(|| table.game().measures(seat, &mut rows.measures)));
        if measured.is_none_or(|result| result.is_err()) {
            rows.measures.truncate(start);
        }
        rows.measures.resize(start + width, f64::NAN);
        rows.measures.resize(start + self.sources.len(), f64::NAN);
        // From behind, so that the game's own, which never move forward, are not overwritten.
        let mut next = start + width;
        for (column, source) in self.sources.iter().enumerate().rev() {
            rows.measures[start + column] = match source {
                Source::Game => {
                    next -= 1;
                    rows.measures[next]
                }
                Source::Scores(feel) => {
                    table.map_or(f64::NAN, |table| table.experience().figure(*feel, table.tick(), self.a_second))
                }
            };
        }
    }
}
