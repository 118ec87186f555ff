//! Levels as they are typed, on the command line and in files: a name, a name with knobs, or the path of a file.

use std::path::Path;

use inkpot_core::{GameSource, Knobs, Level};

use crate::desk::Desk;
use crate::failure::Failure;
use crate::input;
use crate::spec;

/// Reads a typed level. A name of the game's own precedes a file of that name; a file is looked up from `base`.
/// Anything else is left for the checks of the study, which know the choices.
pub(crate) fn typed(text: &str, game: &GameSource, base: &Path, desk: &Desk) -> Result<Level, Failure> {
    let (name, knobs) = text.split_once(':').map_or((text, None), |(name, knobs)| (name, Some(knobs)));
    let is_own = desk.registry.find(game).is_ok_and(|game| game.sheet().levels.iter().any(|level| level.name == name));
    let path = base.join(text);
    if !is_own && (path.is_file() || looks_like_a_path(text)) {
        let bytes = input::bytes(&path)?;
        return Ok(Level::file(text, bytes));
    }
    let stated = knobs.map_or(Ok(Knobs::default()), |knobs| spec::assignments(knobs, text))?;
    Ok(Level::named(name, stated))
}

fn looks_like_a_path(text: &str) -> bool {
    text.contains(['/', '\\']) || (!text.contains(':') && Path::new(text).extension().is_some())
}
