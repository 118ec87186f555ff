//! Descriptions of games, agents and measures: said once, read by tables, briefs, checks, figures and docs.

use std::ops::RangeInclusive;

use crate::{Knob, Knobs};

/// The sheet of a game.
#[derive(Clone, Debug)]
pub struct GameSheet {
    /// Its name, as typed.
    pub name: String,
    /// One line about it.
    pub help: String,
    /// The numbers of seats that it can have.
    pub seats: RangeInclusive<usize>,
    /// Ticks a second of a real-time game; none for turns.
    pub ticks_per_second: Option<f64>,
    /// Its rules knobs.
    pub rules: Vec<Knob>,
    /// Its levels; the first is the default.
    pub levels: Vec<LevelSheet>,
    /// The contents of a level file, in one line; none if the game reads no such files.
    pub level_file: Option<String>,
    /// Its measures, in the order in which the game gives them.
    pub measures: Vec<Measure>,
    /// The values of rules knobs with which neither the game nor any of its levels draws chance; none if it always may.
    pub without_chance: Option<Knobs>,
}

impl GameSheet {
    /// Whether neither the game nor its level draws chance under these rules.
    pub fn is_without_chance(&self, rules: &Knobs) -> bool {
        has_values(self.without_chance.as_ref(), rules)
    }
}

/// Whether these knobs have all the values of a condition; none is never met.
fn has_values(condition: Option<&Knobs>, knobs: &Knobs) -> bool {
    condition.is_some_and(|values| values.iter().all(|(name, value)| knobs.get(name) == Some(value)))
}

/// The sheet of a level.
#[derive(Clone, Debug)]
pub struct LevelSheet {
    /// Its name, as typed.
    pub name: String,
    /// One line about it.
    pub help: String,
    /// Knobs of its generator; none where it is always the same.
    pub knobs: Vec<Knob>,
}

impl LevelSheet {
    /// A level without knobs.
    pub fn new(name: &str, help: &str) -> Self {
        Self { name: name.into(), help: help.into(), knobs: Vec::new() }
    }

    /// With one more knob of its generator.
    #[must_use]
    pub fn knob(mut self, knob: Knob) -> Self {
        self.knobs.push(knob);
        self
    }
}

/// The sheet of an agent kind.
#[derive(Clone, Debug)]
pub struct AgentSheet {
    /// Its name, as typed.
    pub name: String,
    /// One line about it.
    pub help: String,
    /// Its knobs; a master stands before those that follow it.
    pub knobs: Vec<Knob>,
    /// Named sets of values.
    pub presets: Vec<Preset>,
    /// Whether its agents last for a block and keep their memory from match to match.
    pub remembers: bool,
    /// Whether it decides alike on every run, but for knobs that make it decide by the clock.
    pub repeats: bool,
    /// The values of its knobs with which its decisions follow from the perception alone; none if it always may draw
    /// chance.
    pub without_chance: Option<Knobs>,
}

impl AgentSheet {
    /// Whether it draws no chance with these values of its knobs.
    pub fn is_without_chance(&self, knobs: &Knobs) -> bool {
        has_values(self.without_chance.as_ref(), knobs)
    }

    /// Whether it plays without any knob set: one that plays by a file does not.
    pub fn plays_by_default(&self) -> bool {
        !self.knobs.iter().any(Knob::must_be_given)
    }
}

/// A named set of knob values of an agent kind.
#[derive(Clone, Debug)]
pub struct Preset {
    /// Its name, as typed.
    pub name: String,
    /// One line about it.
    pub help: String,
    /// The values it sets; the other knobs keep their defaults.
    pub knobs: Knobs,
}

/// A figure of behaviour.
#[derive(Clone, Debug)]
pub struct Measure {
    /// Its name in columns, JSON and options.
    pub name: String,
    /// Its name in figures and tables.
    pub label: String,
    /// Its unit, empty for counts and shares.
    pub unit: String,
    /// Whose figure it is.
    pub of: MeasureOf,
    /// The direction that is commonly wanted.
    pub wanted: Wanted,
    /// Its keeper.
    pub kept_by: Keeper,
    /// Whether it states, as 1 or 0, a seat's success: the outcome of a seat without opponents.
    pub success: bool,
    /// One line: what is counted.
    pub help: String,
}

/// The keeper of a measure: the game, or the table.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Keeper {
    /// The game gives it among its own.
    Game,
    /// It follows from how the scores change over time, by the name that such a measure has in every game.
    Scores,
}

/// Whose figure a measure is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MeasureOf {
    /// Each seat has its own.
    Seat,
    /// The match has one, stored with every seat.
    Match,
}

/// The direction of a measure that is commonly wanted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Wanted {
    /// More is better.
    More,
    /// Less is better.
    Less,
    /// It depends.
    Neither,
}

impl Measure {
    /// A measure of each seat.
    pub fn seat(name: &str, label: &str, unit: &str, help: &str) -> Self {
        Self {
            name: name.into(),
            label: label.into(),
            unit: unit.into(),
            of: MeasureOf::Seat,
            wanted: Wanted::Neither,
            kept_by: Keeper::Game,
            success: false,
            help: help.into(),
        }
    }

    /// A measure of the match as a whole.
    pub fn of_match(name: &str, label: &str, unit: &str, help: &str) -> Self {
        Self { of: MeasureOf::Match, ..Self::seat(name, label, unit, help) }
    }

    /// With the direction that is commonly wanted.
    #[must_use]
    pub fn wanted(self, wanted: Wanted) -> Self {
        Self { wanted, ..self }
    }

    /// Marks the measure (1 or 0) of a seat's success; one a game.
    #[must_use]
    pub fn success(self) -> Self {
        Self { success: true, ..self }
    }

    /// Kept for the game, from how its scores change; the name says which of the measures of every game it is.
    #[must_use]
    pub fn by_scores(self) -> Self {
        Self { kept_by: Keeper::Scores, ..self }
    }

    /// The label with its unit: `Length (s)`.
    pub fn titled(&self) -> String {
        if self.unit.is_empty() { self.label.clone() } else { format!("{} ({})", self.label, self.unit) }
    }
}
