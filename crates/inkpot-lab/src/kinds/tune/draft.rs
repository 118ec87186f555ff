//! A tuning as it was declared, before it is checked: a brief as plain data.

use std::collections::BTreeMap;

use inkpot_core::{GameSource, Knobs, Level};
use serde::{Deserialize, Serialize};

use crate::EntrantDraft;

/// Texts by language.
pub type Texts = BTreeMap<String, String>;

/// A tuning as asked for.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct TuneDraft {
    /// Name of the game.
    pub game: GameSource,
    /// Level, if not the game's first.
    pub level: Option<Level>,
    /// Seed from which all chance is drawn.
    pub seed: Option<u64>,
    /// Matches that the same people play in a row.
    pub series: Option<u64>,
    /// Confidence of all intervals.
    pub confidence: Option<f64>,
    /// Rules knobs that are set.
    pub rules: Knobs,
    /// The opponent that is tuned.
    pub opponent: EntrantDraft,
    /// The knobs that may be turned.
    pub free: Vec<FreeDraft>,
    /// Targets of every rung.
    pub targets: Vec<TargetDraft>,
    /// Languages in which every rung has a title and a text.
    pub languages: Vec<String>,
    /// Named sets of modifiers that rungs extend.
    pub profiles: Vec<ProfileDraft>,
    /// The rungs, easiest first.
    pub rungs: Vec<RungDraft>,
    /// Matches of the search at most, per rung.
    pub budget: Option<u64>,
    /// Matches of the proof, per rung and player.
    pub proof: Option<u64>,
    /// Standard error at which the search ends, in tolerances.
    pub precision: Option<f64>,
}

/// A knob that may be turned.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct FreeDraft {
    /// Whose: `opponent`, `player` or `rules`; the opponent's if not given.
    pub of: Option<String>,
    /// The knob.
    pub knob: String,
    /// Lowest value, if not the knob's own.
    pub low: Option<f64>,
    /// Highest value, if not the knob's own.
    pub high: Option<f64>,
    /// Words of a choice, if not all.
    pub choices: Vec<String>,
    /// The way it may change from rung to rung.
    pub across: Option<Across>,
    /// The largest step from rung to rung.
    pub step: Option<f64>,
}

/// The way a free knob may change from rung to rung.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Across {
    /// In any direction.
    #[default]
    Any,
    /// It never falls.
    Rising,
    /// It never rises.
    Falling,
    /// It is the same on all rungs.
    Shared,
}

impl Across {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Any, Self::Rising, Self::Falling, Self::Shared];

    /// Its name in briefs.
    pub fn name(self) -> &'static str {
        match self {
            Self::Any => "any",
            Self::Rising => "rising",
            Self::Falling => "falling",
            Self::Shared => "shared",
        }
    }
}

/// A figure that a rung should have.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct TargetDraft {
    /// The figure: `win_rate`, `draw_rate`, `score`, `score_margin`, `length` or a measure.
    pub figure: String,
    /// Whose: `player` or `opponent`; the player's if not given.
    pub side: Option<String>,
    /// The wanted value ...
    pub value: Option<f64>,
    /// ... and how far off still counts as met.
    pub within: Option<f64>,
    /// Or the least ...
    pub low: Option<f64>,
    /// ... and the most that is wanted.
    pub high: Option<f64>,
    /// The weight against the other targets.
    pub weight: Option<f64>,
    /// Whether it is a wish and not a requirement.
    pub soft: bool,
}

/// A named set of modifiers.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct ProfileDraft {
    /// Its name.
    pub name: String,
    /// The profile that it inherits from.
    pub extends: Option<String>,
    /// Display name by language.
    pub title: Texts,
    /// Description by language.
    pub text: Texts,
    /// Values and signed percentages for the opponent's knobs.
    pub opponent: Knobs,
    /// The same for the player's stand-in.
    pub player: Knobs,
    /// The same for the rules.
    pub rules: Knobs,
}

/// A rung: a profile with players and targets.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct RungDraft {
    /// Name, texts and modifiers.
    pub profile: ProfileDraft,
    /// The players, and how much each counts.
    pub players: Vec<(EntrantDraft, f64)>,
    /// The targets of the rung.
    pub targets: Vec<TargetDraft>,
}
