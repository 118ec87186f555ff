//! A plan: where, how and by whom the blocks of a study are played, resolved and checked before the first match.

use inkpot_core::{Casting, GameEntry, GameSource, HAND, KnobValue, Knobs, Level, Seating, Setting, Spot, Streams};
use serde::{Deserialize, Serialize};

use crate::combinations::rank;

/// Why the entrant of a row is known: stored rows are checked against the plan as they are read, and others were
/// played by it.
pub(crate) const OF_THE_CELL: &str = "rows are of the entrants of their cell";

/// The ground of the matches, for every kind of study.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Ground {
    /// The game.
    pub game: GameSource,
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

impl Ground {
    /// The seating of the ground: how the matches of a block spread a cast over this many seats.
    pub fn seating(&self, seats: usize) -> Seating {
        if self.seats_kept {
            return Seating::fixed(seats);
        }
        Seating::rotated(seats).in_series(self.series.unwrap_or(0) as usize / seats.max(1))
    }
}

/// The plan of a study of any kind, resolved and checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Plan {
    /// The ground of its matches.
    pub ground: Ground,
    /// Seats of a match.
    #[serde(default)]
    pub seats: u64,
    /// Matches per cell as asked for.
    pub matches: u64,
    /// Blocks per cell; matches are rounded up to whole blocks.
    pub blocks: u64,
    /// The entrants.
    pub entrants: Vec<Entrant>,
    /// The game's time a decision, in milliseconds; slower agents get a note.
    pub frame_ms: Option<f64>,
    /// Whether the choices of agents that no two runs play alike are kept, so that their matches play again.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub record: bool,
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
    /// Whether its agent decides alike on every run, but for the knobs below.
    #[serde(default = "repeats", skip_serializing_if = "is_true")]
    pub repeats: bool,
    /// Knobs that make it decide by the clock where they are set.
    #[serde(default = "clock_knobs")]
    pub clock: Vec<String>,
}

fn repeats() -> bool {
    true
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "what serde calls")]
fn is_true(flag: &bool) -> bool {
    *flag
}

/// Returns the clock knobs that plans of the first two releases leave out.
fn clock_knobs() -> Vec<String> {
    vec!["millis".into()]
}

impl Entrant {
    /// Whether it decides by the clock with these values of its knobs.
    pub(crate) fn is_by_the_clock(&self, knobs: &Knobs) -> bool {
        self.clock.iter().any(|knob| knobs.get(knob).is_some())
    }

    /// Whether every run plays it alike with these values of its knobs.
    fn repeats(&self, knobs: &Knobs) -> bool {
        self.repeats && !self.is_by_the_clock(knobs)
    }
}

/// A pairing or a point: entrants and values.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Cell {
    /// The entrants by their place in the plan.
    pub entrants: Vec<usize>,
    /// Number of its first block; blocks of one number share their chance, those of different rounds are different.
    #[serde(default)]
    pub first_block: u64,
    /// The number that names the seats' own chance: cells of one number share it.
    #[serde(default)]
    pub pairing: u64,
    /// Values of the varied knobs, in the order of `vary`.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub point: Vec<KnobValue>,
    /// The departure of the cell from the ground and the entrants of the plan.
    #[serde(rename = "own", default, skip_serializing_if = "Option::is_none")]
    pub variation: Option<Box<Variation>>,
}

/// The level, rules and knobs of a cell that departs from its plan.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Variation {
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
        Self { entrants, first_block, pairing: 0, point: Vec::new(), variation: None }
    }

    /// The same with seats that share their chance with the cells of the same entrants alone.
    pub(crate) fn of_its_own(entrants: Vec<usize>, first_block: u64) -> Self {
        let mut sorted = entrants.clone();
        sorted.sort_unstable();
        Self { pairing: rank(&sorted) as u64, ..Self::of(entrants, first_block) }
    }
}

impl Plan {
    /// Whether two are played at one game, level and set of rules.
    pub fn same_setting(&self, other: &Self) -> bool {
        let (ground, other) = (&self.ground, &other.ground);
        ground.game == other.game && ground.rules == other.rules && ground.level.same_as(&other.level)
    }

