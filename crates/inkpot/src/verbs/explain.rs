//! `explain`: what an agent weighs at a position.

use inkpot_core::{Casting, CountError, Explained, InquiryError, Knobs, PositionError, Setting, explain_turn};
use inkpot_lab::{EntrantDraft, KindDraft, StudyPlan};
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
        if let Some(afresh) = moment.afresh_in_words() {
            desk.print(format!("\n{afresh}"));
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

/// What was asked, and what came of it.
struct Inquiry {
    game: String,
    /// What the agent is called.
    name: String,
    explained: Explained,
    /// Where it was a decision of a stored match: what the same agent chooses when it is asked afresh at the position.
    afresh: Option<Value>,
}

impl Inquiry {
    /// Whether asking afresh at the position gives the same.
    fn afresh_in_words(&self) -> Option<String> {
        let (afresh, best) = (self.afresh.as_ref()?, self.explained.best.as_ref()?);
        Some(if afresh == best {
            "Asked afresh at this position, it chooses the same.".into()
        } else {
            format!(
                "Asked afresh at this position, it chooses {}: in the match it relied on what it had kept from \
                 earlier turns, and on its own chance.",
                thoughts::action(afresh)
            )
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
    let plan = plan(&game, &agent, args, desk)?;
    let entrant = &plan.entrants[0];
    let setting = everywhere(&plan.setting(&plan.cells[0]), &entrant.kind, &entrant.knobs);
    let explained = desk.game(&game)?.explain(&setting, args.position.as_deref(), args.seat, args.layers);
    let explained = explained.map_err(|error| refused(&error))?;
    Ok(Inquiry { game, name: unlabelled(&agent).to_string(), explained, afresh: None })
}

/// The same agent in every seat.
fn everywhere(setting: &Setting, kind: &str, knobs: &Knobs) -> Setting {
    Setting { cast: Casting::everywhere(kind, knobs, setting.cast.len()), ..setting.clone() }
}

/// A decision of a stored match as it was made, and the same agent asked afresh.
fn stored(which: &str, turn: u64, args: &ExplainArgs, desk: &Desk) -> Result<Inquiry, Failure> {
    let one = stored_match(which, desk)?;
    let OneMatch { plan, spot, .. } = &one;
    let game = desk.game(&plan.ground.game)?;
    let setting = plan.setting(&plan.cells[spot.cell as usize]);
    let mut held = one.open(desk)?;
    let explained = explain_turn(held.as_mut(), turn, args.seat, args.layers).map_err(|error| refused(&error))?;
    let who = explained.seat.map(|seat| held.entrant(seat));
    let name = who.map(|who| plan.entrants[usize::from(who)].name.clone()).unwrap_or_default();
    let casting = setting.cast.iter().find(|casting| Some(casting.entrant) == who);
    let afresh = casting.zip(explained.position.as_deref()).and_then(|(casting, position)| {
        let setting = everywhere(&setting, &casting.kind, &casting.knobs);
        game.explain(&setting, Some(position), explained.seat, args.layers).ok()?.best
    });
    Ok(Inquiry { game: plan.ground.game.to_string(), name, explained, afresh })
}

/// One agent is all that is asked about: the other seats are filled with any, so that the setting is a whole one.
fn plan(game: &str, agent: &str, args: &ExplainArgs, desk: &Desk) -> Result<StudyPlan, Failure> {
    let sheets = desk.game(game)?;
    let mut typed = Typed::new(KindDraft::Batch, game, &[agent.to_string()], &args.setting, desk)?;
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

/// What the agent is called in the output: as typed, its label left out.
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
        InquiryError::NotActing { .. } => "leave out --seat to explain whoever decides".into(),
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
    let Inquiry { explained, game, name, afresh } = inquiry;
    let thoughts = explained.thoughts.as_ref();
    let options: Vec<Value> =
        thoughts.map(|thoughts| thoughts.options.iter().map(|option| json!(option)).collect()).unwrap_or_default();
    let mut document = json!({
        "game": game, "agent": name, "position": explained.position, "seat": explained.seat,
        "over": explained.seat.is_none(), "scores": explained.scores, "options": options, "best": explained.best,
        "spent": thoughts.map(|thoughts| thoughts.spent),
    });
    if let Some(thoughts) = thoughts {
        if !thoughts.steps.is_empty() {
            document["steps"] = json!(thoughts.steps);
        }
        if !thoughts.looking_at.is_empty() && (thoughts.spent.out_of_budget || explained.fell.is_some()) {
            document["looking_at"] = json!(thoughts.looking_at);
        }
    }
    if let Some(afresh) = afresh {
        document["afresh"] = afresh.clone();
    }
    if let Some(reason) = &explained.fell {
        document["fell"] = json!(reason);
    }
    document
}
