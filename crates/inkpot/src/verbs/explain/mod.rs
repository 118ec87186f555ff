//! `explain`: an agent's values at a position, and the turning points of a match.

pub(super) mod turning;

use inkpot_core::{
    Casting, CountError, Explained, GameEntry, HAND, HeldMatch, InquiryError, Knobs, Level, PositionError, Setting,
    explain_turn,
};
use inkpot_lab::{EntrantDraft, KindDraft, StudyPlan, choices_until, follow};
use serde_json::{Value, json};

use super::{OneMatch, Typed, stored_match};
use crate::args::ExplainArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::hint;
use crate::plots;
use crate::show::thoughts;

pub(super) fn run(args: &ExplainArgs, desk: &Desk) -> Result<(), Failure> {
    let moment = match (&args.again, args.turn) {
        (Some(which), Some(turn)) => stored(which, turn, args, desk)?,
        (Some(which), None) => return turning::run(which, args, desk),
        _ => fresh(args, desk)?,
    };
    let Inquiry { explained, game, name, .. } = &moment;
    if let Some(path) = &args.figure {
        let drawing = thoughts::figure(explained, game, name)?;
        plots::save(&drawing, path)?;
    }
    if desk.json {
        desk.print_json(&to_json(&moment));
    } else {
        desk.print(thoughts::text(explained, game, name, args.layers, desk.color));
        if let Some(beside) = moment.beside.as_ref().and_then(|beside| beside.in_words(explained)) {
            desk.print(format!("\n{beside}"));
        }
        if let Some(path) = &args.figure {
            desk.print(format!("\nFigure in {}.", path.display()));
        }
    }
    match &explained.fell {
        Some(reason) => Err(Failure::Failed(format!("the agent {reason}"))),
        None => Ok(()),
    }
}

/// The request and the result of an explanation.
struct Inquiry {
    game: String,
    /// The agent's name.
    name: String,
    explained: Explained,
    /// The context of a decision from a stored match.
    beside: Option<Beside>,
}

/// The context of an explained decision from a stored match.
enum Beside {
    /// The choice of the same agent asked afresh at the position.
    Afresh(Value),
    /// The choice of the match, made by the clock: the explanation is of the answer now.
    ByClock(Value),
    /// The choice of the match and its maker: the explanation is of another agent.
    Other(String, Value),
}

impl Beside {
    fn in_words(&self, explained: &Explained) -> Option<String> {
        let best = explained.best.as_ref()?;
        Some(match self {
            Beside::Afresh(afresh) if afresh == best => "Asked afresh at this position, it chooses the same.".into(),
            Beside::Afresh(afresh) => format!(
                "Asked afresh at this position, it chooses {}: in the match it relied on what it had kept from \
                 earlier turns, and on its own chance.",
                thoughts::action(afresh)
            ),
            Beside::ByClock(chosen) => {
                let chosen = if chosen == best { "the same".into() } else { thoughts::action(chosen) };
                format!(
                    "It thinks by the clock, so this is its answer on this machine now; in the match it chose {chosen}."
                )
            }
            Beside::Other(who, chosen) => {
                let chosen = if chosen == best { "the same".into() } else { thoughts::action(chosen) };
                format!("In the match {who} chose {chosen}.")
            }
        })
    }
}

/// An agent asked at a position, or at the plain start.
fn fresh(args: &ExplainArgs, desk: &Desk) -> Result<Inquiry, Failure> {
    let game = args.game.clone().unwrap_or_default();
    let Some(agent) = args.agent.clone() else {
        let is_study = desk.registry.game(&game).is_none() && desk.ledger.open(&game).is_ok();
        let again = hint::on_ledger(["explain", "--again", &format!("{game}/0"), "--turn", "5"]);
        return Err(if is_study {
            Failure::wrong(
                format!("`{game}` is a study of many matches"),
                format!("name one of them and a turn, as in {again}"),
            )
        } else {
            Failure::wrong("nothing says which agent", "name it by --agent, as in `--agent minimax:depth=4`")
        });
    };
    shows_decisions(desk.game(&game)?)?;
    let plan = plan(&game, &agent, args, None, desk)?;
    let entrant = &plan.entrants[0];
    let setting = everywhere(&plan.setting(&plan.cells[0]), &entrant.kind, &entrant.knobs);
    let explained = desk.game(&game)?.explain(&setting, args.position.as_deref(), args.seat, args.layers);
    let explained = explained.map_err(|error| refused(&error))?;
    Ok(Inquiry { game, name: unlabelled(&agent).to_string(), explained, beside: None })
}

