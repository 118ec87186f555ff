//! The turning points of a stored match.

use inkpot_lab::{JudgedCourse, Turn, TurningPoint, choices_until, judge, turning_points};
use serde_json::{Value, json};

use super::{judged, stored_match, unlabelled};
use crate::args::ExplainArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::hint;
use crate::show::format::plain;
use crate::show::thoughts::{action, signed};
use crate::verbs::OneMatch;

pub(super) fn run(which: &str, args: &ExplainArgs, desk: &Desk) -> Result<(), Failure> {
    let one = stored_match(which, desk)?;
    let points = points(&one, which, args.agent.as_deref(), &judged_course(&one, args, desk)?, desk)?;
    if desk.json {
        desk.print_json(&points.json());
    } else {
        desk.print(points.text());
    }
    Ok(())
}

/// The match as its own agents judge it, or another.
fn judged_course(one: &OneMatch, args: &ExplainArgs, desk: &Desk) -> Result<JudgedCourse, Failure> {
    let Some(spec) = &args.agent else { return Ok(judge(one.open(desk)?.as_mut(), None)) };
    let casting = super::judge(spec, &one.plan, args, desk)?;
    let made = choices_until(one.open(desk)?.as_mut(), u64::MAX);
    Ok(judge(judged(one, &casting, desk)?.as_mut(), Some(&made)))
}

/// The turning points of a match, in words.
pub(crate) struct TurningPoints {
    which: String,
    /// The judge, if it was not the agents of the match.
    judge: Option<String>,
    /// Each with the deciding entrant and the command that explains it, unless agents decide unseen.
    points: Vec<(TurningPoint, String, Option<String>)>,
    per_second: Option<f64>,
    scores: Vec<f64>,
}

/// Finds the turning points, with the deciding entrant and the command that explains each.
pub(crate) fn points(
    one: &OneMatch,
    which: &str,
    judge: Option<&str>,
    course: &JudgedCourse,
    desk: &Desk,
) -> Result<TurningPoints, Failure> {
    let held = one.open(desk)?;
    let game = desk.game(&one.plan.ground.game)?;
    let points = turning_points(course).into_iter().map(|point| {
        let (turn, seat) = (point.turn.to_string(), point.seat.to_string());
        let mut words = vec!["explain", "--again", which, "--turn", &turn, "--seat", &seat];
        words.extend(judge.iter().flat_map(|judge| ["--agent", judge]));
        let command = (!game.plays_by_itself()).then(|| hint::bare_on_ledger(words));
        let who = one.plan.entrants[usize::from(held.entrant(point.seat))].name.clone();
        (point, who, command)
    });
    Ok(TurningPoints {
        which: which.into(),
        judge: judge.map(|judge| unlabelled(judge).to_string()),
        points: points.collect(),
        per_second: game.sheet().ticks_per_second,
        scores: course.scores.last().map(|scored| scored.scores.clone()).unwrap_or_default(),
    })
}

fn scores(scores: &[f64]) -> String {
    scores.iter().map(|score| plain((score * 100.0).round() / 100.0)).collect::<Vec<_>>().join(" : ")
}

impl TurningPoints {
    pub(crate) fn is_empty(&self) -> bool {
        self.points.is_empty()
    }

    pub(crate) fn text(&self) -> String {
        let by = self.judge.as_ref().map(|judge| format!(" as {judge} judges it")).unwrap_or_default();
        if self.points.is_empty() {
            return format!(
                "{} has no turning point{by}: no score changed, and no option was valued. {} has another agent judge it.",
                self.which,
                hint::on_ledger(["explain", "--again", &self.which, "--agent", "AGENT"])
            );
        }
        let mut lines = vec![format!("Turning points of {}{by}, which ended {}:", self.which, scores(&self.scores))];
        for (point, who, command) in &self.points {
            let when = match self.per_second {
                Some(rate) => format!("Tick {} ({:.1} s)", point.turn, point.turn as f64 / rate),
                None => format!("Turn {}", point.turn),
            };
            let choice = point.choice.as_ref().map(|choice| format!(" chooses {}", action(choice))).unwrap_or_default();
            let reasons: Vec<String> = point.reasons.iter().map(|turn| self.reason(turn)).collect();
            let command = command.as_ref().map(|command| format!("\n    {command}")).unwrap_or_default();
            lines.push(format!("\n{when}: {who}{choice}; {}.{command}", reasons.join("; ")));
        }
        lines.join("\n")
    }

    fn reason(&self, turn: &Turn) -> String {
        match turn {
            Turn::Beaten { option, by } => {
                let judge = self.judge.as_deref().unwrap_or("it");
                format!("{judge} values {} {} more", action(option), signed(*by))
            }
            Turn::Value { before, after } => {
                let verb = if after > before { "rises" } else { "falls" };
                format!("the value of its choice {verb} from {} to {}", signed(*before), signed(*after))
            }
            Turn::Lead { before, after, by } => {
                let by = by.as_ref().map(|by| format!(" by {by}")).unwrap_or_default();
                format!("the score goes from {} to {}{by}", scores(before), scores(after))
            }
        }
    }

    pub(crate) fn json(&self) -> Value {
        let points = self.points.iter().map(|(point, who, command)| {
            let mut written = json!(point);
            written["entrant"] = json!(who);
            written["command"] = json!(command);
            written
        });
        json!({ "match": self.which, "judge": self.judge, "scores": self.scores, "turning_points": points.collect::<Vec<_>>() })
    }
}
