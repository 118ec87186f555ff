//! Games and agents as tables and JSON, read off their sheets.

use inkpot_core::{
    ActionSpace, AgentSheet, Feature, FeatureSheet, GameEntry, GameSheet, Knob, KnobRange, Knobs, MeasureOf, Wanted,
};
use inkpot_lab::told_measures;
use serde_json::{Value, json};

use super::format::plain;
use super::table::{Column, table};

use crate::hint;

/// All games in a table.
pub(crate) fn games<'a>(games: impl Iterator<Item = &'a dyn GameEntry>, color: bool) -> String {
    let rows: Vec<Vec<String>> =
        games.map(|game| vec![game.sheet().name.clone(), seats(game), game.sheet().help.clone()]).collect();
    table(vec![Column::text("Game"), Column::figure("Seats"), Column::text("")], rows, color)
}

/// A game in full.
pub(crate) fn game(game: &dyn GameEntry, color: bool) -> String {
    let sheet = game.sheet();
    let time = match sheet.ticks_per_second {
        Some(ticks) => format!("real time, {} ticks a second", plain(ticks)),
        None => "in turns".into(),
    };
    let measures: Vec<Vec<String>> = told_measures(game)
        .iter()
        .map(|measure| {
            let of = if measure.of == MeasureOf::Seat { "seat" } else { "match" };
            vec![measure.name.clone(), measure.unit.clone(), of.into(), measure.help.clone()]
        })
        .collect();
    let mut parts = vec![
        format!("{}: {}\n{} seats, {time}.", sheet.name, sheet.help, seats(game)),
        format!("Rules (--rules KNOB=VALUE,...)\n{}", knobs(&sheet.rules, color)),
        levels(sheet, color),
        format!(
            "Measures\n{}",
            table(
                vec![Column::text("Measure"), Column::text("Unit"), Column::text("Of a"), Column::text("")],
                measures,
                color
            )
        ),
    ];
    parts.extend(feature_sheet(game).map(|sheet| features(&sheet, color)));
    parts.push(format!("Agents: {}", hint::command(["agents", &sheet.name])));
    parts.join("\n\n")
}

/// Returns a policy's observations and actions under the default rules.
fn feature_sheet(game: &dyn GameEntry) -> Option<FeatureSheet> {
    game.features(&Knobs::default().resolve(&game.sheet().rules).ok()?)
}

/// Describes the inputs and outputs of networks.
fn features(sheet: &FeatureSheet, color: bool) -> String {
    let rows = |all: &[Feature]| -> Vec<Vec<String>> {
        let row = |feature: &Feature| {
            let range = format!("{} to {}", plain(feature.low), plain(feature.high));
            vec![feature.name.clone(), range, feature.unit.clone(), feature.help.clone()]
        };
        all.iter().map(row).collect()
    };
    let figures = |name: &str, all: &[Feature]| {
        let columns = [Column::text(name), Column::text("Range"), Column::text("Unit"), Column::text("")];
        table(columns.into(), rows(all), color)
    };
    let actions = match &sheet.actions {
        ActionSpace::Continuous(all) => figures("Action", all),
        ActionSpace::Discrete(options) => {
            format!("It chooses one of {} actions: {}.", options.len(), options.join(", "))
        }
    };
    format!(
        "What a policy observes, each figure as a number from -1 to 1 over its range\n{}\n\nWhat a policy does\n{actions}",
        figures("Figure", &sheet.observation)
    )
}

/// Describes the levels of a game with the knobs of their generators, and its level files.
fn levels(sheet: &GameSheet, color: bool) -> String {
    let rows: Vec<Vec<String>> =
        sheet.levels.iter().map(|level| vec![level.name.clone(), level.help.clone()]).collect();
    let names = table(vec![Column::text("Level"), Column::text("")], rows, color);
    let mut parts = vec![format!("Levels (--level NAME or NAME:KNOB=VALUE,...; the first is the default)\n{names}")];
    let with_knobs = sheet.levels.iter().filter(|level| !level.knobs.is_empty());
    parts.extend(with_knobs.map(|level| format!("Knobs of {}\n{}", level.name, knobs(&level.knobs, color))));
    parts.extend(sheet.level_file.iter().map(|help| format!("A level file (--level FILE) holds {help}.")));
    parts.join("\n\n")
}

/// The agents of a game, presets under their kinds.
pub(crate) fn agents(game: &dyn GameEntry, color: bool) -> String {
    let mut rows = Vec::new();
    for sheet in game.agents() {
        rows.push(vec![sheet.name.clone(), "kind".into(), sheet.help.clone()]);
        rows.extend(sheet.presets.iter().map(|preset| {
            vec![format!("  {}", preset.name), format!("preset of {}", sheet.name), preset.help.clone()]
        }));
    }
    let list = table(vec![Column::text("Agent"), Column::text(""), Column::text("")], rows, color);
    format!("{list}\n\n{} shows the knobs.", hint::command(["agents", &game.sheet().name, "AGENT"]))
}