/// Errs for a game whose agents decide unseen.
fn shows_decisions(game: &dyn GameEntry) -> Result<(), Failure> {
    if !game.plays_by_itself() {
        return Ok(());
    }
    Err(Failure::wrong(
        format!("`{}` plays whole matches by itself, and its agents decide unseen", game.sheet().name),
        format!("{} lists the turning points of a match", hint::on_ledger(["explain", "--again", "STUDY/MATCH"])),
    ))
}

/// The same agent in every seat.
fn everywhere(setting: &Setting, kind: &str, knobs: &Knobs) -> Setting {
    Setting { cast: Casting::everywhere(kind, knobs, setting.cast.len()), ..setting.clone() }
}

/// Explains a decision of a stored match as it was made, with the same agent asked afresh; or another agent's choice
/// there.
fn stored(which: &str, turn: u64, args: &ExplainArgs, desk: &Desk) -> Result<Inquiry, Failure> {
    let one = stored_match(which, desk)?;
    shows_decisions(desk.game(&one.plan.ground.game)?)?;
    let ground = one.plan.ground.game.to_string();
    if let Some(spec) = &args.agent {
        let judge = judge(spec, &one.plan, args, desk)?;
        let (explained, who, chosen) = advised(&one, &judge, turn, args, desk)?;
        let name = unlabelled(spec).to_string();
        return Ok(Inquiry { game: ground, name, explained, beside: Some(Beside::Other(who, chosen)) });
    }
    let setting = one.plan.setting(&one.plan.cells[one.spot.cell as usize]);
    let mut held = one.open(desk)?;
    let explained = explain_turn(held.as_mut(), turn, args.seat, args.layers).map_err(|error| refused(&error))?;
    let who = explained.seat.map(|seat| held.entrant(seat));
    let name = who.map(|who| one.plan.entrants[usize::from(who)].name.clone()).unwrap_or_default();
    let casting = setting.cast.iter().find(|casting| Some(casting.entrant) == who);
    if let Some(casting) = casting.filter(|casting| one.record.is_any() && casting.kind != HAND) {
        // Choices that were kept have no thoughts: the agent is asked again.
        if explained.thoughts.is_none() && explained.fell.is_none() {
            let (explained, _, chosen) = advised(&one, casting, turn, args, desk)?;
            return Ok(Inquiry { game: ground, name, explained, beside: Some(Beside::ByClock(chosen)) });
        }
    }
    let afresh = casting.zip(explained.position.as_deref()).and_then(|(casting, position)| {
        let setting = everywhere(&setting, &casting.kind, &casting.knobs);
        desk.game(&ground).ok()?.explain(&setting, Some(position), explained.seat, args.layers).ok()?.best
    });
    Ok(Inquiry { game: ground, name, explained, beside: afresh.map(Beside::Afresh) })
}

/// The agent that judges a stored match, with its knobs.
fn judge(spec: &str, played: &StudyPlan, args: &ExplainArgs, desk: &Desk) -> Result<Casting, Failure> {
    let ground = (played.ground.rules.clone(), played.ground.level.clone());
    let plan = plan(&played.ground.game.to_string(), spec, args, Some(ground), desk)?;
    Ok(Casting::new(0, &plan.entrants[0].kind, plan.entrants[0].knobs.clone()))
}

/// Opens a stored match with this agent in every seat, to follow its choices.
fn judged(one: &OneMatch, judge: &Casting, desk: &Desk) -> Result<Box<dyn HeldMatch>, Failure> {
    let setting = one.plan.setting(&one.plan.cells[one.spot.cell as usize]);
    let stage = desk.game(&one.plan.ground.game)?.stage(&everywhere(&setting, &judge.kind, &judge.knobs));
    Ok(stage.map_err(|error| Failure::Failed(error.to_string()))?.open(one.spot))
}

/// Returns an agent's choice at a turn of a stored match, after seeing what the seat saw; and the seat with its choice
/// in the match.
fn advised(
    one: &OneMatch,
    casting: &Casting,
    turn: u64,
    args: &ExplainArgs,
    desk: &Desk,
) -> Result<(Explained, String, Value), Failure> {
    let mut held = one.open(desk)?;
    let made = choices_until(held.as_mut(), turn.saturating_sub(1));
    let explained = explain_turn(held.as_mut(), turn, args.seat, 1).map_err(|error| refused(&error))?;
    let seat = explained.seat.unwrap_or_default();
    let who = one.plan.entrants[usize::from(held.entrant(seat))].name.clone();
    let mut judging = judged(one, casting, desk)?;
    follow(judging.as_mut(), &made, seat, turn - 1);
    let answer = explain_turn(judging.as_mut(), turn, Some(seat), args.layers).map_err(|error| refused(&error))?;
    Ok((answer, who, explained.best.unwrap_or(Value::Null)))
}

