//! Game files: games in other processes, named by a path wherever a game is named.

use std::path::Path;

use inkpot_core::{GameEntry, GameSource, GameText, Registry};
use inkpot_foreign::{GameFile, GameFileError};

use crate::failure::Failure;
use crate::input;

/// Reads a typed game: a game of the program, or the path of a game file, looked up from `base`. An unknown name is left
/// for the checks of the study, which know the choices.
pub(crate) fn source(typed: &str, base: &Path, registry: &Registry) -> Result<GameSource, Failure> {
    let is_path = Path::new(typed).extension().is_some_and(|ending| ending == "toml");
    if registry.game(typed).is_some() || !is_path {
        return Ok(typed.into());
    }
    let path = base.join(typed);
    let text = input::text(&path)?;
    let wrong = |(what, help): (String, String)| Failure::wrong(format!("{}: {what}", path.display()), help);
    let name = GameFile::read(&text).map_err(parts).map_err(wrong)?.name;
    if registry.games().any(|game| game.sheet().name == name) {
        let what = format!("`{name}` is a game of the program");
        return Err(wrong((what, "give the game in the file another `name`".into())));
    }
    let file = std::path::absolute(&path).unwrap_or(path.clone());
    Ok(GameSource::File(GameText { name, file, text }))
}

/// Whether a text is that of a game file and not of a brief.
pub(crate) fn is_one(text: &str) -> bool {
    toml::from_str::<toml::Table>(text).is_ok_and(|table| table.contains_key("command") && !table.contains_key("kind"))
}

/// Builds the game of a file.
pub(crate) fn load(file: &GameText) -> Result<Box<dyn GameEntry>, (String, String)> {
    let read = GameFile::read(&file.text).map_err(parts)?;
    let folder = file.file.parent().unwrap_or(Path::new("."));
    Ok(Box::new(inkpot_foreign::entry(&read, folder).map_err(parts)?))
}

/// The problem of a game file, and the help.
fn parts(error: GameFileError) -> (String, String) {
    match error {
        GameFileError::Malformed(what) => {
            (what, "docs/game-file.md has every key of a game file, with an example".into())
        }
        GameFileError::Unfit { what, help } => (what, help),
    }
}
