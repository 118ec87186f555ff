//! The history of a search as a CSV table: one line a probe and target, exact to the last bit.

use inkpot_core::KnobValue;
use thiserror::Error;

use super::{Point, Probe, Probed, Sample, Tune};

/// An error: the history cannot be read.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("line {line} of the search's history is not one that this tuning writes")]
pub struct HistoryError {
    line: usize,
}

/// The columns before and after those of the free knobs.
const BEFORE: [&str; 2] = ["round", "rung"];
const AFTER: [&str; 6] = ["first_block", "blocks", "target", "count", "mean", "sd"];

/// The table of a search.
pub fn write_history(tune: &Tune, history: &[Probed]) -> String {
    let names: Vec<String> = tune.free.iter().map(super::Free::name).collect();
    let heading = BEFORE.iter().copied().chain(names.iter().map(String::as_str)).chain(AFTER);
    let mut lines = vec![heading.collect::<Vec<_>>().join(",")];
    for Probed { round, probe, samples } in history {
        let rung = &tune.rungs[probe.rung];
        let values: Vec<String> = tune.free.iter().zip(&probe.point).map(|(free, x)| exact(&free.value(*x))).collect();
        for (target, sample) in rung.targets.iter().zip(samples) {
            lines.push(format!(
                "{round},{},{},{},{},{},{},{},{}",
                rung.name,
                values.join(","),
                probe.first_block,
                probe.blocks,
                target.full_name(),
                sample.count,
                sample.mean,
                sample.sd
            ));
        }
    }
    lines.join("\n") + "\n"
}

/// Shortest text that reads back to the same value.
fn exact(value: &KnobValue) -> String {
    match value {
        KnobValue::Number(x) => x.to_string(),
        KnobValue::Word(word) | KnobValue::File { file: word, .. } => word.clone(),
    }
}

/// Reads a table back. Errs at the first line that does not belong to this tuning.
pub fn read_history(tune: &Tune, text: &str) -> Result<Vec<Probed>, HistoryError> {
    let mut history: Vec<Probed> = Vec::new();
    let mut place = 0;
    for (index, line) in text.lines().enumerate().skip(1) {
        let error = HistoryError { line: index + 1 };
        let (round, probe, name, sample) = read_line(tune, line).ok_or(error.clone())?;
        if place == 0 {
            history.push(Probed { round, probe, samples: Vec::new() });
        }
        let last = history.last_mut().ok_or(error.clone())?;
        let targets = &tune.rungs[last.probe.rung].targets;
        if targets.get(place).is_none_or(|target| target.full_name() != name) {
            return Err(error);
        }
        last.samples.push(sample);
        place = (place + 1) % targets.len();
    }
    if place == 0 { Ok(history) } else { Err(HistoryError { line: text.lines().count() }) }
}

fn read_line<'t>(tune: &Tune, line: &'t str) -> Option<(u64, Probe, &'t str, Sample)> {
    let fields: Vec<&str> = line.split(',').collect();
    let knobs = tune.free.len();
    if fields.len() != BEFORE.len() + knobs + AFTER.len() {
        return None;
    }
    let rung = tune.rungs.iter().position(|rung| rung.name == fields[1])?;
    let values = tune.free.iter().zip(&fields[2..]);
    let point: Option<Point> = values.map(|(free, text)| free.number(&KnobValue::parse(text))).collect();
    let rest = &fields[2 + knobs..];
    let probe = Probe { rung, point: point?, first_block: rest[0].parse().ok()?, blocks: rest[1].parse().ok()? };
    let sample = Sample { count: rest[3].parse().ok()?, mean: rest[4].parse().ok()?, sd: rest[5].parse().ok()? };
    Some((fields[0].parse().ok()?, probe, rest[2], sample))
}
