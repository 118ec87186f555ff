//! Game files: the sheet of a game in another process, and the command that plays it.

use std::collections::BTreeSet;
use std::time::Duration;

use inkpot_core::{GameSheet, Knob, KnobRange, Knobs, LevelSheet, MOST_SEATS, Measure, MeasureOf, Wanted};
use serde::Deserialize;
use thiserror::Error;

/// Ticks a second of a game in real time that states none: the resolution of its lengths and changes of score.
const TICKS_PER_SECOND: f64 = 10.0;

/// A game file.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
#[expect(clippy::struct_excessive_bools, reason = "each is a key of the file")]
pub struct GameFile {
    /// The game's name.
    pub name: String,
    /// One line about it.
    #[serde(default)]
    pub(crate) help: String,
    /// The program and its arguments; it runs in the folder of the file.
    pub(crate) command: Vec<String>,
    /// Whether the command is stepped from outside; false for one that plays whole matches by itself.
    pub(crate) steps: bool,
    /// Whether each match gets a process of its own.
    #[serde(default)]
    pub(crate) per_match: bool,
    /// Names of environment variables to pass on besides `PATH`.
    #[serde(default)]
    pub(crate) environment: Vec<String>,
    /// The number of seats, or its ends.
    pub(crate) seats: Seats,
    /// Whether lengths and times are seconds; otherwise they are turns.
    #[serde(default)]
    pub(crate) real_time: bool,
    /// Whether answers list the changes of the scores; without them a match has no course.
    #[serde(default = "yes")]
    pub(crate) changes: bool,
    /// Resolution of times in real time, 1 to 1,000 ticks a second.
    pub(crate) ticks_per_second: Option<f64>,
    /// The limits of a match.
    #[serde(default)]
    pub(crate) limits: Limits,
    /// Rules knobs.
    #[serde(default, rename = "rule")]
    pub(crate) rules: Vec<KnobText>,
    /// Levels; the first is the default.
    #[serde(default, rename = "level")]
    pub(crate) levels: Vec<LevelText>,
    /// Agents, with their knobs and presets.
    #[serde(default, rename = "agent")]
    pub(crate) agents: Vec<AgentText>,
    /// Measures.
    #[serde(default, rename = "measure")]
    pub(crate) measures: Vec<MeasureText>,
}

fn yes() -> bool {
    true
}

/// The numbers of seats of a game file.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(untagged, expecting = "`seats` must be a number, or the fewest and the most, as in `seats = [1, 8]`")]
pub(crate) enum Seats {
    /// One number.
    Just(usize),
    /// The fewest and the most.
    Between([usize; 2]),
}

/// The limits of a match.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct Limits {
    /// The longest time until an answer, in seconds.
    pub(crate) match_s: f64,
    /// The largest answer, in KiB.
    pub(crate) answer_kb: u64,
}

impl Default for Limits {
    fn default() -> Self {
        Self { match_s: 60.0, answer_kb: 1_024 }
    }
}

impl Limits {
    /// Returns the longest time until an answer.
    pub(crate) fn patience(&self) -> Duration {
        Duration::from_secs_f64(self.match_s)
    }
}

/// A knob of a game file: a range of numbers, or choices.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct KnobText {
    pub(crate) name: String,
    #[serde(default)]
    pub(crate) help: String,
    #[serde(default)]
    pub(crate) unit: String,
    pub(crate) from: Option<f64>,
    pub(crate) to: Option<f64>,
    pub(crate) default: Option<toml::Value>,
    #[serde(default)]
    pub(crate) whole: bool,
    #[serde(default)]
    pub(crate) choices: Vec<String>,
}

/// A level of a game file.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct LevelText {
    pub(crate) name: String,
    #[serde(default)]
    pub(crate) help: String,
    #[serde(default, rename = "knob")]
    pub(crate) knobs: Vec<KnobText>,
}

/// An agent of a game file, which plays inside of the game.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct AgentText {
    pub(crate) name: String,
    #[serde(default)]
    pub(crate) help: String,
    #[serde(default, rename = "knob")]
    pub(crate) knobs: Vec<KnobText>,
    #[serde(default, rename = "preset")]
    pub(crate) presets: Vec<PresetText>,
}

/// A preset of an agent.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct PresetText {
    pub(crate) name: String,
    #[serde(default)]
    pub(crate) help: String,
    pub(crate) knobs: Knobs,
}

/// A measure of a game file.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct MeasureText {
    pub(crate) name: String,
    pub(crate) label: Option<String>,
    #[serde(default)]
    pub(crate) unit: String,
    #[serde(default)]
    pub(crate) help: String,
    #[serde(default)]
    pub(crate) of: Of,
    pub(crate) wanted: Option<Direction>,
    #[serde(default)]
    pub(crate) success: bool,
}

