//! `check` of a tuning.

use inkpot_lab::{Effect, Note, Pace, Seeks, Tune};
use serde_json::{Value, json};

use super::brief;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds::kind::{Checked, Searches};
use crate::show::format::{about, count, counted};

/// Blocks with and without each modifier.
const EFFECT_BLOCKS: u64 = 200;

impl Searches for Tune {
    fn write(&self) -> String {
        brief::write(self)
    }

    fn outline(&self) -> String {
        format!("{}, proved by {} matches each", counted(self.rungs.len() as u64, "rung", "rungs"), count(self.proof))
    }

    fn check(&self, effects: bool, desk: &Desk) -> Result<Checked, Failure> {
        let players: u64 = self.rungs.iter().map(|rung| rung.players.len() as u64).sum();
        let (search, proof) = (self.budget * self.rungs.len() as u64, self.proof * players);
        let found = if effects { self.effects(desk.game(&self.ground.game)?, EFFECT_BLOCKS) } else { Vec::new() };
        let pace = Pace::sampled(&self.samples(desk.game(&self.ground.game)?), desk.game(&self.ground.game)?, u64::MAX);
        let mut lines = vec![format!(
            "a ladder of {}, {} free.\nAt most {} of search, {} of proof; {} in all on {}.",
            counted(self.rungs.len() as u64, "rung", "rungs"),
            counted(self.free.len() as u64, "knob", "knobs"),
            counted(search, "match", "matches"),
            counted(proof, "match", "matches"),
            about(&pace, search + proof, desk.threads),
            counted(desk.threads as u64, "thread", "threads"),
        )];
        lines.extend(found.iter().map(effect));
        if effects && found.is_empty() {
            lines.push("No rung has a modifier.".into());
        }
        let idle = found.iter().filter(|effect| effect.moved.is_empty());
        let json = json!({
            "kind": "tune", "game": self.ground.game, "rungs": self.rungs.len(), "free": self.free.len(),
            "search_matches_at_most": search, "proof_matches": proof,
            "seconds_about": pace.seconds(search + proof, desk.threads), "without_effect": idle.map(idle_json).collect::<Vec<_>>(),
        });
        Ok(Checked { text: lines.join("\n"), json })
    }
}

fn effect(effect: &Effect) -> String {
    let what = format!("rung `{}`: {}.{}", effect.rung, effect.side.name(), effect.knob);
    match (effect.any, effect.moved.as_slice()) {
        (false, _) => {
            let text = format!("{what} has no effect: all {} matches were unchanged", 2 * EFFECT_BLOCKS);
            format!("note: {}", Note::NoEffect.says(text))
        }
        (true, []) => {
            let text = format!("{what} has no effect on any target that {} matches show", 2 * EFFECT_BLOCKS);
            format!("note: {}", Note::NoEffect.says(text))
        }
        (true, moved) => format!("{what} moves {}", moved.join(", ")),
    }
}

fn idle_json(effect: &Effect) -> Value {
    json!({ "rung": effect.rung, "of": effect.side.name(), "knob": effect.knob, "any": effect.any })
}