    /// Seats of the matches.
    pub fn seats(&self) -> u64 {
        // Plans of the first two releases say it by their cells alone.
        if self.seats > 0 { self.seats } else { self.cells.first().map_or(1, |cell| cell.entrants.len() as u64) }
    }

    /// The seating of the plan: how the matches of a block spread the entrants of a cell.
    pub fn seating(&self) -> Seating {
        self.ground.seating(self.seats() as usize)
    }

    /// The entrants of a match by seat, as places in the plan.
    pub fn seated(&self, spot: Spot) -> Vec<usize> {
        let mut places = Vec::new();
        let order = || Streams::of_study(self.ground.seed).order(spot.block);
        self.seating().seat(spot.rotation, order, &mut places);
        let cell = &self.cells[spot.cell as usize];
        places.into_iter().map(|place| cell.entrants[place]).collect()
    }

    /// Matches a block.
    pub fn matches_a_block(&self) -> u64 {
        self.seating().matches_a_block() as u64
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

    /// The round of a cell, from 0 up.
    pub fn round_of(&self, cell: usize) -> usize {
        let mut before = 0;
        let ends = self.rounds.iter().map(|tables| {
            before += tables;
            before
        });
        ends.take_while(|end| *end <= cell).count()
    }

    /// The setting of a cell, for its stage.
    pub fn setting(&self, cell: &Cell) -> Setting {
        let knobs = |index: usize, entrant: &Entrant| match &cell.variation {
            Some(varied) => varied.knobs[index].clone(),
            None => entrant.knobs.clone(),
        };
        let cast = cell.entrants.iter().enumerate().map(|(index, &place)| {
            let entrant = &self.entrants[place];
            let knobs = knobs(index, entrant);
            let recorded = entrant.kind == HAND || self.record && !entrant.repeats(&knobs);
            Casting { recorded, ..Casting::new(place as u16, &entrant.kind, knobs) }
        });
        let ground = &self.ground;
        let (level, rules) = match &cell.variation {
            Some(varied) => (&varied.level, &varied.rules),
            None => (&ground.level, &ground.rules),
        };
        Setting {
            rules: rules.clone(),
            level: level.clone(),
            cast: cast.collect(),
            seating: self.seating(),
            study_seed: ground.seed,
            pairing: cell.pairing,
        }
    }

    /// Rounds whose tables are drawn.
    pub fn rounds_drawn(&self) -> usize {
        let mut left = self.cells.len();
        self.rounds.iter().take_while(|tables| left.checked_sub(**tables).map(|rest| left = rest).is_some()).count()
    }

    /// Whether every run plays this cell alike: no entrant of it decides by the clock, or otherwise anew each time.
    pub fn repeats(&self, cell: &Cell) -> bool {
        let setting = self.setting(cell);
        setting.cast.iter().all(|casting| self.entrants[usize::from(casting.entrant)].repeats(&casting.knobs))
    }

    /// Whether nothing in this cell draws chance, by the sheets of the game and of its agents: then it is one match, however
    /// often it is played.
    pub(crate) fn is_without_chance(&self, cell: &Cell, game: &dyn GameEntry) -> bool {
        let setting = self.setting(cell);
        let draws_none =
            |casting: &Casting| game.agent(&casting.kind).is_some_and(|sheet| sheet.is_without_chance(&casting.knobs));
        // Three and more sit down in an order that each block draws.
        let sits_alike = setting.cast.len() < 3;
        let draws_none = setting.cast.iter().all(draws_none);
        sits_alike && draws_none && game.sheet().is_without_chance(&setting.rules) && self.repeats(cell)
    }

    /// Whether matches of this cell store the choices of agents that are not reproducible.
    pub fn is_recorded(&self, cell: &Cell) -> bool {
        self.setting(cell).cast.iter().any(|casting| casting.recorded)
    }

    /// Whether a person played it.
    pub fn is_by_hand(&self) -> bool {
        self.entrants.iter().any(|entrant| entrant.kind == HAND)
    }

    /// The pairing of a cell in words: `guest against house`.
    pub fn pairing_name(&self, cell: &Cell) -> String {
        let names: Vec<&str> = cell.entrants.iter().map(|&index| self.entrants[index].name.as_str()).collect();
        names.join(" against ")
    }
}
