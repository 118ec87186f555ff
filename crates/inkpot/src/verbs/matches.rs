//! `match`: one match, told; or a stored one again.

use std::io::{BufWriter, IntoInnerError, Write};
use std::path::Path;

use inkpot_core::{GameEntry, HeldMatch, Moment, Rows, Spot, Telling, tell};
use inkpot_lab::{Asked, Plan};
use inkpot_ledger::WholeFile;
use serde_json::{Value, json};

use super::Typed;
use crate::args::MatchArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::plain;
use crate::show::table::{Column, table};
use crate::{hint, output, stored};

pub(super) fn run(args: &MatchArgs, desk: &Desk) -> Result<(), Failure> {
    let (plan, spot) = match &args.again {
        Some(which) => stored(which, desk)?,
        None => fresh(args, desk)?,
    };
    let game = desk.game(&plan.ground.game)?;
    let stage = game
        .stage(&plan.setting(&plan.cells[spot.cell as usize]))
        .map_err(|error| Failure::Failed(error.to_string()))?;
    let course = Course::heard(stage.open(spot), args.trace.as_deref(), game)?;
    if desk.json {
        desk.print_json(&course.json(&plan, game));
    } else {
        desk.print(course.text(&plan, game, desk.color));
        if let Some(path) = args.trace.as_ref().filter(|_| course.written.is_ok()) {
            desk.print(format!("\nTrace in {}.", path.display()));
        }
    }
    course.written
}

fn fresh(args: &MatchArgs, desk: &Desk) -> Result<(Plan, Spot), Failure> {
    let game = args.game.clone().unwrap_or_default();
    let mut typed = Typed::new(Asked::Batch, &game, &args.entrants, &args.setting, desk)?;
    typed.draft.matches = Some(1);
    let plan = typed.resolve(desk)?;
    let seats = *desk.game(&game)?.sheet().seats.end();
    if plan.entrants.len() > seats {
        return Err(Failure::wrong(
            format!("a match of `{game}` has {seats} seats, not {}", plan.entrants.len()),
            format!("name as many as sit down; {} plays every pairing", hint::command(["batch"])),
        ));
    }
    Ok((plan, Spot::default()))
}

/// Finds `STUDY/MATCH` in the ledger.
fn stored(which: &str, desk: &Desk) -> Result<(Plan, Spot), Failure> {
    let wrong = |what: String| {
        let list = hint::on_ledger(["ledger", "show", "STUDY", "--by", "MEASURE"]);
        Failure::wrong(what, format!("write STUDY/MATCH, as in `batch-piste-001/17`; {list} lists some"))
    };
    let (name, number) = which.rsplit_once('/').ok_or_else(|| wrong(format!("`{which}` names no match")))?;
    let index: u64 = number.parse().map_err(|_| wrong(format!("`{number}` is no match number")))?;
    let (manifest, plan) = stored::open(&desk.ledger.open(name)?, desk)?;
    // A comparison may have stopped early, and the later rounds of a tournament may not be drawn yet.
    let drawn = plan.cells.len() as u64 * plan.blocks;
    let matches = manifest.blocks.min(drawn) * plan.matches_a_block();
    if index >= matches {
        return Err(wrong(format!("`{name}` has matches 0 to {}, not {index}", matches.saturating_sub(1))));
    }
    let spot = plan.spot(index);
    Ok((plan, spot))
}

/// What was heard of a match.
struct Course {
    scores: Vec<(u64, Vec<f64>)>,
    rows: Rows,
    /// Whether its trace was written, if one was asked for.
    written: Result<(), Failure>,
}

impl Course {
    /// Plays a match to its end, and writes what each seat perceived, weighed and chose into a trace if one is asked
    /// for.
    fn heard(held: Box<dyn HeldMatch>, trace: Option<&Path>, game: &dyn GameEntry) -> Result<Self, Failure> {
        let mut course = Self { scores: Vec::new(), rows: Rows::new(game.sheet().measures.len()), written: Ok(()) };
        let mut out = trace.map(|path| output::begin(path).map(BufWriter::new)).transpose()?;
        let mut failed = None;
        let mut listener = |moment: Moment| {
            if let Some(out) = out.as_mut().filter(|_| failed.is_none()) {
                let line = serde_json::to_string(&moment).unwrap_or_default();
                failed = writeln!(out, "{line}").err();
            }
            if let Moment::Score { tick, scores } = moment {
                course.scores.push((tick, scores));
            }
        };
        let telling = if trace.is_some() { Telling::Choices } else { Telling::Scores };
        tell(held, telling, &mut listener, &mut course.rows);
        let finished = |out: BufWriter<WholeFile>| out.into_inner().map_err(IntoInnerError::into_error)?.finish();
        let written = match failed {
            Some(error) => Err(error),
            None => out.map_or(Ok(()), finished),
        };
        course.written = match (written, trace) {
            (Err(error), Some(path)) => Err(Failure::file("write", path, &error)),
            _ => Ok(()),
        };
        Ok(course)
    }

