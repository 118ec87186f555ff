//! `match`: one match, told; or a stored one again.

use std::collections::BTreeMap;
use std::io::{BufWriter, IntoInnerError, Write};
use std::path::Path;

use inkpot_core::{GameEntry, HeldMatch, Moment, Record, Rows, Spot, Telling, tell};
use inkpot_lab::{KindDraft, Scored, StudyPlan, score_counts};
use inkpot_ledger::WholeFile;
use serde_json::{Value, json};

use super::{OneMatch, Typed, stored_match};
use crate::args::{MatchArgs, SettingArgs};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::asked::changed;
use crate::show::format::{ending, plain};
use crate::show::table::{Column, table};
use crate::show::thoughts::action;
use crate::{hint, output};

pub(super) fn run(args: &MatchArgs, desk: &Desk) -> Result<(), Failure> {
    let chosen_match = match &args.again {
        Some(which) => stored_match(which, desk)?,
        None => fresh(args.game.as_deref().unwrap_or_default(), &args.entrants, &args.setting, desk)?,
    };
    let plan = &chosen_match.plan;
    let game = desk.game(&plan.ground.game)?;
    let course = Course::heard(chosen_match.open(desk)?, args.trace.as_deref(), game)?;
    chosen_match.compare(&course.rows, desk);
    if desk.json {
        desk.print_json(&course.json(plan, game));
    } else {
        let names = course.names(plan);
        let text = if desk.quiet { ending(&course.rows.rows, &names) } else { course.text(plan, game, desk.color) };
        desk.print(text);
        if let Some(path) = args.trace.as_ref().filter(|_| course.written.is_ok() && !desk.quiet) {
            desk.print(format!("\nTrace in {}.", path.display()));
        }
    }
    course.written
}

/// A match that is named on the command line.
pub(super) fn fresh(game: &str, entrants: &[String], setting: &SettingArgs, desk: &Desk) -> Result<OneMatch, Failure> {
    let mut typed = Typed::new(KindDraft::Batch, game, entrants, setting, desk)?;
    typed.draft.matches = Some(1);
    // All of them meet, however few could.
    let range = desk.game(game)?.sheet().seats.clone();
    typed.draft.seats = Some(entrants.len().clamp(*range.start(), *range.end()) as u64);
    let plan = typed.resolve(desk)?;
    if plan.cells.len() != 1 {
        return Err(Failure::wrong(
            format!("a match of `{game}` has {} seats, not {}", plan.seats(), plan.entrants.len()),
            format!("name one entrant for each seat; {} plays every pairing", hint::command(["batch"])),
        ));
    }
    Ok(OneMatch { plan, spot: Spot::default(), record: Record::default(), stored: None })
}

/// Writes each seat's kinds of scores, if the game names them: `heron scored 3 by lunge, 2 by edge`.
fn scored_by(course: &[Scored], names: &[&str]) -> Option<String> {
    let counts = score_counts(course);
    let of = |(name, counts): (&&str, &BTreeMap<String, u64>)| {
        let mut counts: Vec<(&String, &u64)> = counts.iter().collect();
        counts.sort_by_key(|(_, count)| std::cmp::Reverse(**count));
        let words: Vec<String> = counts.iter().map(|(word, count)| format!("{count} by {word}")).collect();
        (!words.is_empty()).then(|| format!("{name} scored {}", words.join(", ")))
    };
    let said: Vec<String> = names.iter().zip(&counts).filter_map(of).collect();
    (!said.is_empty()).then(|| format!("{}.", said.join("; ")))
}

/// A choice at a position.
struct Move {
    tick: u64,
    seat: usize,
    position: String,
    action: Value,
}

/// The course of a match.
struct Course {
    scores: Vec<Scored>,
    /// Every choice, in a game that can write its positions.
    moves: Vec<Move>,
    rows: Rows,
    /// Whether its trace was written, if one was asked for.
    written: Result<(), Failure>,
}

