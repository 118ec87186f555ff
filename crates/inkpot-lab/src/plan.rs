//! A plan: everything a study will do, resolved and checked before the first match.

use inkpot_core::{AgentSheet, GameEntry, Knob, KnobValue, Knobs, Setting, SettingError, Spot, Stage};

use crate::StudyKind;

/// A study, resolved and checked.
#[derive(Clone, Debug, PartialEq)]
pub struct Plan {
    /// Kind of the study.
    pub kind: StudyKind,
    /// Name of the game.
    pub game: String,
    /// Name of the level.
    pub level: String,
    /// Seed of all chance.
    pub seed: u64,
    /// Matches per cell as asked for.
    pub matches: u64,
    /// Blocks per cell; matches are rounded up to whole blocks.
    pub blocks: u64,
    /// Confidence of all intervals.
    pub confidence: f64,
    /// Every rules knob.
    pub rules: Knobs,
    /// The entrants.
    pub entrants: Vec<Entrant>,
    /// Knobs that are varied, none in a batch.
    pub vary: Vec<Vary>,
    /// Wanted win rate of the first entrant.
    pub target: Option<f64>,
    /// Time that the game has for a decision, in milliseconds; slower agents are told of.
    pub frame_ms: Option<f64>,
    /// The pairings of a batch, the points of a sweep.
    pub cells: Vec<Cell>,
}

/// An entrant, resolved.
#[derive(Clone, Debug, PartialEq)]
pub struct Entrant {
    /// Its label.
    pub name: String,
    /// Agent kind or preset as asked for.
    pub agent: String,
    /// Agent kind.
    pub kind: String,
    /// Knobs set by the preset and by hand.
    pub given: Knobs,
    /// Every knob.
    pub knobs: Knobs,
}

/// A knob that is varied, with its values.
#[derive(Clone, Debug, PartialEq)]
pub struct Vary {
    /// Whose knob.
    pub subject: Subject,
    /// The knob.
    pub knob: String,
    /// Its values; numbers rise.
    pub values: Vec<KnobValue>,
}

/// Whose knob is varied.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Subject {
    /// An entrant's, by its place.
    Entrant(usize),
    /// The game's rules.
    Rules,
}

/// A pairing or a point: who plays, and with which values.
#[derive(Clone, Debug, PartialEq)]
pub struct Cell {
    /// The entrants by their place in the plan.
    pub entrants: Vec<usize>,
    /// Values of the varied knobs, in the order of `vary`.
    pub point: Vec<KnobValue>,
    /// What the stage is given.
    pub setting: Setting,
}

impl Plan {
    /// Matches a block: the seats.
    pub fn rotations(&self) -> u64 {
        self.cells.first().map_or(1, |cell| cell.entrants.len() as u64)
    }

    /// Blocks of the whole study.
    pub fn total_blocks(&self) -> u64 {
        self.blocks * self.cells.len() as u64
    }

    /// Matches of the whole study.
    pub fn total_matches(&self) -> u64 {
        self.total_blocks() * self.rotations()
    }

    /// Where a match of the study is, by its number.
    pub fn spot(&self, match_index: u64) -> Spot {
        let (block, rotation) = (match_index / self.rotations(), match_index % self.rotations());
        let (cell, block) = (block / self.blocks, block % self.blocks);
        Spot { cell: cell as u32, block, rotation: rotation as usize, match_index }
    }

    /// Whether an entrant of this cell thinks by the clock, so that no two runs play it alike.
    pub fn by_the_clock(&self, cell: &Cell) -> bool {
        cell.setting.cast.iter().any(|casting| casting.knobs.get("millis").is_some())
    }

    /// The name of a varied knob as typed on the command line: `house.skill`, `rules.touches`.
    pub fn vary_name(&self, vary: &Vary) -> String {
        match vary.subject {
            Subject::Entrant(index) => format!("{}.{}", self.entrants[index].name, vary.knob),
            Subject::Rules => format!("rules.{}", vary.knob),
        }
    }

    /// The description of a varied knob.
    pub fn vary_sheet<'a>(&self, vary: &Vary, game: &'a dyn GameEntry) -> Option<&'a Knob> {
        let knobs = match vary.subject {
            Subject::Rules => &game.sheet().rules,
            Subject::Entrant(index) => &agent_sheet(game, &self.entrants[index].kind)?.knobs,
        };
        knobs.iter().find(|knob| knob.name == vary.knob)
    }

    /// A cell in words: `guest against house`, `skill 0.4`.
    pub fn cell_name(&self, cell: &Cell) -> String {
        if self.vary.is_empty() {
            let names: Vec<&str> = cell.entrants.iter().map(|&index| self.entrants[index].name.as_str()).collect();
            return names.join(" against ");
        }
        let values = self.vary.iter().zip(&cell.point).map(|(vary, value)| format!("{} {value}", vary.knob));
        values.collect::<Vec<_>>().join(", ")
    }

    /// The stage of every cell.
    pub fn stages(&self, game: &dyn GameEntry) -> Result<Vec<Box<dyn Stage>>, SettingError> {
        self.cells.iter().map(|cell| game.stage(&cell.setting)).collect()
    }
}

/// The sheet of an agent kind of a game.
pub(crate) fn agent_sheet<'a>(game: &'a dyn GameEntry, kind: &str) -> Option<&'a AgentSheet> {
    game.agents().iter().find(|sheet| sheet.name == kind)
}
