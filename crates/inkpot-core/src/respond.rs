//! Exact best responses to one agent in a small game of turns.
//!
//! Backward induction visits every position once for each seat. Where the responder decides, the best option counts; where the agent does, the mean over its
//! choices. The training method `exact` files the result as a table.

use std::collections::{BTreeMap, HashMap};

use thiserror::Error;

use crate::fall::catch;
use crate::{Acting, Agent, Chance, Choices, Factory, Game, GaveUp, Halt, Keyed, Noted, Options, Person, Seat, Sight};

/// A request for the best response to an agent.
#[derive(Clone, Debug)]
pub struct ResponseRequest {
    /// The number of times that the agent is asked at a position where nothing says with which chance it takes an
    /// option.
    pub draws: u64,
    /// Positions that may be held.
    pub most_positions: usize,
    /// Seed of the agent's chance.
    pub seed: u64,
    /// Asks it to stop.
    pub halt: Halt,
}

/// The best response to an agent.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Response {
    /// Every position at which its opponent decides, as text: the points (1 won, 0.5 drawn, 0 lost) that each option is
    /// worth when the best follows, in the order of the options.
    pub rows: BTreeMap<String, Vec<f64>>,
    /// Points from the plain start, by the seat of the opponent.
    pub start: [f64; 2],
    /// Positions at which the agent was asked.
    pub asked: u64,
    /// Those of them where it takes several options.
    pub varied: u64,
    /// The positions at which the chances are unknown and estimated from draws. With none the response is exact.
    /// Otherwise its value is biased upwards, as a maximum over estimates, and its result in matches is a lower bound
    /// of the best response's.
    pub sampled: u64,
}

/// An error: no best response can be given.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[expect(missing_docs, reason = "the fields are the words in the messages")]
pub enum ResponseError {
    #[error("only games of turns between two seats can be solved")]
    Simultaneous,
    #[error("the game has more than {most} positions, too many to solve")]
    TooMany { most: usize },
    #[error("positions can repeat within a match, and only games without repetition can be solved")]
    Repeats,
    #[error("the agent failed at {position}: it {reason}")]
    Agent { position: String, reason: String },
    #[error("it was asked to stop")]
    Halted,
}

/// Tolerated deviation of an agent's chances from a sum of 1.
const ROUNDING: f64 = 1e-6;

/// Computes the best response from a start, once for each seat of the opponent, by backward induction: the best option
/// at the responder's positions, the mean over the agent's chances at its own. The agent is assumed to choose by the
/// position alone; one that remembers the match may do better or worse.
pub(crate) fn respond<G: Keyed + Noted + Options + Clone>(
    start: &G,
    agent: &Factory<G>,
    without_chance: bool,
    request: &ResponseRequest,
) -> Result<Response, ResponseError> {
    if start.seats() != 2 {
        return Err(ResponseError::Simultaneous);
    }
    let mut response = Response::default();
    for seat in 0..2 {
        let known = HashMap::new();
        let mut solver = Solver { agent, without_chance, request, seat, known, response, chance: Chance::from_seed(0) };
        let points = solver.points(start)?;
        response = solver.response;
        response.start[seat] = points;
    }
    Ok(response)
}

struct Solver<'a, G: Keyed> {
    agent: &'a Factory<G>,
    /// Whether the agent draws no chance, by its sheet: then it is asked once.
    without_chance: bool,
    request: &'a ResponseRequest,
    /// The responding seat.
    seat: Seat,
    /// Points by position; none of those whose value is being found.
    known: HashMap<G::Key, Option<f64>>,
    response: Response,
    /// Never drawn from by a game without chance.
    chance: Chance,
}

/// A position whose options are being looked at, one after the other.
struct Open<G: Game> {
    state: G,
    /// The deciding seat.
    seat: Seat,
    options: Vec<G::Action>,
    /// The values of the options visited so far.
    values: Vec<f64>,
}

/// The state of a position on entry.
enum Entered<G: Game> {
    Known(f64),
    Open(Open<G>),
}

