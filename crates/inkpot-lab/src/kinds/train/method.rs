//! Methods of training, each with its knobs.

use inkpot_core::{Halt, Knob, Knobs, ResponseRequest};
use inkpot_learn::{DqnSettings, PpoSettings, TableMethod, TableSettings};
use serde::{Deserialize, Serialize};

use crate::kinds::found::{Aim, Shape, TrainingName};

/// Positions that are looked through whole, where nothing is said.
pub(crate) const MOST_POSITIONS: usize = 500_000;

/// The method of training, with its knobs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Training {
    /// The method.
    pub name: TrainingName,
    /// Every knob of it.
    pub knobs: Knobs,
}

/// Standard deviation of continuous actions at first. With 0.4 three of six boats learned `triangle` or `windward`, with 1.0
/// seven of eight.
const SPREAD: f64 = 1.0;
/// Decay of advantage estimates. With 0.95 two of sixteen boats never learned to sail to windward, with 0.98 one of
/// fourteen.
const TRACE: f64 = 0.98;

/// The game as a method sees it, which sets its defaults.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct LearnedGame {
    /// Decisions of a usual match; none where the game does not say how long one takes.
    pub decisions: Option<f64>,
    /// Whether a decision is a choice among options.
    pub is_discrete: bool,
}

impl LearnedGame {
    /// The game of an aim.
    pub(super) fn of(aim: &Aim) -> Self {
        let Shape::Network { features, .. } = &aim.candidate.shape else { return Self::default() };
        let every = f64::from(aim.candidate.decide_every());
        Self {
            decisions: features.tempo.map(|tempo| tempo.match_ticks as f64 / every),
            is_discrete: features.actions.is_discrete(),
        }
    }

    /// The usual discount: it looks a fifth of a match ahead, and a hundred decisions where nothing is known.
    pub(super) fn discount(self) -> f64 {
        let ahead = self.decisions.map_or(100.0, |decisions| (decisions / 5.0).clamp(10.0, 1_000.0));
        ((1.0 - 1.0 / ahead) * 1e3).round() / 1e3
    }

    /// The usual weight of the entropy: without it a choice among many options soon becomes none.
    fn entropy(self) -> f64 {
        if self.is_discrete { 0.01 } else { 0.003 }
    }
}

impl TrainingName {
    /// Its knobs, with the defaults for this game.
    pub fn knobs(self, game: LearnedGame) -> Vec<Knob> {
        match self {
            Self::Ppo => ppo_knobs(game),
            Self::Dqn => dqn_knobs(game),
            Self::QLearning | Self::Sarsa | Self::ExpectedSarsa => table_knobs(),
            Self::Exact => exact_knobs(),
        }
    }
}

fn share(name: &str, default: f64, help: &str) -> Knob {
    Knob::real(name, 0.0..=1.0, default).help(help)
}

fn count(name: &str, most: i64, default: usize, unit: &str, help: &str) -> Knob {
    Knob::whole(name, 1..=most, default as i64).unit(unit).help(help)
}

fn environments(default: usize) -> Knob {
    count("environments", 1024, default, "matches", "matches that are under way at once")
}

fn discount(default: f64) -> Knob {
    share("discount", default, "the worth of a reward one decision later")
}

fn rate(most: f64, default: f64) -> Knob {
    Knob::real("rate", 0.0..=most, default).help("length of a step of learning, at first")
}

fn rate_left(default: f64) -> Knob {
    share("rate_left", default, "share of the rate that is left at the end")
}

fn ppo_knobs(game: LearnedGame) -> Vec<Knob> {
    let usual = PpoSettings::default();
    vec![
        environments(16),
        count("horizon", 100_000, usual.horizon, "decisions", "decisions in each match from one update to the next"),
        count("epochs", 100, usual.epochs, "", "how often an update goes through these decisions"),
        count("minibatch", 100_000, usual.minibatch, "decisions", "decisions of one step along the gradient"),
        discount(game.discount()),
        share("trace", TRACE, "how far advantages look ahead: 0 is one decision, 1 the whole match"),
        Knob::real("clip", 0.01..=1.0, usual.clip)
            .help("how far the likelihood of a decision may move in an update, as a share"),
        Knob::real("entropy", 0.0..=1.0, game.entropy()).help("weight of the entropy, which keeps decisions apart"),
        rate(1.0, usual.rate),
        rate_left(usual.rate_left),
        Knob::real("gradient_limit", 0.01..=1000.0, usual.most_gradient)
            .help("gradients that are longer are shortened"),
        Knob::real("spread", 0.05..=2.0, SPREAD)
            .help("of continuous actions: standard deviation at first, where the whole range is 2"),
    ]
}

