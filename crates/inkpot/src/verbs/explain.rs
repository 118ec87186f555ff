//! `explain`: what an agent weighs at a position.

use inkpot_core::{Casting, CountError, Explained, InquiryError, PositionError, Setting};
use inkpot_lab::{Asked, EntrantDraft, Plan};
use serde_json::{Value, json};

use super::Typed;
use crate::args::ExplainArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::hint;
use crate::plots;
use crate::show::thoughts;

pub(super) fn run(args: &ExplainArgs, desk: &Desk) -> Result<(), Failure> {
    let plan = plan(args, desk)?;
    let entrant = &plan.entrants[0];
    let setting = plan.setting(&plan.cells[0]);
    let cast = Casting::everywhere(&entrant.kind, &entrant.knobs, setting.cast.len());
    let setting = Setting { cast, ..setting };
    let explained = desk.game(&plan.ground.game)?.explain(&setting, args.position.as_deref(), args.seat, args.layers);
    let explained = explained.map_err(|error| refused(&error))?;
    let name = unlabelled(&args.agent);
    if let Some(path) = &args.figure {
        let drawing = thoughts::figure(&explained, &plan.ground.game, name)?;
        plots::save(&drawing, path)?;
    }
    if desk.json {
        desk.print_json(&to_json(&explained, &plan, name));
    } else {
        desk.print(thoughts::text(&explained, &plan.ground.game, name, args.layers, desk.color));
        if let Some(path) = &args.figure {
            desk.print(format!("\nFigure in {}.", path.display()));
        }
    }
    match &explained.fell {
        Some(reason) => Err(Failure::Failed(format!("the agent {reason}"))),
        None => Ok(()),
    }
}

/// One agent is all that is asked about: the other seats are filled with any, so that the setting is a whole one.
fn plan(args: &ExplainArgs, desk: &Desk) -> Result<Plan, Failure> {
    let game = desk.game(&args.game)?;
    let mut typed = Typed::new(Asked::Batch, &args.game, std::slice::from_ref(&args.agent), &args.setting, desk)?;
    let filler = game.agents().first().map(|sheet| sheet.name.clone()).unwrap_or_default();
    let others =
        (1..*game.sheet().seats.start()).map(|_| EntrantDraft { agent: filler.clone(), ..EntrantDraft::default() });
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
            return Failure::wrong(format!("this is no position of `{game}`"), reason.clone());
        }
        InquiryError::Setting(_) => {
            format!("{} and {} show what there is", hint::command(["games"]), hint::command(["agents", "GAME"]))
        }
        InquiryError::Position(PositionError::NoPositions { .. }) => {
            "leave the position out to ask about the start".into()
        }
        InquiryError::Position(PositionError::Fell { .. }) => {
            "check the position; mend the game where it is right".into()
        }
        InquiryError::NotActing { .. } => "leave the seat out to ask whoever decides".into(),
        InquiryError::NotCounted { .. } => {
            format!("{} shows which games are played in turns", hint::command(["games"]))
        }
        InquiryError::Count(CountError::TooMany { depth, .. }) => {
            format!("count to {} and let the turns beyond be estimated", depth - 1)
        }
        InquiryError::Count(CountError::Simultaneous) => "count a game of turns".into(),
    };
    Failure::wrong(error.to_string(), help)
}

fn to_json(explained: &Explained, plan: &Plan, name: &str) -> Value {
    let thoughts = explained.thoughts.as_ref();
    let options: Vec<Value> =
        thoughts.map(|thoughts| thoughts.options.iter().map(|option| json!(option)).collect()).unwrap_or_default();
    let mut document = json!({
        "game": plan.ground.game, "agent": name, "position": explained.position, "seat": explained.seat,
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
    if let Some(reason) = &explained.fell {
        document["fell"] = json!(reason);
    }
    document
}
