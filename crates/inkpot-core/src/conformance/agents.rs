//! Whether every agent of a game plays a block without a fault, and the same block again from the same seed.

use super::broken::{Broken, in_words, under};
use super::sheets::default_level;
use crate::{AgentSheet, Casting, GameEntry, Knobs, LevelSheet, Outcome, Row, Rows, Seating, Setting, Spot};

pub(super) fn check(entry: &dyn GameEntry, rules: &[Knobs]) -> Result<(), Broken> {
    // One that plays by a file has a test of its own.
    for agent in entry.agents().iter().filter(|agent| agent.plays_by_default()) {
        let presets = agent.presets.iter().map(|preset| (preset.name.as_str(), &preset.knobs));
        for (name, knobs) in std::iter::once((agent.name.as_str(), &Knobs::default())).chain(presets) {
            for level in &entry.sheet().levels {
                for rules in rules {
                    let at = format!("`{name}` on level {}{}", level.name, under(rules));
                    plays(entry, rules, level, agent, knobs).map_err(|what| Broken { at, what })?;
                }
            }
        }
    }
    Ok(())
}

fn plays(
    entry: &dyn GameEntry,
    rules: &Knobs,
    level: &LevelSheet,
    agent: &AgentSheet,
    knobs: &Knobs,
) -> Result<(), String> {
    let sheet = entry.sheet();
    let resolved = |knobs: &Knobs, of: &[crate::Knob]| knobs.resolve(of).map_err(|errors| in_words(&errors));
    let casting = |entrant: usize, agent: &AgentSheet, knobs: &Knobs| {
        Ok::<_, String>(Casting::new(entrant as u16, &agent.name, resolved(knobs, &agent.knobs)?))
    };
    let others = (1..*sheet.seats.start()).map(|seat| casting(seat, &entry.agents()[0], &Knobs::default()));
    let setting = Setting {
        rules: resolved(rules, &sheet.rules)?,
        level: default_level(sheet, &level.name),
        cast: std::iter::once(casting(0, agent, knobs)).chain(others).collect::<Result<_, _>>()?,
        seating: Seating::rotated(*sheet.seats.start()),
        study_seed: 3,
        pairing: 0,
    };
    let first = block(entry, &setting)?;
    for row in &first.rows {
        if let Some(incident) = &row.incident {
            return Err(incident.clone());
        }
        if row.faults > 0 || row.outcome == Outcome::Void {
            return Err(format!("seat {} has {} faults, and the outcome is {}", row.seat, row.faults, row.ending));
        }
    }
    let second = block(entry, &setting)?;
    let facts = |rows: &Rows| (rows.rows.iter().map(timeless).collect::<Vec<_>>(), format!("{:?}", rows.measures));
    if facts(&first) == facts(&second) {
        return Ok(());
    }
    Err("it plays another block from the same seed: take all chance from what `begin` and `advance` are given, and no \
         decision from the clock or from the order of a hash map"
        .into())
}

fn block(entry: &dyn GameEntry, setting: &Setting) -> Result<Rows, String> {
    let mut stage = entry.stage(setting).map_err(|error| error.to_string())?;
    let mut rows = Rows::new(entry.sheet().measures.len());
    for rotation in 0..stage.matches_a_block() {
        let spot = Spot { rotation, match_index: rotation as u64, ..Spot::default() };
        stage.play(spot, &mut rows);
    }
    Ok(rows)
}

/// Returns a row as text, without times.
fn timeless(row: &Row) -> String {
    format!("{:?}", Row { decision_us: 0.0, decision_times: None, ..row.clone() })
}
