//! The difficulty sheet: the file that a game loads and a build server measures again.

use std::collections::BTreeMap;

use inkpot_core::{GameEntry, KnobValue, Knobs};
use inkpot_stats::Solved;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::asked::{Seated, as_written, sheet_of};
use super::{Found, FoundRung, Free, Met, Player, Rung, Target, Texts, Tune};
use crate::Made;
use crate::searching::FIRST_PROOF_BLOCK;

/// Version of the sheet's format.
pub(crate) const SHEET_FORMAT: u32 = 1;

/// A difficulty sheet: by rung the knob values and modifiers, the texts, and the measured targets.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[schemars(title = "Difficulty sheet")]
pub struct Sheet {
    /// Version of this format: 1.
    pub format: u32,
    /// The program that wrote it.
    pub program: String,
    /// Name of the game.
    pub game: String,
    /// The level, as it is typed: a name, `NAME:knob=value`, or the path of a file.
    pub level: String,
    /// Languages of the titles and texts.
    #[serde(default)]
    pub languages: Vec<String>,
    /// Every rules knob, before a rung changes it.
    #[schemars(with = "BTreeMap<String, Value>")]
    pub rules: Knobs,
    /// The opponent before a rung changes it.
    pub opponent: SheetAgent,
    /// The proof: study, seed and size, and the brief that asked for it.
    pub proof: SheetProof,
    /// The rungs, in order.
    #[serde(rename = "rung")]
    pub rungs: Vec<SheetRung>,
}

/// A number or a word, for the schema.
#[derive(JsonSchema)]
#[serde(untagged)]
#[expect(dead_code, reason = "it only describes knob values in the schema")]
enum Value {
    Number(f64),
    Word(String),
}

/// An agent with all its knobs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SheetAgent {
    /// Its kind or preset.
    pub agent: String,
    /// The weight among the players of a rung.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub weight: Option<f64>,
    /// Every knob.
    #[schemars(with = "BTreeMap<String, Value>")]
    pub knobs: Knobs,
}

/// The proof of a sheet.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SheetProof {
    /// The study.
    pub study: String,
    /// Its seed.
    pub seed: u64,
    /// Number of the proof's first block; the search used lower ones.
    pub first_block: u64,
    /// Matches of each rung and player.
    pub matches: u64,
    /// Matches that the same people played in a row, if they did.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub series: Option<u64>,
    /// Confidence of the intervals.
    pub confidence: f64,
    /// Matches of the search before it, over all rungs.
    pub search_matches: u64,
    /// The brief that asked for it.
    pub brief: String,
}

/// A rung.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SheetRung {
    /// Its name.
    pub name: String,
    /// Display name by language.
    #[serde(default)]
    pub title: Texts,
    /// Description by language.
    #[serde(default)]
    pub text: Texts,
    /// Every knob of the opponent.
    #[schemars(with = "BTreeMap<String, Value>")]
    pub opponent: Knobs,
    /// Every rules knob that differs from those of the sheet.
    #[serde(default)]
    #[schemars(with = "BTreeMap<String, Value>")]
    pub rules: Knobs,
    /// Changes against the base, as signed percentages: the values of `opponent` and `rules` hold them already.
    pub modifiers: SheetModifiers,
    /// The tuned knobs, with their intervals.
    #[serde(default)]
    pub turned: Vec<SheetKnob>,
    /// Targets that seemed out of reach, in words.
    #[serde(default)]
    pub misses: Vec<String>,
    /// Stand-ins for the player.
    #[serde(rename = "player")]
    pub players: Vec<SheetAgent>,
    /// Targets, with their measurements.
    #[serde(rename = "target")]
    pub targets: Vec<Target>,
}

/// Signed percentages by knob.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[expect(missing_docs, reason = "whose knobs")]
pub struct SheetModifiers {
    #[serde(default)]
    pub opponent: Texts,
    #[serde(default)]
    pub player: Texts,
    #[serde(default)]
    pub rules: Texts,
}

/// A knob that was turned.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SheetKnob {
    /// Whose and which: `opponent.skill`.
    pub knob: String,
    /// Its value.
    #[schemars(with = "Value")]
    pub value: KnobValue,
    /// Lower end of the value's interval, where a curve was followed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub low: Option<f64>,
    /// Upper end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub high: Option<f64>,
    /// Other values that give the same, each with the ends of its interval where these lie within the range.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub also: Vec<SheetValue>,
    /// Whether an end of its range holds it back, in words.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub binds: Option<String>,
}

/// Another value that gives the same.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[expect(missing_docs, reason = "the value and the ends of its interval")]
pub struct SheetValue {
    pub value: f64,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub low: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub high: Option<f64>,
}

