//! `check` of an evolution.

use inkpot_lab::{Evolve, Pace, Seeks, Shape};
use serde_json::json;

use super::brief;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds::kind::{Checked, Searches};
use crate::show::format::{about, count, counted};

/// Describes the subject in a few words.
fn sought(evolve: &Evolve) -> String {
    let genes = evolve.aim.candidate.space().len() as u64;
    match &evolve.aim.candidate.shape {
        Shape::Knobs { .. } => format!("{} of `{}`", counted(genes, "knob", "knobs"), evolve.aim.candidate.agent),
        Shape::Network { .. } => format!("a network of {}", counted(genes, "weight", "weights")),
        Shape::Graph { .. } => "a network, its nodes and links too".into(),
        Shape::Table => "a table".into(),
        Shape::Tape { steps, .. } => format!("a tape of {}", counted(*steps as u64, "step", "steps")),
    }
}

impl Searches for Evolve {
    fn write(&self) -> String {
        brief::write(self)
    }

    fn outline(&self) -> String {
        format!(
            "{} by {}, {} of {} matches, each champion proved by {} matches",
            sought(self),
            self.method.name.name(),
            counted(self.aim.seeds, "repetition", "repetitions"),
            count(self.matches),
            count(self.aim.proof)
        )
    }

    fn check(&self, _effects: bool, desk: &Desk) -> Result<Checked, Failure> {
        let game = desk.game(&self.aim.ground.game)?;
        let search = self.aim.seeds * self.matches;
        let proof = self.proof_blocks() * self.matches_a_block();
        let pace = Pace::sampled(&self.samples(game), game, u64::MAX);
        let text = format!(
            "an evolution of {} by {}.\n{} of {} matches a generation; at most {} of search, {} of proof; {} in all on {}.",
            sought(self),
            self.method.name.name(),
            counted(self.aim.seeds, "repetition", "repetitions"),
            count(self.matches_a_generation()),
            counted(search, "match", "matches"),
            counted(proof, "match", "matches"),
            about(&pace, search + proof, desk.threads),
            counted(desk.threads as u64, "thread", "threads"),
        );
        let json = json!({
            "kind": "evolve", "game": self.aim.ground.game, "method": self.method.name.name(),
            "genes": self.aim.candidate.space().len(), "seeds": self.aim.seeds,
            "generation_matches": self.matches_a_generation(), "search_matches": search, "proof_matches": proof,
            "seconds_about": pace.seconds(search + proof, desk.threads),
        });
        Ok(Checked { text, json })
    }
}
