//! `check` of a training.

use std::fmt::Write;

use inkpot_lab::{Foresight, Note, Pace, Seeks, Shape, Train};
use serde_json::json;

use super::brief;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds::kind::{Checked, Searches};
use crate::show::format::{about, count, counted, plain};

/// Matches of a training that is not short of them.
const FEW_MATCHES: f64 = 1_000.0;

/// Describes the subject in a few words.
fn sought(train: &Train) -> String {
    match &train.aim.candidate.shape {
        Shape::Table => "a table of values".into(),
        _ => format!("a network of {}", counted(train.aim.candidate.space().len() as u64, "weight", "weights")),
    }
}

/// Compares the learner's foresight with a match, counts its training matches, and advises changes where either is
/// small.
fn ahead(train: &Train, foresight: &Foresight, ticks_per_second: Option<f64>) -> String {
    let time = |ticks: f64| match ticks_per_second {
        Some(rate) => format!("{} s", plain(two_digits(ticks / rate))),
        None => format!("{} ticks", plain(ticks.round())),
    };
    let (every, discount) = (foresight.decide_every, train.method.knobs.number("discount"));
    let mut text = format!(
        "A decision stays for {} ({}); the discount of {discount} looks {} ahead, and a match takes about {}; each \
         repetition learns from about {}.",
        counted(every.into(), "tick", "ticks"),
        time(every.into()),
        time(foresight.ahead_ticks),
        time(foresight.match_ticks),
        counted(two_digits(foresight.matches) as u64, "match", "matches"),
    );
    let usual = foresight.usual_decide_every;
    let slower = if every < usual { format!("`decide_every = {usual}` in [subject], or ") } else { String::new() };
    if foresight.is_short() {
        let _ = write!(
            text,
            "\nnote: {}",
            Note::ShortDiscount.says(format!(
                "effects later than a tenth of a match count for little; set {slower}`discount = {}` in [method]",
                foresight.usual_discount
            ))
        );
    }
    if foresight.is_little() {
        let steps = two_digits(FEW_MATCHES * foresight.match_ticks / f64::from(every)) as u64;
        let _ = write!(
            text,
            "\nnote: {}",
            Note::FewMatches.says(format!(
                "{} seldom teach a network anything; set {slower}`steps = {steps}` or more",
                counted(two_digits(foresight.matches) as u64, "match", "matches")
            ))
        );
    }
    text
}

/// A number to two digits.
fn two_digits(value: f64) -> f64 {
    if value <= 0.0 {
        return 0.0;
    }
    let unit = 10_f64.powf(value.log10().floor() - 1.0);
    (value / unit).round() * unit
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
        let text = match self.foresight() {
            Some(foresight) => format!("{text}\n{}", ahead(self, &foresight, game.sheet().ticks_per_second)),
            None => text,
        };
        let json = json!({
            "kind": "train", "game": self.aim.ground.game, "method": self.method.name.name(),
            "weights": self.aim.candidate.space().len(), "seeds": self.aim.seeds, "steps": steps,
            "look_matches": watched, "proof_matches": proof,
        });
        Ok(Checked { text, json })
    }
}
