//! The common summary of a study of any kind.

use std::collections::BTreeMap;

use inkpot_core::Knobs;
use inkpot_stats::{Interval, Mean, PeopleFigures};
use serde::{Deserialize, Serialize};

/// The summary that all kinds of study share. Holds nothing that differs from run to run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Summary {
    /// Its game.
    pub game: String,
    /// Its level.
    pub level: String,
    /// Seed of all its chance.
    pub seed: u64,
    /// Matches played.
    pub matches: u64,
    /// Blocks played.
    pub blocks: u64,
    /// Matches in a row that the same people play, where they do.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub series: Option<u64>,
    /// Ticks or turns played.
    pub ticks: u64,
    /// Confidence of all intervals.
    pub confidence: f64,
    /// Every rules knob.
    pub rules: Knobs,
    /// The entrants over all they played.
    pub entrants: Vec<EntrantSummary>,
    /// Pairings that met; empty in a sweep.
    pub pairings: Vec<PairingSummary>,
    /// Points share of the first seat.
    pub first_seat: Option<Interval>,
    /// Matches by why they ended.
    pub endings: BTreeMap<String, u64>,
    /// Matches in which the game fell.
    pub voids: u64,
    /// The spread of people, where each plays a series; empty otherwise.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub people: Vec<PeopleSummary>,
    /// Notes: caveats to know before the figures are believed, in plain sentences.
    pub notes: Vec<String>,
}

impl Summary {
    /// Matches that a person left before their end.
    pub fn abandoned(&self) -> u64 {
        self.endings.get("abandoned").copied().unwrap_or(0)
    }

    /// The chance below which a finding is called seen, were there nothing to it: one less the confidence.
    pub fn unlikely(&self) -> f64 {
        1.0 - self.confidence
    }

    /// The probability from which one of two is called the stronger, or the better: that of an interval of this
    /// confidence which just leaves out the other side.
    pub fn sure(&self) -> f64 {
        f64::midpoint(1.0, self.confidence)
    }
}

/// An entrant over all it played.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "the fields are named after the figures they carry")]
pub struct EntrantSummary {
    pub name: String,
    pub agent: String,
    pub knobs: Knobs,
    pub matches: u64,
    pub wins: u64,
    pub draws: u64,
    pub losses: u64,
    pub win_rate: Option<Interval>,
    /// The rate of success, where it plays alone and there is nobody to win against.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub success: Option<Interval>,
    pub score: Option<Mean>,
    pub faults: u64,
    /// Answers among the faults that came late.
    #[serde(default)]
    pub late: u64,
    /// Crashes among the faults.
    #[serde(default)]
    pub crashed: u64,
    /// States advanced a decision; none where the agent does not search.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nodes: Option<Mean>,
    pub measures: BTreeMap<String, Mean>,
}

impl EntrantSummary {
    /// Its win rate, or how often it succeeded where it plays alone.
    pub fn rate(&self) -> Option<Interval> {
        self.win_rate.or(self.success)
    }
}

/// The spread of people who play as an entrant: figures over series, each one person's.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct PeopleSummary {
    /// The entrant.
    pub name: String,
    /// Whom it met.
    pub against: String,
    /// The point of a sweep; empty otherwise.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub point: String,
    /// People.
    pub people: u64,
    /// Matches of each.
    pub matches: u64,
    /// The spread of its people.
    #[serde(flatten)]
    pub figures: PeopleFigures,
}

/// Two entrants against each other; figures of `a` against `b`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "the fields are named after the figures they carry")]
pub struct PairingSummary {
    pub a: String,
    pub b: String,
    pub matches: u64,
    pub wins: u64,
    pub draws: u64,
    pub losses: u64,
    pub win_rate: Option<Interval>,
    /// The share that the ratings of a tournament expect.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub expected: Option<f64>,
    /// Probability that `a` is the stronger, by all that both played in a tournament.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stronger: Option<f64>,
}