impl Sheet {
    /// Builds the sheet of a search's choice, not proved yet.
    pub(crate) fn of(tune: &Tune, found: &Found, made: &Made, game: &dyn GameEntry) -> Self {
        let rungs = (0..tune.rungs.len()).map(|rung| rung_of(tune, found, rung, game)).collect();
        Self {
            format: SHEET_FORMAT,
            program: format!("inkpot {}", env!("CARGO_PKG_VERSION")),
            game: tune.ground.game.to_string(),
            level: tune.ground.level.to_string(),
            languages: tune.languages.clone(),
            rules: tune.ground.rules.clone(),
            opponent: SheetAgent {
                agent: tune.opponent.kind.clone(),
                weight: None,
                knobs: written(&tune.opponent.knobs),
            },
            proof: SheetProof {
                study: made.study.into(),
                seed: tune.ground.seed,
                first_block: FIRST_PROOF_BLOCK,
                matches: tune.proof,
                series: tune.ground.series,
                confidence: tune.ground.confidence,
                search_matches: found.matches,
                brief: made.brief.into(),
            },
            rungs,
        }
    }

    /// Whether every hard target was measured and met.
    pub fn holds(&self) -> bool {
        let hard = self.rungs.iter().flat_map(|rung| &rung.targets).filter(|target| target.hard);
        hard.into_iter().all(|target| target.measured.is_some_and(|measured| measured.verdict == Met::Met))
    }

    /// The JSON Schema of a sheet.
    pub fn schema() -> serde_json::Value {
        schemars::schema_for!(Sheet).to_value()
    }
}

fn rung_of(tune: &Tune, found: &Found, place: usize, game: &dyn GameEntry) -> SheetRung {
    let (rung, found) = (&tune.rungs[place], &found.rungs[place]);
    let seated = tune.seated(place, &found.point, game);
    let agent = |(player, knobs): (&Player, &Knobs)| SheetAgent {
        agent: player.entrant.agent.clone(),
        weight: Some(player.weight),
        knobs: written(knobs),
    };
    let rules = written(&seated.rules);
    let changed = rules.iter().filter(|(name, value)| tune.ground.rules.get(name) != Some(value));
    SheetRung {
        name: rung.name.clone(),
        title: rung.title.clone(),
        text: rung.text.clone(),
        modifiers: modifiers(tune, rung, &seated, game),
        rules: changed.map(|(name, value)| (name.to_string(), value.clone())).collect(),
        opponent: written(&seated.opponent),
        turned: tune.free.iter().zip(&found.point).map(|(free, x)| turned(free, *x, found)).collect(),
        misses: found.misses.iter().map(|miss| told_miss(miss, &found.binds)).collect(),
        players: rung.players.iter().zip(&seated.players).map(agent).collect(),
        targets: rung.targets.clone(),
    }
}

fn turned(free: &Free, x: f64, found_rung: &FoundRung) -> SheetKnob {
    let knob = free.name();
    SheetKnob {
        value: free.value(x),
        low: found_rung.interval.map(|(low, _)| low),
        high: found_rung.interval.map(|(_, high)| high),
        also: found_rung.others.iter().map(|&Solved { value, low, high }| SheetValue { value, low, high }).collect(),
        binds: found_rung.binds.iter().find(|text| text.starts_with(&knob)).cloned(),
        knob,
    }
}

/// Returns the rung's modifiers in percent.
fn modifiers(tune: &Tune, rung: &Rung, seated: &Seated, game: &dyn GameEntry) -> SheetModifiers {
    let base = |kind: &str| sheet_of(game, kind).map(|sheet| sheet.knobs.as_slice()).unwrap_or_default();
    let player = rung.players.first().zip(seated.players.first());
    let of_player = player
        .map(|(base_player, knobs)| percentages(&base_player.entrant.knobs, knobs, base(&base_player.entrant.kind)));
    SheetModifiers {
        opponent: percentages(&tune.opponent.knobs, &seated.opponent, base(&tune.opponent.kind)),
        player: of_player.unwrap_or_default(),
        rules: percentages(&tune.ground.rules, &seated.rules, &game.sheet().rules),
    }
}

/// Knobs as a person would write them. The proof plays with these.
fn written(knobs: &Knobs) -> Knobs {
    let value = |value: &KnobValue| match value {
        KnobValue::Number(x) => KnobValue::Number(as_written(*x)),
        KnobValue::Word(_) | KnobValue::File { .. } => value.clone(),
    };
    knobs.iter().map(|(name, text)| (name.to_string(), value(text))).collect()
}

fn told_miss(miss: &super::Miss, binds: &[String]) -> String {
    let mut text = format!("{} is out of reach", miss.target);
    if !miss.fights.is_empty() {
        text.extend([": ", &miss.fights.join(" and "), " stands against it"]);
    } else if miss.order {
        text += ": what the rungs must have in common stands against it";
    }
    if !binds.is_empty() {
        text.extend(["; ", &binds.join(", ")]);
    }
    text
}

/// Returns the numeric knobs' deviations from a base, as signed percentages.
fn percentages(base: &Knobs, now: &Knobs, knobs: &[inkpot_core::Knob]) -> Texts {
    let each = knobs.iter().filter_map(|knob| {
        let number = |of: &Knobs| of.get(&knob.name).and_then(KnobValue::number);
        let (from, to) = (number(base)?, number(now)?);
        let percent = (to - from) / from.abs() * 100.0;
        (from != 0.0 && (percent * 10.0).round() != 0.0).then(|| (knob.name.clone(), format!("{percent:+.1} %")))
    });
    each.collect()
}
