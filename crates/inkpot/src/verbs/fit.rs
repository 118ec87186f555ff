//! `tune BRIEF --fit-standin LOG.csv`: a stand-in's knobs from logged matches of people.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use inkpot_lab::{
    Across, Draft, EntrantDraft, FitPlan, Free, FreeRange, HumanLog, LoggedMatch, Place, Problem, Side, fit_standin,
    resolve,
};
use serde_json::json;

use crate::args::TuneArgs;
use crate::brief::{Findings, Reader, entrant};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds::tune::free_draft;
use crate::level;
use crate::show;
use crate::source::{Source, toml_of};

/// Columns that say who played, in place of a figure.
const PLAYER: &str = "player";
const OPPONENT: &str = "opponent";
const MATCH: &str = "match";

pub(super) fn run(brief: &Path, log: &Path, args: &TuneArgs, desk: &Desk) -> Result<(), Failure> {
    let text = fs::read_to_string(brief).map_err(|error| Failure::file("read", brief, &error))?;
    let (plan, game) = read_plan(&text, &brief.display().to_string(), desk)?;
    let human = read_log(log, &plan)?;
    let fitted = fit_standin(&plan, &human, desk.game(&game)?, desk.threads, |round, rounds| {
        desk.say(format!("round {} of {rounds}", round + 1));
    });
    let fitted = fitted
        .map_err(|error| Failure::wrong(format!("{}: {error}", log.display()), "docs/tune.md says what a log holds"))?;
    let file = show::fit::agent_file(&plan, &fitted);
    if let Some(out) = &args.out {
        fs::write(out, &file).map_err(|error| Failure::file("write", out, &error))?;
    }
    if desk.json {
        desk.print_json(&json!({ "kind": "fit", "game": game, "seed": plan.ground.seed, "fitted": fitted }));
    } else {
        desk.print(show::fit::text(&plan, &fitted, desk.color));
        match &args.out {
            Some(out) => {
                desk.print(format!("\nThe stand-in is in {}; it is an agent file for any study.", out.display()));
            }
            None => desk.print(format!("\nAs an agent file (`--out FILE.toml` writes it):\n\n{}", file.trim_end())),
        }
    }
    Ok(())
}

/// The brief of a fit: the stand-in, its free knobs, and whom the people played.
fn read_plan(text: &str, name: &str, desk: &Desk) -> Result<(FitPlan, String), Failure> {
    let help = "a fit's brief has `kind = \"fit\"`, `game`, [standin], [[free]] and [[opponent]]";
    let table = toml_of(text, name, help, desk.color_err)?;
    let findings = RefCell::new(Findings::default());
    let mut top = Reader::new(table.get_ref(), Place::default(), &findings);
    let kind = top.needed_text("kind", "`kind = \"fit\"`");
    if kind.as_deref().is_some_and(|kind| kind != "fit") {
        top.problem("kind", "a log is fitted by a brief of its own kind", "write kind = \"fit\"");
    }
    let game = top.needed_text("game", "`game = \"piste\"`").unwrap_or_default();
    let base = Path::new(name).parent().unwrap_or(Path::new(""));
    let level = top.text("level").map(|text| level::typed(&text, &game, base, desk)).transpose()?;
    let standin = top.table("standin").map(entrant);
    if standin.is_none() {
        top.problem("", "the table `standin` is missing", "add [standin] with `agent = \"standin\"`");
    }
    let mut entrants: Vec<EntrantDraft> = standin.into_iter().collect();
    entrants.extend(top.tables("opponent").into_iter().map(entrant));
    let free: Vec<_> = top.tables("free").into_iter().map(free_draft).collect();
    let draft = Draft {
        game: game.clone(),
        level,
        seed: top.count("seed"),
        confidence: top.number("confidence"),
        rules: top.knobs("rules"),
        entrants,
        ..Draft::default()
    };
    top.finish();
    let Findings { mut problems, places } = findings.into_inner();
    let renamed = |mut problem: Problem| {
        if let Some(place) = problem.at.item_of("entrant") {
            let to = if place == 0 { "standin".into() } else { Place::item("opponent", place - 1) };
            problem.at = problem.at.moved(&Place::item("entrant", place), &to);
        }
        problem
    };
    let plan = resolve(&draft, &desk.registry).map_err(|more| problems.extend(more.into_iter().map(renamed))).ok();
    let mut knobs = Vec::new();
    if let Some(plan) = &plan {
        let sheet = desk.game(&game)?.agents().iter().find(|sheet| sheet.name == plan.entrants[0].kind);
        for (place, asked) in free.iter().enumerate() {
            let knob = sheet.and_then(|sheet| sheet.knobs.iter().find(|knob| knob.name == asked.knob));
            let bounds = knob.and_then(inkpot_core::Knob::bounds);
            let Some((least, most)) = bounds else {
                let known: Vec<&str> =
                    sheet.iter().flat_map(|sheet| &sheet.knobs).map(|knob| knob.name.as_str()).collect();
                let what = format!("the stand-in has no numeric knob `{}`", asked.knob);
                problems.push(Problem::new(
                    Place::item("free", place),
                    what,
                    format!("there are: {}", known.join(", ")),
                ));
                continue;
            };
            let (low, high) = (asked.low.unwrap_or(least).max(least), asked.high.unwrap_or(most).min(most));
            if low >= high {
                let what = format!("it is not clear how far `{}` may be turned", asked.knob);
                problems.push(Problem::new(
                    Place::item("free", place),
                    what,
                    "give `from` and `to`, the first below the second",
                ));
            }
            let range = FreeRange::Number { low, high, whole: false };
            knobs.push(Free { of: Side::Player, knob: asked.knob.clone(), range, across: Across::Any, step: None });
        }
        if free.is_empty() {
            problems.push(Problem::new("free", "no knob is free", "add [[free]] with `knob`, `from` and `to`"));
        }
    }
    match plan.filter(|_| problems.is_empty()) {
        Some(mut plan) => {
            let standin = plan.entrants.remove(0);
            let fit = FitPlan { ground: plan.ground, standin, free: knobs, opponents: plan.entrants };
            Ok((fit, game))
        }
        None => Err(Source::Brief { path: name.into(), text: text.into(), places }.report(&problems, desk.color_err)),
    }
}

