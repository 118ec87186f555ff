//! The words of a fit, and its stand-in as a file.

use inkpot_lab::{FitFinding, FitProof, Fitted};
use inkpot_stats::Interval;
use toml::Value;

use super::STANDIN;
use crate::brief::value;
use crate::show::format::{count, counted, p_value, places, said_figure};

/// The knobs that were found.
pub(super) fn sentence(found: &FitFinding) -> String {
    let knobs = found.fitted.knobs.iter().map(|knob| {
        let interval = Interval { value: knob.value, low: knob.low, high: knob.high };
        format!("{} {}", knob.knob, said_figure(&interval, ""))
    });
    let knobs: Vec<String> = knobs.collect();
    format!("The people of this log play like a {} with {}.", found.standin, knobs.join(", "))
}

/// The same without the intervals.
pub(super) fn headline(found: &FitFinding) -> String {
    let knobs = found.fitted.knobs.iter().map(|knob| {
        let places = places(&Interval { value: knob.value, low: knob.low, high: knob.high });
        format!("{} {:.places$}", knob.knob, knob.value)
    });
    let knobs: Vec<String> = knobs.collect();
    format!("The people play like a {} with {}", found.standin, knobs.join(", "))
}

/// Describes the log.
pub(super) fn log(found: &FitFinding) -> String {
    let Fitted { logged, people, columns, .. } = &found.fitted;
    format!(
        "{} matches of {people} people, {}",
        count(*logged as u64),
        counted(columns.len() as u64, "column", "columns")
    )
}

/// Describes the data.
pub(super) fn lines(found: &FitFinding) -> String {
    let fitted = &found.fitted;
    let misfit = match fitted.misfit_p {
        Some(p) => format!("Misfit {}.", p_value(p)),
        None => "With as many knobs as columns no misfit can be seen.".into(),
    };
    format!(
        "{} matches of {} people against {} simulated ones; intervals over people. {misfit}\nThe stand-in's means are of the proof, on blocks that the search never saw. It is in {STANDIN}, an agent file for any study.",
        count(fitted.logged as u64),
        fitted.people,
        count(fitted.simulated),
    )
}

/// Describes the method.
pub(super) fn method(found: &FitFinding) -> String {
    format!(
        "The knobs are those at which the means of {} simulated matches are nearest to the log's, on quadratic surfaces, \
         weighted by the covariance of simulated people; their intervals carry the spread of the log over people and that \
         of the simulation. The means of the stand-in were measured afterwards, on blocks that the search never saw.",
        count(found.fitted.simulated)
    )
}

/// The fitted stand-in as an agent file.
pub(super) fn agent_file(proof: &FitProof) -> String {
    let knobs: Vec<String> = proof.given.iter().map(|(name, setting)| format!("{name} = {}", value(setting))).collect();
    format!(
        "# Fitted to {} logged matches of {} people.\nagent = {}\nknobs = {{ {} }}\n",
        proof.fitted.logged,
        proof.fitted.people,
        Value::from(proof.agent.as_str()),
        knobs.join(", ")
    )
}