/// An agent in full; `preset` names the one asked for.
pub(crate) fn agent(sheet: &AgentSheet, preset: Option<&str>, color: bool) -> String {
    let mut parts = vec![format!("{}: {}", sheet.name, sheet.help), format!("Knobs\n{}", knobs(&sheet.knobs, color))];
    if let Some(curves) = curves(sheet, color) {
        parts.push(curves);
    }
    let presets: Vec<Vec<String>> = sheet
        .presets
        .iter()
        .filter(|known| preset.is_none_or(|preset| known.name == preset))
        .map(|preset| {
            let values: Vec<String> = preset.knobs.iter().map(|(name, value)| format!("{name}={value}")).collect();
            vec![preset.name.clone(), preset.help.clone(), values.join(" ")]
        })
        .collect();
    if !presets.is_empty() {
        let columns = vec![Column::text("Preset"), Column::text(""), Column::text("Sets")];
        parts.push(format!("Presets\n{}", table(columns, presets, color)));
    }
    parts.join("\n\n")
}

/// Describes the followers of a master knob at its low end, middle and high end.
fn curves(sheet: &AgentSheet, color: bool) -> Option<String> {
    let followers: Vec<&Knob> = sheet.knobs.iter().filter(|knob| knob.master().is_some()).collect();
    let master =
        sheet.knobs.iter().find(|knob| Some(knob.name.as_str()) == followers.first().and_then(|f| f.master()))?;
    let (low, high) = master.bounds()?;
    let rows: Vec<Vec<String>> = followers
        .iter()
        .map(|knob| {
            let at = |x: f64| knob.followed(x).map(|value| value.to_string()).unwrap_or_default();
            vec![knob.name.clone(), at(low), at(f64::midpoint(low, high)), at(high), knob.unit.clone()]
        })
        .collect();
    let columns = vec![
        Column::text("Follower"),
        Column::figure("Low end"),
        Column::figure("Middle"),
        Column::figure("High end"),
        Column::text("Unit"),
    ];
    Some(format!("Knobs that `{}` moves, unless the spec sets them\n{}", master.name, table(columns, rows, color)))
}

fn knobs(knobs: &[Knob], color: bool) -> String {
    let rows: Vec<Vec<String>> = knobs
        .iter()
        .map(|knob| {
            let range = match &knob.range {
                KnobRange::Real { low, high, .. } => format!("{low}..{high}"),
                KnobRange::Whole { low, high, .. } => format!("{low}..{high} whole"),
                KnobRange::Choice { of, .. } => of.join(" | "),
                KnobRange::File { holds } => format!("file: {holds}"),
            };
            let first = knobs.iter().find(|other| other.group().is_some() && other.group() == knob.group());
            let default = match (knob.master(), first) {
                (Some(master), _) => format!("by {master}"),
                (None, Some(first)) if first.name != knob.name => format!("not {}", first.name),
                _ => knob.default_value().map_or("must be given".into(), |value| value.to_string()),
            };
            vec![knob.name.clone(), range, default, knob.unit.clone(), knob.help.clone()]
        })
        .collect();
    table(
        vec![
            Column::text("Knob"),
            Column::text("Range"),
            Column::text("Default"),
            Column::text("Unit"),
            Column::text(""),
        ],
        rows,
        color,
    )
}

fn seats(game: &dyn GameEntry) -> String {
    let (low, high) = (game.sheet().seats.start(), game.sheet().seats.end());
    if low == high { low.to_string() } else { format!("{low} to {high}") }
}

/// A game as JSON.
pub(crate) fn game_json(game: &dyn GameEntry) -> Value {
    let sheet = game.sheet();
    let wanted = |wanted: Wanted| match wanted {
        Wanted::More => "more",
        Wanted::Less => "less",
        Wanted::Neither => "neither",
    };
    json!({
        "name": sheet.name,
        "help": sheet.help,
        "seats": [sheet.seats.start(), sheet.seats.end()],
        "ticks_per_second": sheet.ticks_per_second,
        "rules": sheet.rules.iter().map(knob_json).collect::<Vec<_>>(),
        "levels": sheet.levels.iter().map(|level| json!({
            "name": level.name,
            "help": level.help,
            "knobs": level.knobs.iter().map(knob_json).collect::<Vec<_>>(),
        })).collect::<Vec<_>>(),
        "level_file": sheet.level_file,
        "measures": told_measures(game).iter().map(|measure| json!({
            "name": measure.name,
            "label": measure.label,
            "unit": measure.unit,
            "of": if measure.of == MeasureOf::Seat { "seat" } else { "match" },
            "wanted": wanted(measure.wanted),
            "help": measure.help,
        })).collect::<Vec<_>>(),
        "features": feature_sheet(game),
    })
}

/// An agent kind as JSON.
pub(crate) fn agent_json(sheet: &AgentSheet) -> Value {
    json!({
        "name": sheet.name,
        "help": sheet.help,
        "knobs": sheet.knobs.iter().map(knob_json).collect::<Vec<_>>(),
        "presets": sheet.presets.iter().map(|preset| json!({
            "name": preset.name, "help": preset.help, "knobs": preset.knobs,
        })).collect::<Vec<_>>(),
    })
}

fn knob_json(knob: &Knob) -> Value {
    let mut value = json!({
        "name": knob.name,
        "unit": knob.unit,
        "help": knob.help,
        "default": knob.default_value(),
        "follows": knob.master(),
        "one_of": knob.group(),
    });
    match &knob.range {
        KnobRange::Real { low, high, .. } => value["range"] = json!([low, high]),
        KnobRange::Whole { low, high, .. } => {
            value["range"] = json!([low, high]);
            value["whole"] = json!(true);
        }
        KnobRange::Choice { of, .. } => value["choice"] = json!(of),
        KnobRange::File { holds } => value["file"] = json!(holds),
    }
    value
}
