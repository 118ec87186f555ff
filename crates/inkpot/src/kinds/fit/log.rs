//! Logs of people as CSV tables with a line a match.

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use inkpot_lab::{Entrant, EntrantDraft, HumanLog, LoggedMatch};

use crate::failure::Failure;

/// Columns that say who played, in place of a figure.
const PLAYER: &str = "player";
const OPPONENT: &str = "opponent";
const MATCH: &str = "match";

/// Where the columns of a log stand.
struct Headings<'a> {
    names: &'a [String],
    player: usize,
    opponent: Option<usize>,
    compared: Vec<usize>,
}

/// Reads a log of matches against these opponents.
pub(super) fn read(path: &Path, opponents: &[EntrantDraft]) -> Result<HumanLog, Failure> {
    let text = fs::read_to_string(path).map_err(|error| Failure::file("read", path, &error))?;
    parse(&text, opponents)
        .map_err(|what| Failure::wrong(format!("{}: {what}", path.display()), "docs/tune.md says what a log holds"))
}

fn parse(text: &str, opponents: &[EntrantDraft]) -> Result<HumanLog, String> {
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    let names: Vec<String> =
        reader.headers().map_err(|error| error.to_string())?.iter().map(|name| name.trim().to_string()).collect();
    let place = |name: &str| names.iter().position(|heading| heading == name);
    let headings = Headings {
        player: place(PLAYER).ok_or("the column `player` is missing")?,
        opponent: place(OPPONENT),
        compared: (0..names.len()).filter(|at| ![PLAYER, OPPONENT, MATCH].contains(&names[*at].as_str())).collect(),
        names: &names,
    };
    if headings.opponent.is_none() && opponents.len() > 1 {
        return Err("the column `opponent` is missing, and the brief names several".into());
    }
    let known: BTreeMap<&str, usize> =
        opponents.iter().enumerate().map(|(i, own)| (own.name.as_deref().unwrap_or(&own.agent), i)).collect();
    let columns = headings.compared.iter().map(|place| names[*place].clone()).collect();
    let mut log = HumanLog { columns, matches: Vec::new() };
    for (index, record) in reader.records().enumerate() {
        let line = |what: String| format!("line {}: {what}", index + 2);
        let record = record.map_err(|error| line(error.to_string()))?;
        log.matches.push(logged(&record, &headings, &known).map_err(line)?);
    }
    Ok(log)
}

fn logged(
    record: &csv::StringRecord,
    headings: &Headings,
    known: &BTreeMap<&str, usize>,
) -> Result<LoggedMatch, String> {
    let number = |place: &usize| {
        let text = record[*place].trim();
        let parsed = if text.is_empty() { Ok(f64::NAN) } else { text.parse::<f64>() };
        parsed.map_err(|_| format!("`{}` cannot be {text:?}: it must be a number", headings.names[*place]))
    };
    let met = match headings.opponent {
        None => 0,
        Some(place) => *known.get(record[place].trim()).ok_or_else(|| {
            let names: Vec<&str> = known.keys().copied().collect();
            format!("the brief has no opponent `{}`; it has {}", record[place].trim(), names.join(", "))
        })?,
    };
    let values = headings.compared.iter().map(number).collect::<Result<_, _>>()?;
    Ok(LoggedMatch { player: record[headings.player].trim().to_string(), opponent: met, values })
}

/// A log as it is read.
pub(super) fn write(log: &HumanLog, opponents: &[Entrant]) -> String {
    let headings = [PLAYER, OPPONENT].map(String::from).into_iter().chain(log.columns.iter().cloned());
    let mut table = csv::Writer::from_writer(Vec::new());
    let rows = log.matches.iter().map(|own| {
        let values = own.values.iter().map(|x| if x.is_finite() { x.to_string() } else { String::new() });
        [own.player.clone(), opponents[own.opponent].name.clone()].into_iter().chain(values).collect::<Vec<_>>()
    });
    for row in std::iter::once(headings.collect()).chain(rows) {
        table.write_record(&row).expect("memory takes every record, and all are of one length");
    }
    let bytes = table.into_inner().expect("memory takes what is left");
    String::from_utf8(bytes).expect("a table of texts is text")
}
