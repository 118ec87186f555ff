//! Counts positions and move sequences of a game of turns, layer by layer.

use std::collections::{HashMap, HashSet};

use serde::Serialize;
use thiserror::Error;

use crate::{Acting, Chance, Choices, Keyed, Options, Seat, folded};

/// A request to count the positions of a game.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct CountRequest {
    /// Turns down to which every position is counted.
    pub exact: u32,
    /// Further turns for which move sequences are estimated.
    pub beyond: u32,
    /// Random lines of play for the estimates.
    pub samples: u64,
    /// Seed of the samples.
    pub seed: u64,
    /// Positions of one layer that may be held at once.
    pub most_positions: usize,
}

/// One layer: all that can have happened after this many turns.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Layer {
    /// Turns from the start.
    pub depth: u32,
    /// Move sequences of just this length.
    pub sequences: Sequences,
    /// Different positions; none where only estimated.
    pub positions: Option<u64>,
    /// Positions once those that the game's symmetries turn into each other count as one; none where only estimated or
    /// where the game has no symmetries.
    pub folded: Option<u64>,
    /// Positions at which the match is over, among them.
    pub over: Option<u64>,
    /// Mean number of options at the end of a sequence that is not over; none where there is none.
    pub branching: Option<f64>,
}

/// A number of move sequences.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[serde(untagged)]
#[expect(missing_docs, reason = "the number; or mean, standard deviation and number of independent unbiased guesses")]
pub enum Sequences {
    Exact { count: u64 },
    Sampled { mean: f64, sd: f64, samples: u64 },
}

/// An error: the game cannot be counted.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum CountError {
    /// Several seats choose at once.
    #[error("several seats choose at once: only games of turns are counted")]
    Simultaneous,
    /// A layer has more positions than may be held.
    #[error("turn {depth} has more than {most} positions, too many to hold")]
    #[expect(missing_docs, reason = "the layer, and the positions that may be held")]
    TooMany { depth: u32, most: usize },
}

/// Counts the layers from a state as far as there are positions; `listener` hears each as it is done.
///
/// Beyond `exact` the number of sequences is estimated by random lines of play: the product of the numbers of options
/// along a line is an unbiased guess (Knuth 1975). The lines begin at sequences drawn evenly from the last exact layer.
pub(crate) fn count_positions<G: Options + Keyed + Clone>(
    start: &G,
    request: &CountRequest,
    listener: &mut dyn FnMut(&Layer),
) -> Result<Vec<Layer>, CountError> {
    let mut walker = Walker::new(start.seats());
    let mut layers = Vec::new();
    // Kept in the order in which positions are first met, so that nothing depends on the order of a table.
    let mut states = vec![(start.clone(), 1u64)];
    for depth in 0..=request.exact {
        let layer = walker.layer(depth, &states)?;
        listener(&layer);
        layers.push(layer);
        if depth < request.exact {
            states = walker.next_layer(depth + 1, &states, request.most_positions)?;
            if states.is_empty() {
                return Ok(layers);
            }
        }
    }
    for layer in walker.sampled(&states, request)? {
        listener(&layer);
        layers.push(layer);
    }
    Ok(layers)
}

/// Counts positions up to symmetry.
fn folded_positions<G: Keyed + Clone>(states: &[(G, u64)]) -> Option<u64> {
    let symmetric = states.first().is_some_and(|(state, _)| state.symmetries() > 0);
    symmetric.then(|| states.iter().map(|(state, _)| folded(state).0).collect::<HashSet<_>>().len() as u64)
}

struct Walker<G: Options> {
    options: Vec<G::Action>,
    choices: Choices<G::Action>,
    /// Never drawn from by a game without chance.
    chance: Chance,
}

impl<G: Options + Keyed + Clone> Walker<G> {
    fn new(seats: usize) -> Self {
        Self { options: Vec::new(), choices: Choices::none(seats), chance: Chance::from_seed(0) }
    }

