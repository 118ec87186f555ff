//! `tournament`: ranks a field.

use inkpot_lab::{EntrantDraft, KindDraft, NODES, Place, TournamentDraft, equal_cost, find_agent};

use super::Typed;
use crate::args::TournamentArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::pool::Pool;
use crate::show::format::{counted, significant};

/// The share of the wanted time below which an agent has nothing more to look at.
const SHORT: f64 = 0.8;

pub(super) fn run(args: &TournamentArgs, desk: &Desk) -> Result<(), Failure> {
    let draft = TournamentDraft { format: Some(args.format.into()), rounds: args.rounds, anchor: args.anchor.clone() };
    let kind = KindDraft::Tournament(draft);
    let mut typed = Typed::new(kind, &args.game, &args.entrants, &args.study.setting, desk)?;
    if let Some(path) = &args.pool {
        let pool = Pool::load(path, desk)?;
        for place in 0..pool.entrants.len() {
            let entrant = Place::item("entrant", args.entrants.len() + place);
            typed.argument(entrant, Some(format!("--pool {}", path.display())));
        }
        pool.enter(&mut typed.draft)?;
    }
    typed.argument("rounds", args.rounds.map(|rounds| format!("--rounds {rounds}")));
    typed.argument("anchor", args.anchor.as_ref().map(|anchor| format!("--anchor {anchor}")));
    if let Some(millis) = args.equal_cost {
        make_equal(&mut typed, millis, desk)?;
    }
    typed.study(&args.study, desk)
}

/// Gives each agent that searches the nodes with which its decisions take this long here.
fn make_equal(typed: &mut Typed, millis: f64, desk: &Desk) -> Result<(), Failure> {
    let game = desk.game(&typed.draft.game)?;
    let searches = |entrant: &EntrantDraft| {
        let (sheet, _) = find_agent(game, &entrant.agent)?;
        let nodes = sheet.knobs.iter().find(|knob| knob.name == NODES)?;
        Some((sheet, nodes.group()))
    };
    let label = |entrant: &EntrantDraft| entrant.name.clone().unwrap_or_else(|| entrant.agent.clone());
    let mut equal = typed.draft.clone();
    let mut searching = Vec::new();
    for (place, entrant) in equal.entrants.iter_mut().enumerate() {
        let Some((sheet, group)) = searches(entrant) else { continue };
        let fixed =
            group.and_then(|group| entrant.knobs.in_force(group, &sheet.knobs)).map(|(knob, _)| knob.to_string());
        let varied = entrant.vary.first().map(|(knob, _)| knob.clone());
        if let Some(knob) = fixed.or(varied) {
            return Err(Failure::wrong(
                format!("`{}` sets `{knob}`, and --equal-cost finds the budget of each agent itself", label(entrant)),
                format!("leave `{knob}` out, or leave out --equal-cost"),
            ));
        }
        entrant.knobs = entrant.knobs.clone().with(NODES, 1.0);
        searching.push(place);
    }
    if searching.is_empty() {
        return Err(Failure::wrong(
            "no agent of the field has a budget in `nodes`, so --equal-cost changes nothing",
            "leave it out, or enter agents that search: minimax, treesearch, playouts, horizon",
        ));
    }
    let plan = Typed { draft: equal, arguments: typed.arguments.clone() }.resolve(desk)?;
    let setting = plan.setting(&plan.cells[0]);
    for place in searching {
        let name = label(&typed.draft.entrants[place]);
        let Some(entrant) = plan.entrants.iter().find(|entrant| entrant.name == name) else { continue };
        let found = equal_cost(game, &setting, &entrant.kind, &entrant.knobs, millis);
        let found = found.map_err(|error| Failure::Failed(error.to_string()))?;
        let draft = &mut typed.draft.entrants[place];
        draft.knobs = draft.knobs.clone().with(NODES, found.nodes as f64);
        let short = if found.millis < SHORT * millis { ", the most that it takes" } else { "" };
        let took = format!("{} ms a decision{short}", significant(found.millis, 2));
        desk.say(format!("{}: {}, {took}", entrant.name, counted(found.nodes, "node", "nodes")));
    }
    Ok(())
}