/// Whose figure a measure is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum Of {
    /// Each seat has its own.
    #[default]
    Seat,
    /// The match has one.
    Match,
}

/// The wanted direction of a measure.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum Direction {
    /// More is better.
    More,
    /// Less is better.
    Less,
}

/// An error in a game file.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum GameFileError {
    /// It is no TOML, or has a missing, unknown or mistyped key; the message shows the line.
    #[error("{0}")]
    Malformed(String),
    /// Its keys do not fit together.
    #[error("{what}")]
    #[expect(missing_docs, reason = "the problem, and what to do")]
    Unfit { what: String, help: String },
}

fn unfit<T>(what: impl Into<String>, help: impl Into<String>) -> Result<T, GameFileError> {
    Err(GameFileError::Unfit { what: what.into(), help: help.into() })
}

impl GameFile {
    /// Reads and checks a game file. Errs with the first problem.
    pub fn read(text: &str) -> Result<Self, GameFileError> {
        let file: Self = toml::from_str(text).map_err(|error| GameFileError::Malformed(error.to_string()))?;
        file.check()?;
        Ok(file)
    }

    fn check(&self) -> Result<(), GameFileError> {
        if self.steps {
            return unfit(
                "`steps = true` is not supported yet",
                "set `steps = false`, and let the command play whole matches by itself",
            );
        }
        if self.command.first().is_none_or(String::is_empty) {
            return unfit(
                "`command` is empty",
                "write the program and its arguments: `command = [\"python3\", \"game.py\"]`",
            );
        }
        let (fewest, most) = self.seats();
        if fewest == 0 || fewest > most || most > MOST_SEATS {
            return unfit(
                format!("`seats` cannot be {fewest} to {most}"),
                format!("write one number, or the fewest and the most, from 1 to {MOST_SEATS}: `seats = [1, 8]`"),
            );
        }
        let rate = self.ticks_per_second.unwrap_or(TICKS_PER_SECOND);
        if !(1.0..=1_000.0).contains(&rate) {
            return unfit(format!("`ticks_per_second` cannot be {rate}"), "it must be a number from 1 to 1,000");
        }
        if self.ticks_per_second.is_some() && !self.real_time {
            return unfit(
                "`ticks_per_second` has no effect in a game of turns",
                "set `real_time = true`, or leave it out",
            );
        }
        if !(0.001..=86_400.0).contains(&self.limits.match_s) {
            return unfit(
                format!("`match_s` cannot be {}", self.limits.match_s),
                "it must be a number of seconds up to 86,400",
            );
        }
        if !(1..=1_048_576).contains(&self.limits.answer_kb) {
            return unfit(format!("`answer_kb` cannot be {}", self.limits.answer_kb), "it must be 1 to 1,048,576 KiB");
        }
        if self.agents.is_empty() {
            return unfit(
                "there is no agent",
                "describe each agent that can play by an [[agent]] table with its `name`",
            );
        }
        names("game", std::iter::once(&self.name))?;
        names("rule", self.rules.iter().map(|rule| &rule.name))?;
        names("level", self.levels.iter().map(|level| &level.name))?;
        names("measure", self.measures.iter().map(|measure| &measure.name))?;
        let presets = self.agents.iter().flat_map(|agent| agent.presets.iter().map(|preset| &preset.name));
        names("agent", self.agents.iter().map(|agent| &agent.name).chain(presets))?;
        if self.measures.iter().filter(|measure| measure.success).count() > 1 {
            return unfit(
                "several measures say `success = true`",
                "keep the one by which a seat without opponents is judged",
            );
        }
        for knob in self.rules.iter().chain(self.levels.iter().flat_map(|level| &level.knobs)) {
            knob.knob()?;
        }
        for agent in &self.agents {
            let knobs = agent.knobs()?;
            for preset in &agent.presets {
                if let Err(wrong) = preset.knobs.resolve(&knobs) {
                    let first = wrong.first().map(ToString::to_string).unwrap_or_default();
                    return unfit(
                        format!("the preset `{}` of `{}`: {first}", preset.name, agent.name),
                        "mend its `knobs`",
                    );
                }
            }
        }
        Ok(())
    }

    fn seats(&self) -> (usize, usize) {
        match self.seats {
            Seats::Just(seats) => (seats, seats),
            Seats::Between([fewest, most]) => (fewest, most),
        }
    }

    /// Returns the resolution of times: ticks a second, or 1 tick a turn.
    pub(crate) fn ticks_a_unit(&self) -> f64 {
        if self.real_time { self.ticks_per_second.unwrap_or(TICKS_PER_SECOND) } else { 1.0 }
    }