/// One agent is all that is asked about: the other seats are filled with any, so that the setting is a whole one.
fn plan(
    game: &str,
    agent: &str,
    args: &ExplainArgs,
    ground: Option<(Knobs, Level)>,
    desk: &Desk,
) -> Result<StudyPlan, Failure> {
    let sheets = desk.game(game)?;
    let mut typed = Typed::new(KindDraft::Batch, game, &[agent.to_string()], &args.setting, desk)?;
    if let Some((rules, level)) = ground {
        typed.draft.rules = rules;
        typed.draft.level = Some(level);
    }
    let filler = sheets.agents().first().map(|sheet| sheet.name.clone()).unwrap_or_default();
    let others =
        (1..*sheets.sheet().seats.start()).map(|_| EntrantDraft { agent: filler.clone(), ..EntrantDraft::default() });
    typed.draft.entrants.extend(others);
    for (place, entrant) in typed.draft.entrants.iter_mut().enumerate() {
        entrant.name = Some(format!("seat {place}"));
    }
    typed.draft.matches = Some(1);
    typed.resolve(desk)
}

/// Returns the agent's name in the output: as typed, without its label.
fn unlabelled(spec: &str) -> &str {
    let head = spec.split(':').next().unwrap_or_default();
    head.split_once('=').map_or(spec, |(label, _)| &spec[label.len() + 1..])
}

/// An inquiry that cannot be answered, as a failure.
pub(super) fn refused(error: &InquiryError) -> Failure {
    let help = match error {
        InquiryError::Position(PositionError::Position { game, reason }) => {
            return Failure::wrong(format!("this is not a position of `{game}`"), reason.clone());
        }
        InquiryError::Setting(_) => {
            format!("{} and {} show what there is", hint::command(["games"]), hint::command(["agents", "GAME"]))
        }
        InquiryError::Position(PositionError::NoPositions { .. }) => {
            "leave out --position to ask about the start".into()
        }
        InquiryError::Position(PositionError::Fell { .. }) => {
            "check the position; if it is right, the game has a bug".into()
        }
        InquiryError::NoTurn { turns, .. } => format!("turns are numbered from 1 to {turns}"),
        InquiryError::NotActing { .. } => "leave out --seat to explain the seat that decides".into(),
        InquiryError::NotSolved { .. } | InquiryError::Response(_) | InquiryError::NotCounted { .. } => {
            format!("{} shows which games are played in turns", hint::command(["games"]))
        }
        InquiryError::Count(CountError::TooMany { depth, .. }) => {
            format!("count up to turn {} and have the turns beyond it estimated", depth - 1)
        }
        InquiryError::Count(CountError::Simultaneous) => "count a game of turns".into(),
    };
    Failure::wrong(error.to_string(), help)
}

fn to_json(inquiry: &Inquiry) -> Value {
    let Inquiry { explained, game, name, beside } = inquiry;
    let thoughts = explained.thoughts.as_ref();
    let options: Vec<Value> =
        thoughts.map(|thoughts| thoughts.options.iter().map(|option| json!(option)).collect()).unwrap_or_default();
    let mut document = json!({
        "game": game, "agent": name, "position": explained.position, "seat": explained.seat,
        "over": explained.seat.is_none(), "scores": explained.scores, "options": options, "best": explained.best,
        "spent": thoughts.map(|thoughts| thoughts.spent),
    });
    if let Some(thoughts) = thoughts {
        if !thoughts.observed.is_empty() {
            document["observed"] = json!(thoughts.observed);
            document["given"] = json!(thoughts.given);
        }
        if !thoughts.steps.is_empty() {
            document["steps"] = json!(thoughts.steps);
        }
        if !thoughts.looking_at.is_empty() && (thoughts.spent.out_of_budget || explained.fell.is_some()) {
            document["looking_at"] = json!(thoughts.looking_at);
        }
    }
    match beside {
        Some(Beside::Afresh(afresh)) => document["afresh"] = afresh.clone(),
        Some(Beside::ByClock(chosen)) => document["chosen"] = chosen.clone(),
        Some(Beside::Other(who, chosen)) => {
            document["entrant"] = json!(who);
            document["chosen"] = chosen.clone();
        }
        None => {}
    }
    if let Some(reason) = &explained.fell {
        document["fell"] = json!(reason);
    }
    document
}