impl<G: Keyed + Noted + Options + Clone> Solver<'_, G> {
    /// Computes the responding seat's points from a state on. Open positions lie on a separate stack, so matches may be
    /// of any length.
    fn points(&mut self, start: &G) -> Result<f64, ResponseError> {
        let mut open: Vec<Open<G>> = Vec::new();
        let mut next = start.clone();
        loop {
            let mut points = match self.entered(next)? {
                Entered::Known(points) => points,
                Entered::Open(position) => {
                    open.push(position);
                    // A seat that acts has an option at least, and the first is looked at now.
                    next = self.moved(&open[open.len() - 1]);
                    continue;
                }
            };
            // What is known now may be the last that the position before it waited for.
            loop {
                let Some(position) = open.last_mut() else { return Ok(points) };
                position.values.push(points);
                if position.values.len() < position.options.len() {
                    next = self.moved(&open[open.len() - 1]);
                    break;
                }
                let whole = open.pop().expect("there was a last one");
                points = self.closed(whole, open.len() as u64)?;
            }
        }
    }

    /// Enters a position.
    fn entered(&mut self, state: G) -> Result<Entered<G>, ResponseError> {
        let seat = match state.acting() {
            Acting::Nobody => {
                let verdict = state.verdict();
                let points = verdict.and_then(|verdict| verdict.points().nth(self.seat)).unwrap_or(0.5);
                return Ok(Entered::Known(points));
            }
            Acting::One(seat) | Acting::These(&[seat]) => seat,
            Acting::All | Acting::These(_) => return Err(ResponseError::Simultaneous),
        };
        let key = state.key();
        match self.known.get(&key) {
            Some(Some(points)) => return Ok(Entered::Known(*points)),
            Some(None) => return Err(ResponseError::Repeats),
            None => {}
        }
        if self.known.len() >= self.request.most_positions {
            return Err(ResponseError::TooMany { most: self.request.most_positions });
        }
        if self.request.halt.is_called() {
            return Err(ResponseError::Halted);
        }
        self.known.insert(key, None);
        let mut options = Vec::new();
        state.options(seat, &mut options);
        // Those that the agent never takes are looked at, too: a match may begin behind them.
        Ok(Entered::Open(Open { values: Vec::with_capacity(options.len()), state, seat, options }))
    }

    /// Computes a position's value from those of all its options, after this many turns.
    fn closed(&mut self, node: Open<G>, turn: u64) -> Result<f64, ResponseError> {
        let points = if node.seat == self.seat {
            let best = node.values.iter().copied().fold(f64::NEG_INFINITY, f64::max);
            self.response.rows.insert(node.state.note(), node.values);
            best
        } else {
            let shares = self.shares(&node.state, node.seat, turn, &node.options)?;
            let sum: f64 = shares.iter().zip(&node.values).map(|(share, value)| share * value).sum();
            // Where every option is worth the same, so is the position, to the last digit.
            sum / shares.iter().sum::<f64>()
        };
        self.known.insert(node.state.key(), Some(points));
        Ok(points)
    }

    /// The state behind the option of a position that is looked at next.
    fn moved(&self, from: &Open<G>) -> G {
        let mut next = from.state.clone();
        let mut choices = Choices::none(2);
        choices.set(from.seat, from.options[from.values.len()].clone());
        next.advance(&choices, &mut self.chance.clone());
        next
    }

    /// Returns the agent's chance of each option: stated by the agent, or estimated from repeated decisions.
    fn shares(&mut self, state: &G, seat: Seat, turn: u64, options: &[G::Action]) -> Result<Vec<f64>, ResponseError> {
        let position = self.response.asked;
        self.response.asked += 1;
        let shares = if let Some(known) = self.known_shares(state, seat, turn, options, position)? {
            known
        } else {
            let draws = if self.without_chance { 1 } else { self.request.draws };
            self.response.sampled += u64::from(!self.without_chance);
            let mut taken = vec![0_u64; options.len()];
            for draw in 0..draws {
                taken[self.asked(state, seat, turn, options, &[position, draw])?] += 1;
            }
            taken.into_iter().map(|count| count as f64 / draws as f64).collect()
        };
        self.response.varied += u64::from(shares.iter().filter(|share| **share > 0.0).count() > 1);
        Ok(shares)
    }

    /// The chances that the agent itself gives, if it does. Errs where these are none.
    fn known_shares(
        &self,
        state: &G,
        seat: Seat,
        turn: u64,
        options: &[G::Action],
        position: u64,
    ) -> Result<Option<Vec<f64>>, ResponseError> {
        let wrong = |reason: String| ResponseError::Agent { position: state.note(), reason };
        let shares = catch(|| {
            let mut agent = self.begun(seat, &[position])?;
            Ok::<_, GaveUp>(agent.shares(&Sight::new(state, seat, turn), options))
        });
        let shares = shares.map_err(wrong)?.map_err(|gave_up| wrong(gave_up.to_string()))?;
        let is_share = |share: &f64| (0.0..=1.0 + ROUNDING).contains(share);
        match shares {
            Some(shares) if shares.len() != options.len() || !shares.iter().all(is_share) => {
                Err(wrong(format!("gave the chances {shares:?} for {} options", options.len())))
            }
            Some(shares) if (shares.iter().sum::<f64>() - 1.0).abs() > ROUNDING => {
                Err(wrong(format!("gave chances that sum to {}", shares.iter().sum::<f64>())))
            }
            shares => Ok(shares),
        }
    }

    /// An agent at the beginning of a match.
    fn begun(&self, seat: Seat, draw: &[u64]) -> Result<Box<dyn Agent<G>>, GaveUp> {
        let chance = Chance::named(self.request.seed, draw);
        let mut agent = (self.agent)(Person::new(chance.clone()))?;
        agent.begin(seat, chance);
        Ok(agent)
    }

    /// The place of the option that the agent takes.
    fn asked(
        &self,
        state: &G,
        seat: Seat,
        turn: u64,
        options: &[G::Action],
        draw: &[u64],
    ) -> Result<usize, ResponseError> {
        let wrong = |reason: String| ResponseError::Agent { position: state.note(), reason };
        let chosen = catch(|| self.begun(seat, draw)?.choose(&Sight::new(state, seat, turn)));
        let chosen = chosen.map_err(wrong)?.map_err(|gave_up| wrong(gave_up.to_string()))?;
        let place = options.iter().position(|listed| *listed == chosen);
        place.ok_or_else(|| wrong("chose what is no option".into()))
    }
}