/// Reads a log: a CSV table with a line a match.
fn read_log(path: &Path, plan: &FitPlan) -> Result<HumanLog, Failure> {
    let text = fs::read_to_string(path).map_err(|error| Failure::file("read", path, &error))?;
    let wrong =
        |what: String| Failure::wrong(format!("{}: {what}", path.display()), "docs/tune.md says what a log holds");
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    let headings: Vec<String> = reader
        .headers()
        .map_err(|error| wrong(error.to_string()))?
        .iter()
        .map(|name| name.trim().to_string())
        .collect();
    let place = |name: &str| headings.iter().position(|heading| heading == name);
    let player = place(PLAYER).ok_or_else(|| wrong("the column `player` is missing".into()))?;
    let opponent = place(OPPONENT);
    if opponent.is_none() && plan.opponents.len() > 1 {
        return Err(wrong("the column `opponent` is missing, and the brief names several".into()));
    }
    let names: BTreeMap<&str, usize> =
        plan.opponents.iter().enumerate().map(|(i, own)| (own.name.as_str(), i)).collect();
    let compared: Vec<usize> =
        (0..headings.len()).filter(|place| ![PLAYER, OPPONENT, MATCH].contains(&headings[*place].as_str())).collect();
    let mut log =
        HumanLog { columns: compared.iter().map(|place| headings[*place].clone()).collect(), matches: Vec::new() };
    for (index, record) in reader.records().enumerate() {
        let line = index + 2;
        let record = record.map_err(|error| wrong(format!("line {line}: {error}")))?;
        let number = |place: usize| {
            let text = record[place].trim();
            let parsed = if text.is_empty() { Ok(f64::NAN) } else { text.parse::<f64>() };
            parsed
                .map_err(|_| wrong(format!("line {line}: `{}` cannot be {text:?}, it takes a number", headings[place])))
        };
        let met = match opponent {
            None => 0,
            Some(place) => *names.get(record[place].trim()).ok_or_else(|| {
                let known: Vec<&str> = names.keys().copied().collect();
                wrong(format!(
                    "line {line}: the brief has no opponent `{}`; it has {}",
                    record[place].trim(),
                    known.join(", ")
                ))
            })?,
        };
        let values = compared.iter().map(|place| number(*place)).collect::<Result<Vec<_>, _>>()?;
        log.matches.push(LoggedMatch { player: record[player].trim().to_string(), opponent: met, values });
    }
    Ok(log)
}
