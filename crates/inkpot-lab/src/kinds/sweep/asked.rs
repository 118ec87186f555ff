//! The request of a sweep, as a draft and resolved.

use inkpot_core::{GameEntry, Knob, KnobValue};
use serde::{Deserialize, Serialize};

use crate::{Plan, VaryRange};

/// The draft of a sweep.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct SweepDraft {
    /// Knobs to vary.
    pub vary: Vec<VaryDraft>,
    /// Wanted win rate of the first entrant.
    pub target: Option<f64>,
}

/// A knob to vary.
#[derive(Clone, Debug, PartialEq)]
pub struct VaryDraft {
    /// Whose knob: an entrant's label, `rules` or `level`; the first entrant's if not given.
    pub of: Option<String>,
    /// The knob; `level` of nobody varies the level itself.
    pub knob: String,
    /// Its values.
    pub range: VaryRange,
}

/// One pairing at every value of one or two knobs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Sweep {
    /// The knobs that are varied.
    pub vary: Vec<Vary>,
    /// Wanted win rate of the first entrant.
    pub target: Option<f64>,
}

/// A knob that is varied, with its values.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Vary {
    /// Whose knob.
    pub subject: Subject,
    /// The knob.
    pub knob: String,
    /// Its values; numbers rise.
    pub values: Vec<KnobValue>,
}

/// Whose knob is varied.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Subject {
    /// An entrant's, by its place.
    Entrant(usize),
    /// The game's rules.
    Rules,
    /// The level's name.
    Level,
    /// The generator of the level.
    Generator,
}

impl Vary {
    /// The name of the knob as typed on the command line: `house.skill`, `rules.touches`.
    pub fn name(&self, plan: &Plan) -> String {
        match self.subject {
            Subject::Entrant(index) => format!("{}.{}", plan.entrants[index].name, self.knob),
            Subject::Rules => format!("rules.{}", self.knob),
            Subject::Level => self.knob.clone(),
            Subject::Generator => format!("level.{}", self.knob),
        }
    }

    /// The description of the knob.
    pub fn sheet<'a>(&self, plan: &Plan, game: &'a dyn GameEntry) -> Option<&'a Knob> {
        let levels = &game.sheet().levels;
        let knobs = match self.subject {
            Subject::Rules => &game.sheet().rules,
            Subject::Entrant(index) => &game.agent(&plan.entrants[index].kind)?.knobs,
            Subject::Level => return None,
            Subject::Generator => &levels.iter().find(|level| level.name == plan.ground.level.name())?.knobs,
        };
        knobs.iter().find(|knob| knob.name == self.knob)
    }
}
