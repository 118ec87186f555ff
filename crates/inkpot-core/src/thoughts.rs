//! An agent's values at a decision: for `explain`, traces and replays.

use serde::Serialize;

use crate::Seat;

/// The thoughts behind an agent's last decision.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Thoughts<A> {
    /// The options it had, best first as far as it knows.
    pub options: Vec<Weighed<A>>,
    /// Steps by which its judgement changed while it looked further, if it looked in steps.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub steps: Vec<Step<A>>,
    /// The line of actions it was looking at when it stopped.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub looking_at: Vec<A>,
    /// The figures that a network was given, in the order of its inputs.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub observed: Vec<f32>,
    /// The figures that the network gave for them, in the order of its outputs.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub given: Vec<f32>,
    /// The cost of the decision.
    pub spent: Spent,
}

/// One option with its values.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Weighed<A> {
    /// The option.
    pub option: A,
    /// Whose option it is.
    pub seat: Seat,
    /// Its value to that seat in the agent's own units (score margin, points share); NaN if it was never looked at.
    #[serde(serialize_with = "number_or_null")]
    pub value: f64,
    /// Whether the value is only an upper bound: enough to know that another option is better.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub bound: bool,
    /// The number of times that it was tried.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub visits: Option<u64>,
    /// The number of turns that it was looked ahead at.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub depth: Option<u32>,
    /// Its share of the cost, 0 to 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub share: Option<f64>,
    /// The expected course of play, this option first.
    pub line: Vec<A>,
    /// Replies to it, if the agent was asked for more than one layer.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub replies: Vec<Weighed<A>>,
}

/// One step of looking further.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Step<A> {
    /// Turns ahead.
    pub depth: u32,
    /// The best option at this step.
    pub best: A,
    /// Its value.
    pub value: f64,
    /// States advanced until then.
    pub nodes: u64,
}

/// The cost of a decision.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize)]
pub struct Spent {
    /// Iterations, playouts or rollouts.
    pub iterations: u64,
    /// States advanced.
    pub nodes: u64,
    /// Deepest complete look-ahead in turns.
    pub depth: u32,
    /// Whether the budget ended the search before it was complete.
    pub out_of_budget: bool,
    /// Whether the game was searched to its end, so that the values are exact.
    pub exact: bool,
    /// Bytes held by its tables.
    pub memory_bytes: u64,
}

impl Spent {
    /// Whether anything was advanced to judge the state.
    pub fn looked_ahead(&self) -> bool {
        self.nodes > 0 || self.iterations > 0
    }
}

impl<A> Thoughts<A> {
    /// Options weighed at no cost worth counting.
    pub fn of(options: Vec<Weighed<A>>) -> Self {
        let mut thoughts = Self { options, ..Self::spending(Spent::default()) };
        thoughts.sort();
        thoughts
    }

    /// No option weighed, at this cost.
    pub fn spending(spent: Spent) -> Self {
        Self {
            options: Vec::new(),
            steps: Vec::new(),
            looking_at: Vec::new(),
            observed: Vec::new(),
            given: Vec::new(),
            spent,
        }
    }

    /// The same thoughts with every action told in another way.
    pub fn map<B>(self, f: &impl Fn(&A) -> B) -> Thoughts<B> {
        let step =
            |step: Step<A>| Step { depth: step.depth, best: f(&step.best), value: step.value, nodes: step.nodes };
        Thoughts {
            options: self.options.into_iter().map(|option| option.map(f)).collect(),
            steps: self.steps.into_iter().map(step).collect(),
            looking_at: self.looking_at.iter().map(f).collect(),
            observed: self.observed,
            given: self.given,
            spent: self.spent,
        }
    }

    /// Puts the best option first; those never looked at come last, bounds after equal values.
    pub fn sort(&mut self) {
        Weighed::sort(&mut self.options);
    }
}

impl<A> Weighed<A> {
    /// Puts the best option first; those never looked at come last, bounds after equal values.
    pub fn sort(options: &mut [Self]) {
        let rank = |option: &Self| if option.value.is_nan() { f64::NEG_INFINITY } else { option.value };
        options.sort_by(|a, b| rank(b).total_cmp(&rank(a)).then(a.bound.cmp(&b.bound)));
    }

    fn map<B>(self, f: &impl Fn(&A) -> B) -> Weighed<B> {
        Weighed {
            option: f(&self.option),
            seat: self.seat,
            value: self.value,
            bound: self.bound,
            visits: self.visits,
            depth: self.depth,
            share: self.share,
            line: self.line.iter().map(f).collect(),
            replies: self.replies.into_iter().map(|reply| reply.map(f)).collect(),
        }
    }
}

impl<A: Clone> Weighed<A> {
    /// An option of seat 0 with its value and nothing else.
    pub fn new(option: A, value: f64) -> Self {
        Self {
            line: vec![option.clone()],
            option,
            seat: 0,
            value,
            bound: false,
            visits: None,
            depth: None,
            share: None,
            replies: Vec::new(),
        }
    }

    /// Sets the seat.
    #[must_use]
    pub fn of_seat(self, seat: Seat) -> Self {
        Self { seat, ..self }
    }

    /// Looked at this many turns ahead.
    #[must_use]
    pub fn deep(self, depth: u32) -> Self {
        Self { depth: Some(depth), ..self }
    }

    /// Tried this often, out of this many tries.
    #[must_use]
    pub fn tried(self, visits: u64, of: u64) -> Self {
        Self { visits: Some(visits), share: Some(visits as f64 / of.max(1) as f64), ..self }
    }
}

/// JSON has no NaN: a value that is none is null.
#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde hands over references")]
fn number_or_null<S: serde::Serializer>(value: &f64, serializer: S) -> Result<S::Ok, S::Error> {
    if value.is_finite() { serializer.serialize_f64(*value) } else { serializer.serialize_none() }
}
