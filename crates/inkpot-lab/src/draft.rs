//! What was asked for, before it is checked: a brief or a command line as plain data.

use inkpot_core::{KnobValue, Knobs};
use serde::{Deserialize, Serialize};

/// Kind of a study.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum StudyKind {
    /// Every entrant meets every other.
    #[default]
    Batch,
    /// One pairing at every value of one or two knobs.
    Sweep,
    /// A field that is ranked.
    Tournament,
    /// Which of two is better, each other's opponents or against the same ones.
    Compare,
    /// Knob values that meet targets, rung by rung, proved on fresh blocks.
    Tune,
}

impl StudyKind {
    /// All kinds.
    pub const ALL: [Self; 5] = [Self::Batch, Self::Sweep, Self::Tournament, Self::Compare, Self::Tune];

    /// Its name in briefs and JSON.
    pub fn name(self) -> &'static str {
        match self {
            Self::Batch => "batch",
            Self::Sweep => "sweep",
            Self::Tournament => "tournament",
            Self::Compare => "compare",
            Self::Tune => "tune",
        }
    }
}

/// What was asked for.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Draft {
    /// Kind of the study.
    pub kind: StudyKind,
    /// Name of the game.
    pub game: String,
    /// Level, if not the game's first.
    pub level: Option<String>,
    /// Seed of all chance.
    pub seed: Option<u64>,
    /// Matches per pairing or point.
    pub matches: Option<u64>,
    /// Matches that the same people play in a row.
    pub series: Option<u64>,
    /// Confidence of all intervals.
    pub confidence: Option<f64>,
    /// Rules knobs that are set.
    pub rules: Knobs,
    /// The entrants.
    pub entrants: Vec<EntrantDraft>,
    /// Knobs to vary.
    pub vary: Vec<VaryDraft>,
    /// Wanted win rate of the first entrant.
    pub target: Option<f64>,
    /// Time that the game has for a decision, in milliseconds.
    pub frame_ms: Option<f64>,
    /// Who meets whom in a tournament.
    pub format: Option<Format>,
    /// Rounds of a Swiss tournament.
    pub rounds: Option<u64>,
    /// The entrant whose rating is 0.
    pub anchor: Option<String>,
    /// Whether a comparison stops once it is clear.
    pub until_clear: bool,
    /// How far apart two may be, in win rate, and still count as equal.
    pub equal_within: Option<f64>,
    /// What a comparison must establish.
    pub require: Option<Requirement>,
}

/// Who meets whom in a tournament.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Format {
    /// Everybody meets everybody.
    #[default]
    RoundRobin,
    /// In each round those of like score so far.
    Swiss,
    /// Whoever loses is out.
    Knockout,
}

impl Format {
    /// All formats.
    pub const ALL: [Self; 3] = [Self::RoundRobin, Self::Swiss, Self::Knockout];

    /// Its name in briefs and on the command line.
    pub fn name(self) -> &'static str {
        match self {
            Self::RoundRobin => "round-robin",
            Self::Swiss => "swiss",
            Self::Knockout => "knockout",
        }
    }
}

/// What a comparison must establish of the first of its two entrants.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Requirement {
    /// That it is better.
    Better,
    /// That it is worse by no more than still counts as equal.
    NotWorse,
}

/// How much worse, in win rate, still counts as not worse where nothing is said.
const NOT_WORSE_BY: f64 = 0.05;

impl Requirement {
    /// Within how much two count as equal under a requirement: as asked, and for not worse, which without a margin would
    /// be better, 0.05 where nothing is.
    pub fn margin(required: Option<Self>, asked: Option<f64>) -> Option<f64> {
        asked.or((required == Some(Self::NotWorse)).then_some(NOT_WORSE_BY))
    }

    /// Both.
    pub const ALL: [Self; 2] = [Self::Better, Self::NotWorse];

    /// Its name in briefs and on the command line.
    pub fn name(self) -> &'static str {
        match self {
            Self::Better => "better",
            Self::NotWorse => "not-worse",
        }
    }
}

/// An entrant as asked for.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct EntrantDraft {
    /// Its label; the agent's name if not given.
    pub name: Option<String>,
    /// Agent kind or preset.
    pub agent: String,
    /// Knobs that are set.
    pub knobs: Knobs,
    /// Knobs of which each value is an entrant of its own.
    pub vary: Vec<(String, VaryRange)>,
}

/// A knob to vary.
#[derive(Clone, Debug, PartialEq)]
pub struct VaryDraft {
    /// Whose knob: an entrant's label, or `rules`; the first entrant's if not given.
    pub of: Option<String>,
    /// The knob.
    pub knob: String,
    /// Its values.
    pub range: VaryRange,
}

/// The values a knob is varied over.
#[derive(Clone, Debug, PartialEq)]
#[expect(missing_docs, reason = "ends (both included) and number of evenly spaced points, or the values themselves")]
pub enum VaryRange {
    Span { low: f64, high: f64, points: u64 },
    List(Vec<KnobValue>),
}

/// One thing that is wrong with a draft.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Problem {
    /// Which key: `matches`, `entrant[1].knobs.skill`, `vary[0].points`.
    pub at: String,
    /// What is wrong.
    pub what: String,
    /// What is allowed, or what to do.
    pub help: String,
}

impl Problem {
    /// A problem at a key.
    pub fn new(at: impl Into<String>, what: impl Into<String>, help: impl Into<String>) -> Self {
        Self { at: at.into(), what: what.into(), help: help.into() }
    }
}
