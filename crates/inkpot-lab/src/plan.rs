//! A plan: everything a study will do, resolved and checked before the first match.

use inkpot_core::{AgentSheet, GameEntry, Knob, KnobValue, Knobs, Setting, Spot, Streams};

use crate::resolve::setting;
use crate::schedule::Played;
use crate::{Format, Proof, Requirement, StudyKind, Tournament};

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
    /// Matches that the same people play in a row: a block is a series of them.
    pub series: Option<u64>,
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
    /// Who meets whom, in a tournament.
    pub tournament: Option<Tournament>,
    /// What is asked of a comparison.
    pub comparison: Option<Comparison>,
    /// What a tuning proves.
    pub proof: Option<Proof>,
    /// Cells by round; all in one, unless it is a tournament.
    pub rounds: Vec<usize>,
    /// The pairings of a batch, the points of a sweep; in a tournament the tables of the rounds drawn so far.
    pub cells: Vec<Cell>,
}

/// What is asked of a comparison of the first two entrants.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Comparison {
    /// Whether it stops once it is clear.
    pub until_clear: bool,
    /// How far apart two may be, in win rate, and still count as equal.
    pub equal_within: Option<f64>,
    /// What must be established of the first.
    pub require: Option<Requirement>,
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
    /// Number of its first block; blocks of one number share their chance, those of different rounds are different.
    pub first_block: u64,
    /// What the stage is given.
    pub setting: Setting,
}

impl Plan {
    /// Seats of the matches.
    pub fn seats(&self) -> u64 {
        self.cells.first().map_or(1, |cell| cell.entrants.len() as u64)
    }

    /// Matches a block: one for each rotation of the seats, or a series of them.
    pub fn matches_a_block(&self) -> u64 {
        self.series.unwrap_or_else(|| self.seats())
    }

    /// How often the seats of so many entrants are rotated in a block.
    pub(crate) fn rounds_a_block(&self, seats: usize) -> u32 {
        self.series.map_or(1, |series| (series / seats.max(1) as u64).max(1) as u32)
    }

    /// Rows a block: one a seat and match.
    pub fn rows_a_block(&self) -> u64 {
        self.matches_a_block() * self.seats()
    }

    /// Cells of the whole study, drawn or not.
    pub fn total_cells(&self) -> u64 {
        self.rounds.iter().sum::<usize>() as u64
    }

    /// Blocks of the whole study; those of a comparison at most.
    pub fn total_blocks(&self) -> u64 {
        self.blocks * self.total_cells()
    }

    /// Matches of the whole study.
    pub fn total_matches(&self) -> u64 {
        self.total_blocks() * self.matches_a_block()
    }

    /// Whether the cells are played block by block instead of one after the other: what may stop at any block plays
    /// the same blocks of all.
    pub fn interleaved(&self) -> bool {
        self.comparison.is_some()
    }

    /// Where a match of the study is, by its number.
    pub fn spot(&self, match_index: u64) -> Spot {
        let (unit, rotation) = (match_index / self.matches_a_block(), match_index % self.matches_a_block());
        let (cell, block) = if self.interleaved() {
            let cells = self.cells.len() as u64;
            (unit % cells, unit / cells)
        } else {
            (unit / self.blocks, unit % self.blocks)
        };
        let first_block = self.cells.get(cell as usize).map_or(0, |cell| cell.first_block);
        Spot { cell: cell as u32, block: first_block + block, rotation: rotation as usize, match_index }
    }

    /// The round of a cell, from 0 up.
    pub fn round_of(&self, cell: usize) -> usize {
        let mut before = 0;
        let ends = self.rounds.iter().map(|tables| {
            before += tables;
            before
        });
        ends.take_while(|end| *end <= cell).count()
    }

    /// A cell of these entrants.
    pub(crate) fn cell(&self, entrants: Vec<usize>, first_block: u64) -> Cell {
        Cell { setting: setting(self, &entrants), entrants, point: Vec::new(), first_block }
    }

    /// Draws what needs no results: every round of a round robin, the first of the others.
    pub(crate) fn begin_tournament(&mut self, seats: usize) {
        let Some(tournament) = self.tournament else { return };
        let known = if tournament.format == Format::RoundRobin { self.rounds.len() } else { 1 };
        for _ in 0..known {
            self.draw_round(seats, &[]);
        }
    }

    /// Rounds whose tables are drawn.
    pub fn rounds_drawn(&self) -> usize {
        let mut left = self.cells.len();
        self.rounds.iter().take_while(|tables| left.checked_sub(**tables).map(|rest| left = rest).is_some()).count()
    }

    /// Draws the next round, given every table played before it.
    pub(crate) fn draw_round(&mut self, seats: usize, played: &[Played]) {
        let Some(tournament) = self.tournament else { return };
        let round = self.rounds_drawn();
        let mut chance = Streams::of_study(self.seed).draw(round as u64);
        let tables = tournament.draw(round, (self.entrants.len(), seats), played, &mut chance);
        // In a round robin all cells share their blocks, so that differences are paired; the rounds of the others are
        // new chance each, so that nothing is played twice.
        let first = if tournament.format == Format::RoundRobin { 0 } else { round as u64 * self.blocks };
        let cells: Vec<Cell> = tables.into_iter().map(|table| self.cell(table, first)).collect();
        self.cells.extend(cells);
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
}

/// The sheet of an agent kind of a game.
pub(crate) fn agent_sheet<'a>(game: &'a dyn GameEntry, kind: &str) -> Option<&'a AgentSheet> {
    game.agents().iter().find(|sheet| sheet.name == kind)
}