    /// Fills `options`; gives the mover, or none when the match is over.
    fn look(&mut self, state: &G) -> Result<Option<Seat>, CountError> {
        self.options.clear();
        match state.acting() {
            Acting::Nobody => Ok(None),
            Acting::One(seat) | Acting::These(&[seat]) => {
                state.options(seat, &mut self.options);
                Ok(Some(seat))
            }
            Acting::All | Acting::These(_) => Err(CountError::Simultaneous),
        }
    }

    fn moved(&mut self, state: &G, seat: Seat, option: usize) -> G {
        let mut next = state.clone();
        self.choices.clear();
        self.choices.set(seat, self.options[option].clone());
        next.advance(&self.choices, &mut self.chance);
        next
    }

    fn layer(&mut self, depth: u32, states: &[(G, u64)]) -> Result<Layer, CountError> {
        let (mut sequences, mut open, mut options, mut over) = (0u64, 0.0, 0.0, 0);
        for (state, ways) in states {
            sequences = sequences.saturating_add(*ways);
            if self.look(state)?.is_some() {
                open += *ways as f64;
                options += *ways as f64 * self.options.len() as f64;
            } else {
                over += 1;
            }
        }
        Ok(Layer {
            depth,
            sequences: Sequences::Exact { count: sequences },
            positions: Some(states.len() as u64),
            folded: folded_positions(states),
            over: Some(over),
            branching: (open > 0.0).then(|| options / open),
        })
    }

    fn next_layer(&mut self, depth: u32, states: &[(G, u64)], most: usize) -> Result<Vec<(G, u64)>, CountError> {
        let mut found: HashMap<G::Key, usize> = HashMap::new();
        let mut next: Vec<(G, u64)> = Vec::new();
        for (state, ways) in states {
            let Some(seat) = self.look(state)? else { continue };
            for option in 0..self.options.len() {
                let child = self.moved(state, seat, option);
                let place = *found.entry(child.key()).or_insert(next.len());
                match next.get_mut(place) {
                    Some((_, sum)) => *sum = sum.saturating_add(*ways),
                    None => next.push((child, *ways)),
                }
                if next.len() > most {
                    return Err(CountError::TooMany { depth, most });
                }
            }
        }
        Ok(next)
    }

    fn sampled(&mut self, states: &[(G, u64)], request: &CountRequest) -> Result<Vec<Layer>, CountError> {
        let total: f64 = states.iter().map(|(_, ways)| *ways as f64).sum();
        let beyond = request.beyond as usize;
        let mut chance = Chance::from_seed(request.seed);
        // By layer: sum and sum of squares of the guesses, their sum over sequences not over, options weighted by it.
        let mut sums = vec![[0.0f64; 4]; beyond];
        let upto: Vec<f64> = states
            .iter()
            .scan(0.0, |sum, (_, ways)| {
                *sum += *ways as f64;
                Some(*sum)
            })
            .collect();
        for _ in 0..request.samples {
            let at = chance.unit() * total;
            let first = upto.partition_point(|upto| *upto <= at).min(states.len() - 1);
            let (mut state, mut guess) = (states[first].0.clone(), total);
            let mut mover = self.look(&state)?;
            for sum in &mut sums {
                let Some(seat) = mover else { break };
                guess *= self.options.len() as f64;
                let option = chance.below(self.options.len());
                state = self.moved(&state, seat, option);
                mover = self.look(&state)?;
                sum[0] += guess;
                sum[1] += guess * guess;
                if mover.is_some() {
                    sum[2] += guess;
                    sum[3] += guess * self.options.len() as f64;
                }
            }
        }
        let n = request.samples as f64;
        let layer = |(index, [sum, squares, open, options]): (usize, &[f64; 4])| {
            let mean = sum / n;
            let variance = (squares - sum * mean) / (n - 1.0);
            Layer {
                depth: request.exact + 1 + index as u32,
                sequences: Sequences::Sampled { mean, sd: variance.max(0.0).sqrt(), samples: request.samples },
                positions: None,
                folded: None,
                over: None,
                branching: (*open > 0.0).then(|| options / open),
            }
        };
        Ok(sums.iter().enumerate().map(layer).collect())
    }
}
