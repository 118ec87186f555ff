//! A plan: everything a study will do, resolved and checked before the first match.

use inkpot_core::{Casting, GameEntry, HAND, Knob, KnobValue, Knobs, Level, Setting, Spot};
use serde::{Deserialize, Serialize};

use crate::combinations::rank;
use crate::kinds::tournament::Played;
use crate::suspense::KEPT as LEADS_KEPT;
use crate::{Compare, Design, Proof, StudyKind, Subject, Tournament, Vary};

/// A study of more cells keeps no leads: they are for the suspense of each.
const MOST_CELLS_WITH_LEADS: u64 = 64;

/// Where and how matches are played, whatever is studied.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Ground {
    /// Name of the game.
    pub game: String,
    /// The level, resolved.
    pub level: Level,
    /// Every rules knob.
    pub rules: Knobs,
    /// Seed from which all chance is drawn.
    pub seed: u64,
    /// Matches that the same people play in a row: a block is a series of them.
    pub series: Option<u64>,
    /// Confidence of all intervals.
    pub confidence: f64,
    /// Whether everybody keeps the seat in which they are named: a block is one match then.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub seats_kept: bool,
}

/// A study that is played, resolved and checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Plan {
    /// Where and how matches are played.
    pub ground: Ground,
    /// Matches per cell as asked for.
    pub matches: u64,
    /// Blocks per cell; matches are rounded up to whole blocks.
    pub blocks: u64,
    /// The entrants.
    pub entrants: Vec<Entrant>,
    /// Time that the game has for a decision, in milliseconds; slower agents are told of.
    pub frame_ms: Option<f64>,
    /// Whether the choices of agents that no two runs play alike are kept, so that their matches play again.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub record: bool,
    /// What is played, as a study of its kind.
    pub design: Design,
    /// Cells by round; all in one, unless it is a tournament.
    pub rounds: Vec<usize>,
    /// The pairings of a batch, the points of a sweep; in a tournament the tables of the rounds drawn so far.
    pub cells: Vec<Cell>,
}

/// An entrant, resolved.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
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

/// A pairing or a point: who plays, and with which values.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Cell {
    /// The entrants by their place in the plan.
    pub entrants: Vec<usize>,
    /// Number of its first block; blocks of one number share their chance, those of different rounds are different.
    #[serde(default)]
    pub first_block: u64,
    /// What names the seats' own chance: cells of one number share it.
    #[serde(default)]
    pub pairing: u64,
    /// Values of the varied knobs, in the order of `vary`.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub point: Vec<KnobValue>,
    /// What is otherwise than on the ground and with the entrants of the plan.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub own: Option<Box<CellOwn>>,
}

/// What a cell has otherwise than its plan.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct CellOwn {
    /// The level, resolved.
    pub level: Level,
    /// Every rules knob.
    pub rules: Knobs,
    /// Every knob of each of its entrants.
    pub knobs: Vec<Knobs>,
}

impl Cell {
    /// A cell of these entrants on the ground of the plan, whose seats share their chance with those of the other
    /// cells.
    pub(crate) fn of(entrants: Vec<usize>, first_block: u64) -> Self {
        Self { entrants, first_block, pairing: 0, point: Vec::new(), own: None }
    }

    /// The same with seats that share their chance with the cells of the same entrants alone.
    pub(crate) fn of_its_own(entrants: Vec<usize>, first_block: u64) -> Self {
        let mut sorted = entrants.clone();
        sorted.sort_unstable();
        Self { pairing: rank(&sorted) as u64, ..Self::of(entrants, first_block) }
    }
}

impl Plan {
    /// Its kind.
    pub fn kind(&self) -> StudyKind {
        self.design.kind()
    }

    /// The knobs that are varied; none but in a sweep.
    pub fn vary(&self) -> &[Vary] {
        if let Design::Sweep(sweep) = &self.design { &sweep.vary } else { &[] }
    }

    /// The wanted win rate of a sweep's first entrant.
    pub fn target(&self) -> Option<f64> {
        if let Design::Sweep(sweep) = &self.design { sweep.target } else { None }
    }

    /// What is played as a tournament.
    pub fn tournament(&self) -> Option<&Tournament> {
        if let Design::Tournament(own) = &self.design { Some(own) } else { None }
    }

    /// What is played as a comparison.
    pub fn comparison(&self) -> Option<&Compare> {
        if let Design::Compare(own) = &self.design { Some(own) } else { None }
    }

    /// What is proved of a tuning.
    pub fn proof(&self) -> Option<&Proof> {
        if let Design::Tune(own) = &self.design { Some(own) } else { None }
    }

    /// Whether two are played at one game, level and set of rules.
    pub fn same_setting(&self, other: &Self) -> bool {
        let (own, other) = (&self.ground, &other.ground);
        own.game == other.game && own.rules == other.rules && own.level.same_as(&other.level)
    }