impl Course {
    /// Plays a match to its end, and writes each seat's perception, values and choice into a trace, if requested.
    fn heard(held: Box<dyn HeldMatch>, trace: Option<&Path>, game: &dyn GameEntry) -> Result<Self, Failure> {
        let mut course = Self {
            scores: Vec::new(),
            moves: Vec::new(),
            rows: Rows::new(game.sheet().measures.len()),
            written: Ok(()),
        };
        let mut out = trace.map(|path| output::begin(path).map(BufWriter::new)).transpose()?;
        let mut failed = None;
        let mut listener = |moment: Moment| {
            if let Some(out) = out.as_mut().filter(|_| failed.is_none()) {
                let line = serde_json::to_string(&moment).unwrap_or_default();
                failed = writeln!(out, "{line}").err();
            }
            match moment {
                Moment::Score { tick, scores, by } => course.scores.push(Scored { tick, scores, by }),
                Moment::Choice { tick, seat, position: Some(position), action, .. } => {
                    course.moves.push(Move { tick, seat, position, action });
                }
                Moment::Choice { .. } => {}
            }
        };
        let telling = match (trace.is_some(), held.note().is_some()) {
            (true, _) => Telling::Choices,
            (false, true) => Telling::Moves,
            (false, false) => Telling::Scores,
        };
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

    fn names<'a>(&self, plan: &'a StudyPlan) -> Vec<&'a str> {
        self.rows.rows.iter().map(|row| plan.entrants[usize::from(row.entrant)].name.as_str()).collect()
    }

    fn text(&self, plan: &StudyPlan, game: &dyn GameEntry, color: bool) -> String {
        let names = self.names(plan);
        let rows = &self.rows.rows;
        let rules = changed(&plan.ground.rules, &game.sheet().rules);
        let rules = if rules.is_empty() { rules } else { format!(", rules {rules}") };
        let ground = &plan.ground;
        let who = names.join(" against ");
        let mut lines = vec![format!("{}, seed {}, level {}{rules}: {who}", ground.game, ground.seed, ground.level)];
        let clock = |tick: u64| match game.sheet().ticks_per_second {
            Some(ticks) => format!("{:>7.1} s", tick as f64 / ticks),
            None => format!("turn {tick:>4}"),
        };
        lines.push(String::new());
        let joined = |scores: &[f64]| scores.iter().map(|score| plain(*score)).collect::<Vec<_>>().join(" : ");
        if self.moves.is_empty() {
            let begun = |scored: &&Scored| scored.tick > 1 || scored.scores.iter().any(|score| *score != 0.0);
            let line = |scored: &Scored| {
                let by = scored.by.as_ref().map(|by| format!("   {by}")).unwrap_or_default();
                format!("{}   {}{by}", clock(scored.tick), joined(&scored.scores))
            };
            lines.extend(self.scores.iter().filter(begun).map(line));
        } else {
            lines.push(format!("{}\n", self.told_moves(&names, joined, color)));
        }
        lines.push(ending(rows, &names));
        lines.extend(rows.iter().filter_map(|row| row.incident.clone()).take(1));
        lines.extend(scored_by(&self.scores, &names));
        lines.push(String::new());
        lines.push(self.measures(game, &names, color));
        lines.join("\n")
    }

    /// Lists the moves turn by turn: the position, the move and its player, and the score after it.
    fn told_moves(&self, names: &[&str], score_text: impl Fn(&[f64]) -> String, color: bool) -> String {
        let columns = vec![
            Column::figure("Turn"),
            Column::text("Position"),
            Column::text("Plays"),
            Column::text("Choice"),
            Column::text("Score"),
        ];
        let after = |tick: u64| self.scores.iter().rev().find(|scored| scored.tick <= tick + 1);
        let row = |choice: &Move| {
            let score = after(choice.tick).map(|scored| score_text(&scored.scores)).unwrap_or_default();
            let (turn, who) = ((choice.tick + 1).to_string(), names[choice.seat].to_string());
            vec![turn, choice.position.clone(), who, action(&choice.action), score]
        };
        table(columns, self.moves.iter().map(row).collect(), color)
    }

    fn measures(&self, game: &dyn GameEntry, names: &[&str], color: bool) -> String {
        let rows: Vec<Vec<String>> = game
            .sheet()
            .measures
            .iter()
            .enumerate()
            .map(|(index, measure)| {
                let rows = (0..self.rows.rows.len()).map(|row| {
                    let value = self.rows.measures_of(row)[index];
                    if value.is_finite() {
                        format!("{value:.2}").trim_end_matches(".00").to_string()
                    } else {
                        "-".into()
                    }
                });
                std::iter::once(measure.titled()).chain(rows).collect()
            })
            .collect();
        let columns = names.iter().map(|name| Column::figure(*name));
        table(std::iter::once(Column::text("Measure")).chain(columns).collect(), rows, color)
    }

    fn json(&self, plan: &StudyPlan, game: &dyn GameEntry) -> Value {
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
        let moves = self.moves.iter().map(|turn| {
            json!({
                "turn": turn.tick + 1, "seat": turn.seat, "entrant": names[turn.seat], "position": turn.position,
                "choice": turn.action,
            })
        });
        let mut document = json!({
            "game": plan.ground.game, "level": plan.ground.level.to_string(), "seed": plan.ground.seed,
            "world_seed": first.map(|row| row.world_seed), "ticks": first.map(|row| row.ticks),
            "ending": first.map(|row| row.ending.to_string()), "seats": seats,
            "scores": self.scores,
        });
        if !self.moves.is_empty() {
            document["moves"] = moves.collect();
        }
        document
    }
}
