//! From a plan to the text of the brief that does the same, with every default filled in.

use std::fmt::Write;

use inkpot_core::{GameEntry, Knobs};
use inkpot_lab::{Entrant, StudyPlan, Subject};
use toml::Value;

use crate::brief::{BriefText, value};
use crate::kinds;

/// The brief of a plan. Reading it again gives the same plan.
pub(crate) fn write(plan: &StudyPlan, game: &dyn GameEntry) -> String {
    let mut brief = BriefText::default();
    brief.put("kind", plan.kind().name());
    brief.put("game", plan.ground.game.typed());
    brief.put("level", plan.ground.level.to_string());
    let seats = &game.sheet().seats;
    brief.put_some("seats", (seats.start() < seats.end()).then_some(plan.seats() as i64));
    brief.put("matches", plan.matches as i64);
    brief.put_some("series", plan.ground.series.map(|series| series as i64));
    brief.put("confidence", plan.ground.confidence);
    brief.put_some("frame_ms", plan.frame_ms);
    if plan.record {
        brief.put("record", true);
    }
    for (place, entrant) in plan.entrants.iter().enumerate() {
        brief.table(&entrant_table(plan, place, entrant, game));
    }
    kinds::written(&plan.design).write(plan, &mut brief);
    brief.finish(plan.ground.seed, &plan.ground.rules)
}

/// Knobs that follow a master and are not set themselves are left to it, so that a varied master moves them; their
/// values stand in a comment.
fn entrant_table(plan: &StudyPlan, place: usize, entrant: &Entrant, game: &dyn GameEntry) -> String {
    let sheet = game.agents().iter().find(|sheet| sheet.name == entrant.kind);
    let follows = |name: &str| {
        let knob = sheet.and_then(|sheet| sheet.knobs.iter().find(|knob| knob.name == name));
        knob.is_some_and(|knob| knob.master().is_some()) && entrant.given.get(name).is_none()
    };
    let (mut knobs, mut followers) = (Knobs::default(), Vec::new());
    for (name, value) in entrant.knobs.iter() {
        if follows(name) {
            followers.push(format!("{name} = {value}"));
        } else {
            knobs.set(name, value.clone());
        }
    }
    let name = Value::from(entrant.name.as_str());
    let mut text = format!("[[entrant]]\nname = {name}\nagent = {}\n", Value::from(entrant.agent.as_str()));
    if !knobs.is_empty() {
        let items: Vec<String> = knobs.iter().map(|(name, knob)| format!("{name} = {}", value(knob))).collect();
        let _ = writeln!(text, "knobs = {{ {} }}", items.join(", "));
    }
    if !followers.is_empty() {
        let varied = plan.vary().iter().any(|vary| vary.subject == Subject::Entrant(place));
        let when = if varied { ", where they are not varied" } else { "" };
        let _ = writeln!(text, "# These follow their master knob{when}: {}", followers.join(", "));
    }
    text
}
