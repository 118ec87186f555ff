//! Budgets of a search for one decision, and the meter that keeps count.

use std::time::{Duration, Instant};

use inkpot_core::{Halt, Knob, KnobValue, Knobs, Pace, Spent};

/// The group of the knobs below: one is in force.
const GROUP: &str = "budget";
/// States between two checks of the clock and of requests to stop.
const LOOK_EVERY: u64 = 256;

/// The limit of a search for one decision.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Budget {
    /// Turns ahead.
    Depth(u32),
    /// Iterations, playouts or rollouts.
    Iterations(u64),
    /// States advanced.
    Nodes(u64),
    /// Milliseconds by the clock.
    Millis(u64),
}

/// The knob `depth`.
pub(crate) fn depth(default: i64) -> Knob {
    Knob::whole("depth", 0..=200, default).unit("turns").one_of(GROUP).help("how many turns it looks ahead")
}

/// Builds the knob `iterations`, under the search's name for it.
pub(crate) fn iterations(name: &str, default: i64, help: &str) -> Knob {
    Knob::whole(name, 0..=100_000_000, default).one_of(GROUP).help(help)
}

/// The knob `nodes`.
pub(crate) fn nodes(default: i64) -> Knob {
    Knob::whole("nodes", 0..=10_000_000_000, default)
        .unit("states")
        .one_of(GROUP)
        .help("states that it may advance for a decision")
}

/// The knob `millis`.
pub(crate) fn millis() -> Knob {
    Knob::whole("millis", 0..=600_000, 10)
        .unit("ms")
        .one_of(GROUP)
        .by_the_clock()
        .help("time that it may take for a decision; no two runs are alike")
}

impl Budget {
    /// Reads the budget in force; `iterations` is the search's name for that knob.
    pub(crate) fn read(knobs: &Knobs, iterations: &str) -> Self {
        let number = |name| knobs.get(name).and_then(KnobValue::number);
        if let Some(depth) = number("depth") {
            return Self::Depth(depth as u32);
        }
        if let Some(nodes) = number("nodes") {
            return Self::Nodes(nodes as u64);
        }
        match number("millis") {
            Some(millis) => Self::Millis(millis as u64),
            None => Self::Iterations(number(iterations).unwrap_or_default() as u64),
        }
    }

    /// The pace that an agent with this budget keeps.
    pub(crate) fn pace(self) -> Pace {
        match self {
            Self::Millis(millis) => Pace::Within(Duration::from_millis(millis)),
            _ => Pace::Thinks,
        }
    }
}

/// Counts the cost of a decision and reports a spent budget.
#[derive(Clone, Debug)]
pub(crate) struct Meter {
    pub(crate) nodes: u64,
    pub(crate) iterations: u64,
    /// Whether the budget is spent.
    pub(crate) out: bool,
    most_iterations: u64,
    most_nodes: u64,
    look_at: u64,
    deadline: Option<Instant>,
    halt: Halt,
}

impl Meter {
    /// Counts for a decision with this budget, which ends too when `halt` is called.
    pub(crate) fn start(budget: Budget, halt: &Halt) -> Self {
        let mut meter = Self { halt: halt.clone(), ..Self::free() };
        match budget {
            Budget::Depth(_) => {}
            Budget::Iterations(most) => meter.most_iterations = most,
            Budget::Nodes(most) => meter.most_nodes = most,
            Budget::Millis(millis) => meter.deadline = Some(Instant::now() + Duration::from_millis(millis)),
        }
        meter.look_at = meter.most_nodes.min(LOOK_EVERY);
        meter.out = matches!(budget, Budget::Iterations(0) | Budget::Nodes(0) | Budget::Millis(0));
        meter
    }

    /// Counts without end.
    pub(crate) fn free() -> Self {
        Self {
            nodes: 0,
            iterations: 0,
            out: false,
            most_iterations: u64::MAX,
            most_nodes: u64::MAX,
            look_at: u64::MAX,
            deadline: None,
            halt: Halt::never(),
        }
    }

    /// Counts a state advanced.
    #[inline]
    pub(crate) fn advanced(&mut self) {
        self.nodes += 1;
        if self.nodes >= self.look_at {
            self.look();
        }
    }

    #[cold]
    fn look(&mut self) {
        let late = self.deadline.is_some_and(|deadline| Instant::now() >= deadline);
        self.out |= late || self.halt.is_called() || self.nodes >= self.most_nodes;
        self.look_at = self.most_nodes.min(self.nodes + LOOK_EVERY).max(self.nodes + 1);
    }

    /// Returns the count, at this depth in turns.
    pub(crate) fn spent(&self, depth: u32) -> Spent {
        Spent { iterations: self.iterations, nodes: self.nodes, depth, ..Spent::default() }
    }

    /// Counts an iteration.
    pub(crate) fn iterated(&mut self) {
        self.iterations += 1;
        self.out |= self.iterations >= self.most_iterations;
    }
}
