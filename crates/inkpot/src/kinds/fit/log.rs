//! Logs of people: CSV tables with a line a match, or studies that were played by hand.

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use inkpot_core::{HAND, MatchRows, Measure, MeasureOf, Outcome, Row};
use inkpot_lab::{Entrant, EntrantDraft, HumanLog, LoggedMatch, Note, StudyPlan};

use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::counted;
use crate::{hint, stored};

/// The column of people, which is no figure.
const PLAYER: &str = "player";
const OPPONENT: &str = "opponent";
const MATCH: &str = "match";

/// The columns of a log.
struct Headings<'a> {
    names: &'a [String],
    player: usize,
    opponent: Option<usize>,
    compared: Vec<usize>,
}

/// Fewer people than this give no intervals of people: then matches count as independent.
const FEW_PEOPLE: usize = 5;

/// Reads a log of matches against these opponents: a table, or where there is no such file, studies played by hand, their
/// names set apart by commas.
pub(super) fn read(path: &Path, opponents: &[EntrantDraft], desk: &Desk) -> Result<HumanLog, Failure> {
    let named = path.to_string_lossy();
    let is_study = |name: &str| desk.ledger.open(name).is_ok();
    if !path.exists() && named.split(',').all(|name| is_study(name.trim())) {
        return by_hand(named.split(',').map(str::trim), opponents, desk);
    }
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
    let known = known(opponents);
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

/// Reads the matches played by hand in these studies, without abandoned ones.
fn by_hand<'a>(
    studies: impl Iterator<Item = &'a str>,
    opponents: &[EntrantDraft],
    desk: &Desk,
) -> Result<HumanLog, Failure> {
    let known = known(opponents);
    let (mut log, mut measured) = (HumanLog::default(), Vec::new());
    for name in studies {
        let study = desk.ledger.open(name)?;
        let (manifest, plan) = stored::open(&study, desk)?;
        let sheet = desk.game(&manifest.game)?.sheet();
        let a_second = sheet.ticks_per_second.unwrap_or(1.0);
        let of_seat = |measure: &Measure| measure.of == MeasureOf::Seat;
        let seats: Vec<usize> = (0..sheet.measures.len()).filter(|at| of_seat(&sheet.measures[*at])).collect();
        measured = seats.iter().map(|at| sheet.measures[*at].name.clone()).collect();
        let names = desk.game(&manifest.game)?.measure_names();
        study.visit(&manifest, &names, |rows| {
            for match_rows in rows.matches() {
                log.matches.extend(played(&match_rows, &plan, &seats, &known, a_second));
            }
            Ok(())
        })?;
        if !plan.is_by_hand() {
            let help = format!("{} makes studies that are", hint::command(["play"]));
            return Err(Failure::wrong(format!("`{name}` was not played by a person"), help));
        }
    }
    if log.matches.is_empty() {
        let names: Vec<&str> = known.keys().copied().collect();
        return Err(Failure::wrong(
            format!("no match of these studies was played to its end against {}", names.join(", ")),
            "name the opponents of the brief as they are called in the studies",
        ));
    }
    log.columns = BY_HAND.iter().map(ToString::to_string).chain(measured).collect();
    varied(&mut log);
    let mut people: Vec<&str> = log.matches.iter().map(|played| played.player.as_str()).collect();
    people.sort_unstable();
    people.dedup();
    if people.len() < FEW_PEOPLE {
        let crowd = counted(people.len() as u64, "person", "people");
        let text =
            format!("with {crowd} the intervals say how these play from match to match, and nothing of other people");
        desk.say(format!("note: {}", Note::FewPeople.says(text)));
        for (number, played) in log.matches.iter_mut().enumerate() {
            played.player = format!("{}, match {}", played.player, number + 1);
        }
    }
    Ok(log)
}

/// Columns of hand-played matches, before the measures of the seat.
const BY_HAND: [&str; 4] = ["won", "score", "score_against", "length"];

/// Reads a person's line in a match against a known opponent.
fn played(
    played: &MatchRows,
    plan: &StudyPlan,
    seats: &[usize],
    known: &BTreeMap<&str, usize>,
    a_second: f64,
) -> Option<LoggedMatch> {
    let rows = played.seats();
    let by_hand = |row: &&Row| plan.entrants[usize::from(row.entrant)].kind == HAND;
    let at = rows.iter().position(|row| by_hand(&row)).filter(|at| rows[*at].outcome != Outcome::Void)?;
    let other = rows.iter().find(|row| !by_hand(row))?;
    let entrant = &plan.entrants[usize::from(other.entrant)];
    let opponent = *known.get(entrant.name.as_str()).or_else(|| known.get(entrant.agent.as_str()))?;
    let won = match rows[at].outcome {
        Outcome::Win => 1.0,
        Outcome::Draw => 0.5,
        _ => 0.0,
    };
    let mut values = vec![won, rows[at].score, other.score, rows[at].ticks as f64 / a_second];
    values.extend(seats.iter().map(|place| played.measures(at)[*place]));
    Some(LoggedMatch { player: plan.entrants[usize::from(rows[at].entrant)].name.clone(), opponent, values })
}

/// Leaves out the columns that say nothing: those without values, and those that are the same in every match.
fn varied(log: &mut HumanLog) {
    let says = |column: usize| {
        let values = || log.matches.iter().map(|played| played.values[column]).filter(|value| value.is_finite());
        values().count() > log.matches.len() / 2 && values().any(|value| Some(value) != values().next())
    };
    let columns: Vec<usize> = (0..log.columns.len()).filter(|column| says(*column)).collect();
    log.columns = columns.iter().map(|at| log.columns[*at].clone()).collect();
    for played in &mut log.matches {
        played.values = columns.iter().map(|at| played.values[*at]).collect();
    }
}

/// Opponents of a brief by name.
fn known(opponents: &[EntrantDraft]) -> BTreeMap<&str, usize> {
    opponents.iter().enumerate().map(|(place, draft)| (draft.name.as_deref().unwrap_or(&draft.agent), place)).collect()
}

/// A log as it is read.
pub(super) fn write(log: &HumanLog, opponents: &[Entrant]) -> String {
    let headings = [PLAYER, OPPONENT].map(String::from).into_iter().chain(log.columns.iter().cloned());
    let mut table = csv::Writer::from_writer(Vec::new());
    let rows = log.matches.iter().map(|played| {
        let values = played.values.iter().map(|x| if x.is_finite() { x.to_string() } else { String::new() });
        [played.player.clone(), opponents[played.opponent].name.clone()].into_iter().chain(values).collect::<Vec<_>>()
    });
    for row in std::iter::once(headings.collect()).chain(rows) {
        table.write_record(&row).expect("memory takes every record, and all are of one length");
    }
    let bytes = table.into_inner().expect("memory takes what is left");
    String::from_utf8(bytes).expect("a table of texts is text")
}