    /// Returns the sheet of the game.
    pub(crate) fn sheet(&self) -> Result<GameSheet, GameFileError> {
        let (fewest, most) = self.seats();
        let levels = self.levels.iter().map(LevelText::sheet).collect::<Result<Vec<_>, _>>()?;
        Ok(GameSheet {
            name: self.name.clone(),
            help: self.help.clone(),
            seats: fewest..=most,
            ticks_per_second: self.real_time.then(|| self.ticks_a_unit()),
            rules: self.rules.iter().map(KnobText::knob).collect::<Result<_, _>>()?,
            levels: if levels.is_empty() { vec![LevelSheet::new("standard", "the only level")] } else { levels },
            level_file: None,
            measures: self.measures.iter().map(MeasureText::measure).collect(),
            without_chance: None,
        })
    }
}

/// Errs where two of these names are equal, or one cannot be typed.
fn names<'a>(what: &str, all: impl Iterator<Item = &'a String>) -> Result<(), GameFileError> {
    let mut known = BTreeSet::new();
    for name in all {
        let typable = !name.is_empty() && name.chars().all(|c| c.is_ascii_alphanumeric() || c == '_' || c == '-');
        if !typable {
            return unfit(
                format!("the name of a {what} cannot be `{name}`"),
                "use letters, digits, `-` and `_`, so that it can be typed",
            );
        }
        if !known.insert(name) {
            return unfit(format!("two are called `{name}` ({what})"), "give each a name of its own");
        }
    }
    Ok(())
}

impl KnobText {
    /// Returns the described knob. Errs if its keys do not fit together.
    pub(crate) fn knob(&self) -> Result<Knob, GameFileError> {
        let name = &self.name;
        names("knob", std::iter::once(name))?;
        let knob = match (self.from, self.to, self.choices.as_slice()) {
            (Some(from), Some(to), []) if from < to && from.is_finite() && to.is_finite() => {
                let default =
                    self.default.as_ref().and_then(|value| value.as_float().or(value.as_integer().map(|n| n as f64)));
                let Some(default) = default.filter(|default| (from..=to).contains(default)) else {
                    return unfit(
                        format!("the knob `{name}` needs a `default` from {from} to {to}"),
                        "write the value that it has when nobody sets it",
                    );
                };
                if self.whole {
                    if [from, to, default].iter().any(|x| x.fract() != 0.0) {
                        return unfit(
                            format!("`from`, `to` and `default` of the knob `{name}` must be whole"),
                            "round them, or leave `whole` out",
                        );
                    }
                    Knob::whole(name, from as i64..=to as i64, default as i64)
                } else {
                    Knob::real(name, from..=to, default)
                }
            }
            (None, None, [_, _, ..]) if !self.whole => {
                names("choice", self.choices.iter())?;
                let words: Vec<&str> = self.choices.iter().map(String::as_str).collect();
                let mut knob = Knob::choice(name, &words);
                if let Some(value) = &self.default {
                    let Some(word) = value.as_str().filter(|word| words.contains(word)) else {
                        return unfit(
                            format!("the `default` of the knob `{name}` is none of its `choices`"),
                            format!("choose one of: {}", words.join(", ")),
                        );
                    };
                    if let KnobRange::Choice { default, .. } = &mut knob.range {
                        *default = word.into();
                    }
                }
                knob
            }
            _ => {
                return unfit(
                    format!("the knob `{name}` needs a range or choices"),
                    "write `from`, `to` and `default` with `from` below `to`, or `choices = [\"one\", \"another\"]`",
                );
            }
        };
        Ok(knob.unit(&self.unit).help(&self.help))
    }
}

impl LevelText {
    fn sheet(&self) -> Result<LevelSheet, GameFileError> {
        names("knob", self.knobs.iter().map(|knob| &knob.name))?;
        let knobs = self.knobs.iter().map(KnobText::knob).collect::<Result<_, _>>()?;
        Ok(LevelSheet { name: self.name.clone(), help: self.help.clone(), knobs })
    }
}

impl AgentText {
    /// Returns the knobs of the agent. Errs if one is wrong.
    pub(crate) fn knobs(&self) -> Result<Vec<Knob>, GameFileError> {
        names("knob", self.knobs.iter().map(|knob| &knob.name))?;
        self.knobs.iter().map(KnobText::knob).collect()
    }
}

impl MeasureText {
    fn measure(&self) -> Measure {
        let label = self.label.as_deref().unwrap_or(&self.name);
        let measure = match self.of {
            Of::Seat => Measure::seat(&self.name, label, &self.unit, &self.help),
            Of::Match => Measure::of_match(&self.name, label, &self.unit, &self.help),
        };
        let measure = match self.wanted {
            Some(Direction::More) => measure.wanted(Wanted::More),
            Some(Direction::Less) => measure.wanted(Wanted::Less),
            None => measure,
        };
        if self.success { measure.success() } else { measure }
    }
}

/// Whether a measure is of each seat.
pub(crate) fn is_of_seat(measure: &Measure) -> bool {
    measure.of == MeasureOf::Seat
}