    /// Seats of the matches.
    pub fn seats(&self) -> u64 {
        self.cells.first().map_or(1, |cell| cell.entrants.len() as u64)
    }

    /// Matches a block: one for each rotation of the seats, or a series of them.
    pub fn matches_a_block(&self) -> u64 {
        if self.ground.seats_kept { 1 } else { self.ground.series.unwrap_or_else(|| self.seats()) }
    }

    /// How often the seats of this many entrants are rotated in a block.
    pub(crate) fn rounds_a_block(&self, seats: usize) -> u32 {
        self.ground.series.map_or(1, |series| (series / seats.max(1) as u64).max(1) as u32)
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

    /// Whether the cells are played block by block instead of one after the other.
    pub fn interleaved(&self) -> bool {
        self.design.own().interleaved()
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
        let leads = block < LEADS_KEPT && self.seats() == 2 && self.total_cells() <= MOST_CELLS_WITH_LEADS;
        Spot { cell: cell as u32, block: first_block + block, rotation: rotation as usize, match_index, leads }
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

    /// What the stage of a cell is given.
    pub fn setting(&self, cell: &Cell) -> Setting {
        let knobs = |index: usize, entrant: &Entrant| match &cell.own {
            Some(own) => own.knobs[index].clone(),
            None => entrant.knobs.clone(),
        };
        let cast = cell.entrants.iter().enumerate().map(|(index, &place)| {
            let entrant = &self.entrants[place];
            let knobs = knobs(index, entrant);
            let recorded = entrant.kind == HAND || self.record && is_by_the_clock(&knobs);
            Casting { recorded, ..Casting::new(place as u16, &entrant.kind, knobs) }
        });
        let ground = &self.ground;
        let (level, rules) = match &cell.own {
            Some(own) => (&own.level, &own.rules),
            None => (&ground.level, &ground.rules),
        };
        Setting {
            rules: rules.clone(),
            level: level.clone(),
            cast: cast.collect(),
            series: self.rounds_a_block(cell.entrants.len()),
            study_seed: ground.seed,
            pairing: cell.pairing,
        }
    }

    /// Rounds whose tables are drawn.
    pub fn rounds_drawn(&self) -> usize {
        let mut left = self.cells.len();
        self.rounds.iter().take_while(|tables| left.checked_sub(**tables).map(|rest| left = rest).is_some()).count()
    }

    /// Draws the next round of a tournament, given every table played before it.
    pub(crate) fn draw_round(&mut self, played: &[Played]) {
        if let Design::Tournament(tournament) = self.design {
            let seats = self.seats() as usize;
            tournament.draw_round(self, seats, played);
        }
    }

    /// Whether an entrant of this cell thinks by the clock, so that no two runs play it alike.
    pub fn by_the_clock(&self, cell: &Cell) -> bool {
        self.setting(cell).cast.iter().any(|casting| is_by_the_clock(&casting.knobs))
    }

    /// Whether matches of this cell are stored with the choices of whoever cannot play them again.
    pub fn is_recorded(&self, cell: &Cell) -> bool {
        self.setting(cell).cast.iter().any(|casting| casting.recorded)
    }

    /// Whether a person played it.
    pub fn is_by_hand(&self) -> bool {
        self.entrants.iter().any(|entrant| entrant.kind == HAND)
    }

    /// The name of a varied knob as typed on the command line: `house.skill`, `rules.touches`.
    pub fn vary_name(&self, vary: &Vary) -> String {
        match vary.subject {
            Subject::Entrant(index) => format!("{}.{}", self.entrants[index].name, vary.knob),
            Subject::Rules => format!("rules.{}", vary.knob),
            Subject::Level => vary.knob.clone(),
            Subject::Generator => format!("level.{}", vary.knob),
        }
    }

    /// The description of a varied knob.
    pub fn vary_sheet<'a>(&self, vary: &Vary, game: &'a dyn GameEntry) -> Option<&'a Knob> {
        let levels = &game.sheet().levels;
        let knobs = match vary.subject {
            Subject::Rules => &game.sheet().rules,
            Subject::Entrant(index) => &game.agent(&self.entrants[index].kind)?.knobs,
            Subject::Level => return None,
            Subject::Generator => &levels.iter().find(|level| level.name == self.ground.level.name())?.knobs,
        };
        knobs.iter().find(|knob| knob.name == vary.knob)
    }

    /// A cell in words: `guest against house`, `skill 0.4`.
    pub fn cell_name(&self, cell: &Cell) -> String {
        if cell.point.is_empty() {
            let names: Vec<&str> = cell.entrants.iter().map(|&index| self.entrants[index].name.as_str()).collect();
            return names.join(" against ");
        }
        let values = self.vary().iter().zip(&cell.point).map(|(vary, value)| format!("{} {value}", vary.knob));
        values.collect::<Vec<_>>().join(", ")
    }
}

/// Whether an agent with these knobs thinks by the clock.
pub(crate) fn is_by_the_clock(knobs: &Knobs) -> bool {
    knobs.get("millis").is_some()
}
