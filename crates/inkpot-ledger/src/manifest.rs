//! The manifest: a study's identity, its progress, and the checksums of its files.

use std::collections::BTreeMap;
use std::time::SystemTime;

use serde::{Deserialize, Serialize};

use crate::files::checksum;
use crate::part_list::ListedPart;

/// Version of the study format that this crate writes.
pub const ROW_FORMAT: u32 = 5;
/// The oldest version that it reads: the manifest itself lists the parts.
pub(crate) const OLDEST_FORMAT: u32 = 4;

/// The manifest of a study: identity and progress. Times and rates live here, so that summaries compare byte for byte.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Manifest {
    /// Version of the study format.
    pub format: u32,
    /// The study's name.
    pub study: String,
    /// Its kind.
    pub kind: String,
    /// Its game.
    pub game: String,
    /// Version of the program that began it.
    pub program: String,
    /// The seed of all its chance.
    pub seed: u64,
    /// The machine on which it was played.
    pub machine: Machine,
    /// The start, UTC.
    pub started: String,
    /// The completion, UTC.
    pub ended: Option<String>,
    /// The state: how far it got.
    pub state: State,
    /// The phase: a study that is searched for ends in one that is played.
    pub phase: Phase,
    /// Blocks of the whole study.
    pub blocks: u64,
    /// Blocks that are stored.
    pub blocks_done: u64,
    /// Matches that are stored.
    pub matches_done: u64,
    /// Seconds spent playing, over all sittings.
    pub seconds: f64,
    /// SHA-256 of every finished file, by its path in the folder; parts stand in a list of their own, which is among
    /// them once the study is complete.
    pub files: BTreeMap<String, String>,
    /// The parts by their first block, as the list has them.
    #[serde(skip)]
    pub(crate) parts: BTreeMap<u64, ListedPart>,
    /// Decision times, by entrant and, in a sweep, by point.
    #[serde(default)]
    pub decision_times: Vec<DecisionTime>,
    /// SHA-256 of this manifest as text without it; studies of the first releases have none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    checksum: Option<String>,
}

/// The machine of a study.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Machine {
    /// Operating system.
    pub os: String,
    /// Processor family.
    pub arch: String,
    /// Threads used last.
    pub threads: usize,
}

/// The state of a study: how far it got.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum State {
    /// Under way, or killed.
    Running,
    /// Stopped on request, with everything finished saved.
    Interrupted,
    /// All matches played and summed up.
    Complete,
}

/// The phase of a study.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Phase {
    /// A search for the agents or values to play is not finished.
    Search,
    /// The planned blocks are played.
    Play,
}

/// Decision times of an entrant. They differ from run to run, so they have no place in the summary.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct DecisionTime {
    /// The entrant's label.
    pub entrant: String,
    /// The point of a sweep, in words; none over everything it played.
    pub point: Option<String>,
    /// Decisions that were timed.
    pub decisions: u64,
    /// Mean, in microseconds.
    pub mean_us: f64,
    /// Median, if each was timed.
    #[serde(default)]
    pub p50_us: Option<f64>,
    /// Time within which 95 of 100 decisions stay, if each was timed.
    pub p95_us: Option<f64>,
    /// Time within which 99 of 100 decisions stay, if each was timed.
    pub p99_us: Option<f64>,
}

impl State {
    /// One word for tables.
    pub fn word(self) -> &'static str {
        match self {
            Self::Running => "unfinished",
            Self::Interrupted => "interrupted",
            Self::Complete => "complete",
        }
    }
}

/// Now, as UTC text to the second.
pub(crate) fn now() -> String {
    humantime::format_rfc3339_seconds(SystemTime::now()).to_string()
}

impl Manifest {
    /// The manifest of a study that begins now. It gets its name where it is settled.
    pub fn begin(kind: &str, game: &str, seed: u64, blocks: u64, machine: Machine) -> Self {
        Self {
            format: ROW_FORMAT,
            study: String::new(),
            kind: kind.into(),
            game: game.into(),
            program: env!("CARGO_PKG_VERSION").into(),
            seed,
            machine,
            started: now(),
            ended: None,
            state: State::Running,
            phase: Phase::Play,
            blocks,
            blocks_done: 0,
            matches_done: 0,
            seconds: 0.0,
            files: BTreeMap::new(),
            parts: BTreeMap::new(),
            decision_times: Vec::new(),
            checksum: None,
        }
    }

    /// Whether these are the bytes that a file had when it was written.
    pub fn vouches_for(&self, name: &str, bytes: &[u8]) -> bool {
        self.files.get(name).is_some_and(|stored| *stored == checksum(bytes))
    }

    /// Files that it knows, parts among them.
    pub fn file_count(&self) -> usize {
        self.files.len() + self.parts.len()
    }

    /// Counts the stored parts.
    pub(crate) fn count(&mut self) {
        self.blocks_done = self.parts.values().map(|part| part.span.end - part.span.start).sum();
        self.matches_done = self.parts.values().map(|part| part.matches).sum();
    }

    /// Returns the manifest as text with its checksum.
    pub(crate) fn sealed(&self) -> Result<String, serde_json::Error> {
        let mut sealed = self.clone();
        sealed.checksum = Some(self.own_checksum()?);
        Ok(serde_json::to_string_pretty(&sealed)? + "\n")
    }

    /// It, if it is as it was sealed; one of the first releases is believed.
    pub(crate) fn unsealed(mut self) -> Option<Self> {
        let stored = self.checksum.take();
        let sum = self.own_checksum().ok()?;
        stored.is_none_or(|stored| stored == sum).then_some(self)
    }

    fn own_checksum(&self) -> Result<String, serde_json::Error> {
        let bare = Self { checksum: None, ..self.clone() };
        Ok(checksum(serde_json::to_string(&bare)?.as_bytes()))
    }
}
