//! `new`: a folder to start from.

use std::collections::BTreeMap;
use std::fmt::Write;
use std::fs;
use std::path::Path;

use inkpot_core::{AgentSheet, GameEntry};
use inkpot_lab::{Draft, EntrantDraft, resolve};

use crate::args::{GameWay, NewArgs};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::source::Source;
use crate::{briefs, hint, output};

/// The shipped briefs by name.
pub(crate) const BRIEFS: [(&str, &str); 20] = [
    ("how-hard.toml", include_str!("../../briefs/how-hard.toml")),
    ("skill.toml", include_str!("../../briefs/skill.toml")),
    ("ladder.toml", include_str!("../../briefs/ladder.toml")),
    ("crowd.toml", include_str!("../../briefs/crowd.toml")),
    ("calm.toml", include_str!("../../briefs/calm.toml")),
    ("pits.toml", include_str!("../../briefs/pits.toml")),
    ("people.toml", include_str!("../../briefs/people.toml")),
    ("people.csv", include_str!("../../briefs/people.csv")),
    ("birds.toml", include_str!("../../briefs/birds.toml")),
    ("better.toml", include_str!("../../briefs/better.toml")),
    ("nerves.toml", include_str!("../../briefs/nerves.toml")),
    ("grades.toml", include_str!("../../briefs/grades.toml")),
    ("slips.toml", include_str!("../../briefs/slips.toml")),
    ("field.toml", include_str!("../../briefs/field.toml")),
    ("windward.toml", include_str!("../../briefs/windward.toml")),
    ("learn.toml", include_str!("../../briefs/learn.toml")),
    ("race.toml", include_str!("../../briefs/race.toml")),
    ("allround.toml", include_str!("../../briefs/allround.toml")),
    ("moor.toml", include_str!("../../briefs/moor.toml")),
    ("styles.toml", include_str!("../../briefs/styles.toml")),
];

/// A game that plays whole matches by itself.
const HOIST: [(&str, &str); 4] = [
    ("hoist.toml", include_str!("../../../../examples/hoist/hoist.toml")),
    ("hoist.py", include_str!("../../../../examples/hoist/hoist.py")),
    ("test_hoist.py", include_str!("../../../../examples/hoist/test_hoist.py")),
    ("README.md", include_str!("../../../../examples/hoist/README.md")),
];

const README: &str = include_str!("../../briefs/README.md");

pub(super) fn run(args: &NewArgs, desk: &Desk) -> Result<(), Failure> {
    let folder = &args.folder;
    let occupied = fs::read_dir(folder).is_ok_and(|mut entries| entries.next().is_some()) || folder.is_file();
    if occupied {
        return Err(Failure::wrong(
            format!("{} already exists and is not empty", folder.display()),
            "name a folder that does not exist yet",
        ));
    }
    if let Some(GameWay::Command) = args.game {
        return start_game(folder, desk);
    }
    // What names no game lies beside a brief that does.
    let has =
        |text: &str| games_of(text).chain(["piste"]).next().is_some_and(|game| desk.registry.game(game).is_some());
    let shipped = BRIEFS.iter().filter(|(_, text)| has(text));
    let own_games = desk
        .registry
        .games()
        .filter(|game| !BRIEFS.iter().any(|(_, text)| games_of(text).any(|shown| shown == game.sheet().name)));
    let briefs = own_games.map(|game| Ok((format!("{}.toml", game.sheet().name), first_brief(game, desk)?)));
    let briefs = briefs.collect::<Result<Vec<(String, String)>, Failure>>()?;
    for (name, text) in shipped.clone().copied().chain(briefs.iter().map(|(name, text)| (name.as_str(), text.as_str())))
    {
        output::write(&folder.join("briefs").join(name), text)?;
    }
    let shipped = shipped.count() == BRIEFS.len();
    let first = briefs.first().filter(|_| !shipped).map_or("how-hard.toml", |(name, _)| name);
    let readme = if shipped { README.to_string() } else { short_readme(&briefs) };
    output::write(&folder.join("README.md"), readme)?;
    let program = hint::program();
    let folder = folder.display();
    desk.print(format!(
        "{folder} is ready. Next:\n  cd {folder}\n  {program} check briefs/{first}\n  {program} run briefs/{first}"
    ));
    Ok(())
}

/// Writes the start of a game that plays whole matches by itself.
fn start_game(folder: &Path, desk: &Desk) -> Result<(), Failure> {
    for (name, text) in HOIST {
        output::write(&folder.join(name), text)?;
    }
    let (program, folder) = (hint::program(), folder.display());
    desk.print(format!(
        "{folder} is ready. Next:\n  cd {folder}\n  {program} check hoist.toml\n  {program} batch hoist.toml gannet eider visitor"
    ));
    Ok(())
}

/// The games that a brief, or a file beside it, is about.
fn games_of(text: &str) -> impl Iterator<Item = &str> {
    text.lines().filter_map(|line| Some(line.strip_prefix("game = \"")?.split_once('"')?.0))
}

/// A batch of the first agents of a game, as many as it has seats.
fn first_brief(game: &dyn GameEntry, desk: &Desk) -> Result<String, Failure> {
    let kinds = game.agents().iter().cycle().take(*game.sheet().seats.start());
    let named = |(place, kind): (usize, &AgentSheet)| EntrantDraft {
        name: Some(format!("{}-{}", kind.name, place + 1)),
        agent: kind.name.clone(),
        ..EntrantDraft::default()
    };
    let draft = Draft {
        game: game.sheet().name.as_str().into(),
        seed: Some(1),
        matches: Some(200),
        entrants: kinds.enumerate().map(named).collect(),
        ..Draft::default()
    };
    let plan = resolve(&draft.into(), &desk.registry)
        .map_err(|problems| Source::Arguments(BTreeMap::new()).report(&problems, desk.color_err))?;
    Ok(briefs::write(&plan, game))
}

/// Describes a folder with these briefs.
fn short_readme(briefs: &[(String, String)]) -> String {
    let program = hint::program();
    let mut text = format!(
        "# A folder to start from\n\nBriefs say what to play; `{program} run` plays them and keeps everything in `ledger/`.\n\n"
    );
    for (name, _) in briefs {
        let _ = writeln!(text, "    {program} run briefs/{name}");
    }
    let _ = writeln!(
        text,
        "\n`{program} games GAME` and `{program} agents GAME` list every rule, knob, preset and measure."
    );
    text
}

/// Writes the shipped briefs into `folder/briefs`.
pub(crate) fn write_briefs(folder: &Path) -> Result<(), Failure> {
    for (name, text) in BRIEFS {
        output::write(&folder.join("briefs").join(name), text)?;
    }
    Ok(())
}