fn dqn_knobs(game: LearnedGame) -> Vec<Knob> {
    let usual = DqnSettings::default();
    vec![
        environments(1),
        count("replay", 1_000_000, usual.replay, "decisions", "decisions that are kept to learn from again"),
        count("first", 1_000_000, usual.first, "decisions", "decisions before it begins to learn"),
        count("learn_every", 10_000, usual.every, "decisions", "decisions from one step of learning to the next"),
        count("minibatch", 100_000, usual.minibatch, "decisions", "kept decisions of one step of learning"),
        count(
            "target_every",
            1_000_000,
            usual.target_every,
            "decisions",
            "decisions after which the network that gives the targets catches up",
        ),
        discount(game.discount()),
        rate(1.0, usual.rate),
        rate_left(usual.rate_left),
        share("explore", usual.explore, "share of random decisions at the end; at first all are"),
        share("explore_until", usual.explore_until, "share of the training after which that is reached"),
    ]
}

fn table_knobs() -> Vec<Knob> {
    let usual = TableSettings::default();
    vec![
        count("returns", 1_000, usual.look, "decisions", "rewards that are added up before what comes after is valued"),
        discount(usual.discount),
        rate(1.0, usual.rate),
        rate_left(usual.rate_left),
        share("explore_first", usual.explore_first, "share of random decisions at first"),
        share("explore", usual.explore, "the same at the end"),
        share("explore_until", usual.explore_until, "share of the training after which that is reached"),
        Knob::real("first_value", -1e6..=1e6, usual.first_value).help("the value of untried options"),
    ]
}

fn exact_knobs() -> Vec<Knob> {
    vec![
        count(
            "draws",
            100_000,
            64,
            "",
            "how often an opponent that does not say with which chance it takes an option is asked at a position",
        ),
        count("positions", 10_000_000, MOST_POSITIONS, "positions", "positions that may be visited"),
    ]
}

impl Training {
    fn number(&self, knob: &str) -> f64 {
        self.knobs.number(knob)
    }

    fn whole(&self, knob: &str) -> usize {
        self.number(knob) as usize
    }

    /// Matches that are under way at once.
    pub fn environments(&self) -> usize {
        if self.name.learns_positions() { 1 } else { self.whole("environments") }
    }

    /// Returns the settings of PPO.
    pub(super) fn ppo(&self) -> PpoSettings {
        PpoSettings {
            horizon: self.whole("horizon"),
            epochs: self.whole("epochs"),
            minibatch: self.whole("minibatch"),
            discount: self.discount(),
            trace: self.number("trace"),
            clip: self.number("clip"),
            entropy: self.number("entropy"),
            rate: self.number("rate"),
            rate_left: self.number("rate_left"),
            most_gradient: self.number("gradient_limit"),
            spread: self.number("spread"),
        }
    }

    /// Returns the settings of DQN.
    pub(super) fn dqn(&self) -> DqnSettings {
        DqnSettings {
            replay: self.whole("replay"),
            first: self.whole("first"),
            every: self.whole("learn_every"),
            minibatch: self.whole("minibatch"),
            target_every: self.whole("target_every"),
            discount: self.discount(),
            rate: self.number("rate"),
            rate_left: self.number("rate_left"),
            explore: self.number("explore"),
            explore_until: self.number("explore_until"),
        }
    }

    /// Returns the request of an exact search.
    pub(super) fn exact(&self, seed: u64, halt: &Halt) -> ResponseRequest {
        ResponseRequest {
            draws: self.number("draws") as u64,
            most_positions: self.whole("positions"),
            seed,
            halt: halt.clone(),
        }
    }

    /// Returns the settings of a table.
    pub(super) fn table(&self) -> TableSettings {
        TableSettings {
            method: match self.name {
                TrainingName::Sarsa => TableMethod::Sarsa,
                TrainingName::ExpectedSarsa => TableMethod::ExpectedSarsa,
                _ => TableMethod::QLearning,
            },
            look: self.whole("returns"),
            discount: self.discount(),
            rate: self.number("rate"),
            rate_left: self.number("rate_left"),
            explore_first: self.number("explore_first"),
            explore: self.number("explore"),
            explore_until: self.number("explore_until"),
            first_value: self.number("first_value"),
        }
    }

    /// Returns the discount a decision.
    pub(super) fn discount(&self) -> f64 {
        if self.name == TrainingName::Exact { 1.0 } else { self.number("discount") }
    }
}
