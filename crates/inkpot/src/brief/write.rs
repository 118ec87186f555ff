//! From a plan to the text of the brief that does the same, with every default filled in.

use std::fmt::Write;

use inkpot_core::{GameEntry, KnobValue, Knobs};
use inkpot_lab::{Entrant, Format, Plan, Subject};
use toml::{Table, Value};

/// The brief of a plan. Reading it again gives the same plan.
pub(crate) fn write(plan: &Plan, game: &dyn GameEntry) -> String {
    let mut top = Table::new();
    let mut put = |key: &str, value: Value| top.insert(key.into(), value);
    put("kind", plan.kind().name().into());
    put("game", plan.ground.game.as_str().into());
    put("level", plan.ground.level.to_string().into());
    put("matches", (plan.matches as i64).into());
    if let Some(series) = plan.ground.series {
        put("series", (series as i64).into());
    }
    put("confidence", plan.ground.confidence.into());
    if let Some(target) = plan.target() {
        put("target", target.into());
    }
    if let Some(frame) = plan.frame_ms {
        put("frame_ms", frame.into());
    }
    if let Some(tournament) = plan.tournament() {
        put("format", tournament.format.name().into());
        if tournament.format == Format::Swiss {
            put("rounds", (tournament.rounds as i64).into());
        }
        if let Some(anchor) = tournament.anchor {
            put("anchor", plan.entrants[anchor].name.as_str().into());
        }
    }
    if let Some(comparison) = plan.comparison() {
        if comparison.until_clear {
            put("until", "clear".into());
        }
        if let Some(within) = comparison.equal_within {
            put("equal_within", within.into());
        }
        if let Some(require) = comparison.require {
            put("require", require.name().into());
        }
    }
    let mut text = top.to_string();
    // TOML numbers end at 2^63; a larger seed is written in full all the same, and read back.
    let _ = write!(text, "seed = {}\n\n[rules]\n{}", plan.ground.seed, knobs(&plan.ground.rules));
    for (place, entrant) in plan.entrants.iter().enumerate() {
        text.push_str(&entrant_table(plan, place, entrant, game));
    }
    for vary in plan.vary() {
        let of = match vary.subject {
            Subject::Rules => "rules",
            Subject::Generator => "level",
            Subject::Level => "",
            Subject::Entrant(place) => &plan.entrants[place].name,
        };
        let values: Vec<Value> = vary.values.iter().map(value).collect();
        let of = if of.is_empty() { String::new() } else { format!("of = {}\n", Value::from(of)) };
        let _ = write!(
            text,
            "\n[[vary]]\n{of}knob = {}\nvalues = {}\n",
            Value::from(vary.knob.as_str()),
            Value::Array(values)
        );
    }
    text
}

/// Knobs that follow a master and are not set themselves are left to it, so that a varied master moves them; their
/// values stand in a comment.
fn entrant_table(plan: &Plan, place: usize, entrant: &Entrant, game: &dyn GameEntry) -> String {
    let sheet = game.agents().iter().find(|sheet| sheet.name == entrant.kind);
    let follows = |name: &str| {
        let knob = sheet.and_then(|sheet| sheet.knobs.iter().find(|knob| knob.name == name));
        knob.is_some_and(|knob| knob.master().is_some()) && entrant.given.get(name).is_none()
    };
    let (mut own, mut followers) = (Knobs::default(), Vec::new());
    for (name, value) in entrant.knobs.iter() {
        if follows(name) {
            followers.push(format!("{name} = {value}"));
        } else {
            own.set(name, value.clone());
        }
    }
    let name = Value::from(entrant.name.as_str());
    let mut text = format!("\n[[entrant]]\nname = {name}\nagent = {}\n", Value::from(entrant.agent.as_str()));
    if !own.is_empty() {
        let items: Vec<String> = own.iter().map(|(name, knob)| format!("{name} = {}", value(knob))).collect();
        let _ = writeln!(text, "knobs = {{ {} }}", items.join(", "));
    }
    if !followers.is_empty() {
        let varied = plan.vary().iter().any(|vary| vary.subject == Subject::Entrant(place));
        let when = if varied { ", where they are not varied" } else { "" };
        let _ = writeln!(text, "# These follow their master knob{when}: {}", followers.join(", "));
    }
    text
}

pub(super) fn knobs(knobs: &Knobs) -> String {
    let lines: Vec<String> = knobs.iter().map(|(name, knob)| format!("{name} = {}", value(knob))).collect();
    lines.join("\n") + "\n"
}

pub(super) fn value(knob: &KnobValue) -> Value {
    match knob {
        KnobValue::Number(x) if x.fract() == 0.0 && x.abs() < 1e15 => Value::Integer(*x as i64),
        KnobValue::Number(x) => Value::Float(*x),
        KnobValue::Word(word) => Value::from(word.as_str()),
    }
}
