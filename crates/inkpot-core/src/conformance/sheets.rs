//! Whether the descriptions of a game and of its agents are complete and fit together.

use std::collections::BTreeSet;

use super::broken::{Broken, in_words};
use crate::{AgentSheet, GameEntry, GameSheet, Knob, Knobs, Level};

pub(super) fn check(entry: &dyn GameEntry) -> Result<(), Broken> {
    let sheet = entry.sheet();
    let broken = |what| Broken { at: format!("in the sheet of `{}`", sheet.name), what };
    game(sheet).map_err(broken)?;
    let mut names = Names::default();
    for agent in entry.agents() {
        let broken = |what| Broken { at: format!("in the sheet of agent `{}`", agent.name), what };
        names.take("agent or preset", &agent.name, &agent.help).map_err(broken)?;
        knobs(&agent.knobs).map_err(broken)?;
        for preset in &agent.presets {
            names.take("agent or preset", &preset.name, &preset.help).map_err(broken)?;
            resolves(&preset.knobs, agent).map_err(|what| broken(format!("preset `{}`: {what}", preset.name)))?;
        }
    }
    Ok(())
}

fn game(sheet: &GameSheet) -> Result<(), String> {
    knobs(&sheet.rules)?;
    let mut levels = Names::default();
    for level in &sheet.levels {
        levels.take("level", &level.name, &level.help)?;
        knobs(&level.knobs)?;
    }
    if sheet.levels.is_empty() {
        return Err("it has no level; give it one, even where there is nothing to choose".into());
    }
    let mut measures = Names::default();
    sheet.measures.iter().try_for_each(|measure| {
        measures.take("measure", &measure.name, &measure.help)?;
        if measure.label.is_empty() { Err(format!("the measure `{}` has no label", measure.name)) } else { Ok(()) }
    })
}

/// Names that may stand once each.
#[derive(Default)]
struct Names(BTreeSet<String>);

impl Names {
    fn take(&mut self, what: &str, name: &str, help: &str) -> Result<(), String> {
        if !self.0.insert(name.into()) {
            return Err(format!("the {what} `{name}` stands there twice"));
        }
        if help.is_empty() { Err(format!("the {what} `{name}` has no line of help")) } else { Ok(()) }
    }
}

fn knobs(knobs: &[Knob]) -> Result<(), String> {
    let mut names = Names::default();
    for (place, knob) in knobs.iter().enumerate() {
        names.take("knob", &knob.name, &knob.help)?;
        let default = knob.default_value().map_or(Ok(()), |value| knob.check(&value));
        default.map_err(|error| format!("the default of a knob is not allowed: {error}"))?;
        let Some(master) = knob.master() else { continue };
        let found = knobs[..place].iter().find(|other| other.name == master);
        let found = found.ok_or_else(|| format!("`{}` follows `{master}`, which has to stand before it", knob.name))?;
        follows(knob, found)?;
    }
    Ok(())
}

/// A follower stays within its own range wherever its master goes.
fn follows(knob: &Knob, master: &Knob) -> Result<(), String> {
    let (name, of) = (&knob.name, &master.name);
    let numbers = || format!("`{name}` follows `{of}`, and only a number can follow a number");
    let (low, high) = master.bounds().ok_or_else(numbers)?;
    let (least, most) = knob.bounds().ok_or_else(numbers)?;
    for at in [low, high] {
        let value = knob.curve_at(at).ok_or_else(numbers)?;
        if !(least <= value && value <= most) {
            return Err(format!("`{name}` follows `{of}` to {value} at {at}, out of its range {least} to {most}"));
        }
    }
    Ok(())
}

fn resolves(knobs: &Knobs, agent: &AgentSheet) -> Result<(), String> {
    knobs.resolve(&agent.knobs).map(drop).map_err(|errors| in_words(&errors))
}

/// A level of this name with its knobs at their defaults.
pub(super) fn default_level(sheet: &GameSheet, name: &str) -> Level {
    Level::named(name, Knobs::default()).resolve(sheet).expect("no knob of a level of the sheet is set")
}
