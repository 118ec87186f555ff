//! `check` of a fit.

use inkpot_lab::{Fit, Pace, Seeks};
use serde_json::json;

use super::brief::{self, LOG};
use super::log;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds::kind::{Checked, Searches};
use crate::show::format::{about, count, counted};

impl Searches for Fit {
    fn write(&self) -> String {
        brief::write(self)
    }

    fn outline(&self) -> String {
        format!(
            "{} to {}, proved by {} matches against each opponent",
            counted(self.free.len() as u64, "knob", "knobs"),
            counted(self.log.matches.len() as u64, "logged match", "logged matches"),
            count(self.proof)
        )
    }

    fn files(&self) -> Vec<(&'static str, String)> {
        vec![(LOG, log::write(&self.log, &self.opponents))]
    }

    fn check(&self, _effects: bool, desk: &Desk) -> Result<Checked, Failure> {
        let game = desk.game(&self.ground.game)?;
        let search = self.begin(game, None).map_err(|error| Failure::Failed(error.to_string()))?.round().most;
        let proof = self.proof_blocks() * self.ground.series.unwrap_or(2);
        let pace = Pace::sampled(&self.samples(game), game, u64::MAX);
        let text = format!(
            "a fit of {} to {} in {}.\n{} of search, {} of proof; {} in all on {}.",
            counted(self.free.len() as u64, "knob", "knobs"),
            counted(self.log.matches.len() as u64, "logged match", "logged matches"),
            counted(self.log.columns.len() as u64, "column", "columns"),
            counted(search, "match", "matches"),
            counted(proof, "match", "matches"),
            about(&pace, search + proof, desk.threads),
            counted(desk.threads as u64, "thread", "threads"),
        );
        let json = json!({
            "kind": "fit", "game": self.ground.game, "free": self.free.len(), "logged": self.log.matches.len(),
            "columns": self.log.columns, "search_matches": search, "proof_matches": proof,
            "seconds_about": pace.seconds(search + proof, desk.threads),
        });
        Ok(Checked { text, json })
    }
}