    fn names<'a>(&self, plan: &'a Plan) -> Vec<&'a str> {
        self.rows.rows.iter().map(|row| plan.entrants[usize::from(row.entrant)].name.as_str()).collect()
    }

    fn text(&self, plan: &Plan, game: &dyn GameEntry, color: bool) -> String {
        let names = self.names(plan);
        let rows = &self.rows.rows;
        let mut lines = vec![format!(
            "{}, seed {}, level {}: {}",
            plan.ground.game,
            plan.ground.seed,
            plan.ground.level,
            names.join(" against ")
        )];
        let clock = |tick: u64| match game.sheet().ticks_per_second {
            Some(ticks) => format!("{:>7.1} s", tick as f64 / ticks),
            None => format!("turn {tick:>4}"),
        };
        lines.push(String::new());
        for (tick, scores) in self.scores.iter().filter(|(tick, scores)| *tick > 1 || scores.iter().any(|s| *s != 0.0))
        {
            let scores: Vec<String> = scores.iter().map(|score| plain(*score)).collect();
            lines.push(format!("{}   {}", clock(*tick), scores.join(" : ")));
        }
        let winners: Vec<&str> =
            rows.iter().zip(&names).filter(|(row, _)| row.placement == 1).map(|(_, name)| *name).collect();
        let ending = rows.first().map(|row| row.ending.to_string()).unwrap_or_default();
        lines.push(match winners.as_slice() {
            [one] => format!("{one} wins ({ending})."),
            [] => format!("Nobody wins ({ending})."),
            _ => format!("A draw ({ending})."),
        });
        lines.extend(rows.iter().filter_map(|row| row.incident.clone()).take(1));
        lines.push(String::new());
        lines.push(self.measures(game, &names, color));
        lines.join("\n")
    }

    fn measures(&self, game: &dyn GameEntry, names: &[&str], color: bool) -> String {
        let rows: Vec<Vec<String>> = game
            .sheet()
            .measures
            .iter()
            .enumerate()
            .map(|(index, measure)| {
                let own = (0..self.rows.rows.len()).map(|row| {
                    let value = self.rows.measures_of(row)[index];
                    if value.is_finite() {
                        format!("{value:.2}").trim_end_matches(".00").to_string()
                    } else {
                        "-".into()
                    }
                });
                std::iter::once(measure.titled()).chain(own).collect()
            })
            .collect();
        let own = names.iter().map(|name| Column::figure(*name));
        table(std::iter::once(Column::text("Measure")).chain(own).collect(), rows, color)
    }

    fn json(&self, plan: &Plan, game: &dyn GameEntry) -> Value {
        let names = self.names(plan);
        let seats: Vec<Value> = self
            .rows
            .rows
            .iter()
            .enumerate()
            .map(|(index, row)| {
                let measures: serde_json::Map<String, Value> = game
                    .sheet()
                    .measures
                    .iter()
                    .zip(self.rows.measures_of(index))
                    .map(|(measure, value)| (measure.name.clone(), json!(value)))
                    .collect();
                json!({
                    "entrant": names[index], "seat": row.seat, "score": row.score, "outcome": row.outcome,
                    "placement": row.placement, "faults": row.faults, "incident": row.incident, "measures": measures,
                })
            })
            .collect();
        let first = self.rows.rows.first();
        json!({
            "game": plan.ground.game, "level": plan.ground.level.to_string(), "seed": plan.ground.seed,
            "world_seed": first.map(|row| row.world_seed), "ticks": first.map(|row| row.ticks),
            "ending": first.map(|row| row.ending.to_string()), "seats": seats,
            "scores": self.scores.iter().map(|(tick, scores)| json!({ "tick": tick, "scores": scores })).collect::<Vec<_>>(),
        })
    }
}
