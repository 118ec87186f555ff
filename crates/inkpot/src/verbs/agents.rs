//! `agents`: the agents of a game.

use inkpot_core::nearest;
use inkpot_lab::find_agent;

use crate::args::AgentsArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::hint;
use crate::show::describe;

pub(super) fn run(args: &AgentsArgs, desk: &Desk) -> Result<(), Failure> {
    let game = desk.game(&args.game)?;
    let Some(name) = &args.agent else {
        if desk.json {
            desk.print_json(&game.agents().iter().map(describe::agent_json).collect::<Vec<_>>().into());
        } else {
            desk.print(describe::agents(game, desk.color));
        }
        return Ok(());
    };
    let Some((sheet, _)) = find_agent(game, name) else {
        let names = game.agents().iter().flat_map(|sheet| {
            std::iter::once(sheet.name.as_str()).chain(sheet.presets.iter().map(|preset| preset.name.as_str()))
        });
        let near = nearest(name, names).map(|near| format!("did you mean `{near}`? ")).unwrap_or_default();
        let game = &args.game;
        return Err(Failure::wrong(
            format!("`{game}` has no agent `{name}`"),
            format!("{near}{} shows what there is", hint::command(["agents", game])),
        ));
    };
    if desk.json {
        desk.print_json(&describe::agent_json(sheet));
    } else {
        desk.print(describe::agent(sheet, Some(name.as_str()).filter(|name| *name != sheet.name), desk.color));
    }
    Ok(())
}
