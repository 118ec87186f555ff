//! What `check` says of a training.

use inkpot_lab::{Pace, Seeks, Shape, Train};
use serde_json::json;

use super::brief;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds::kind::{Checked, Searches};
use crate::show::format::{about, count, counted};

/// What is sought, in few words.
fn sought(train: &Train) -> String {
    match &train.aim.candidate.shape {
        Shape::Table => "a table of values".into(),
        _ => format!("a network of {}", counted(train.aim.candidate.space().len() as u64, "weight", "weights")),
    }
}

impl Searches for Train {
    fn write(&self) -> String {
        brief::write(self)
    }

    fn outline(&self) -> String {
        format!(
            "{} by {}, {} of {} steps, each champion proved by {} matches",
            sought(self),
            self.method.name.name(),
            counted(self.aim.seeds, "repetition", "repetitions"),
            count(self.steps),
            count(self.aim.proof)
        )
    }

    fn check(&self, _effects: bool, desk: &Desk) -> Result<Checked, Failure> {
        let game = desk.game(&self.aim.ground.game)?;
        let looks = self.steps.div_ceil(self.aim.yardstick.every);
        let watched = self.aim.seeds * looks * self.look_matches();
        let proof = self.proof_blocks() * self.matches_a_block();
        let pace = Pace::sampled(&self.samples(game), game, u64::MAX);
        let steps = self.aim.seeds * self.steps;
        let text = format!(
            "a training of {} by {}.\n{} of {} steps; {} of looks at the yardstick, {} of proof; the matches take {} on {}.",
            sought(self),
            self.method.name.name(),
            counted(self.aim.seeds, "repetition", "repetitions"),
            count(self.steps),
            counted(watched, "match", "matches"),
            counted(proof, "match", "matches"),
            about(&pace, watched + proof, desk.threads),
            counted(desk.threads as u64, "thread", "threads"),
        );
        let json = json!({
            "kind": "train", "game": self.aim.ground.game, "method": self.method.name.name(),
            "weights": self.aim.candidate.space().len(), "seeds": self.aim.seeds, "steps": steps,
            "look_matches": watched, "proof_matches": proof,
        });
        Ok(Checked { text, json })
    }
}
