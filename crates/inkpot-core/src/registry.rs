//! All games by name.

use std::sync::Arc;

use elsa::sync::FrozenVec;
use thiserror::Error;

use crate::{GameEntry, GameSource, GameText, nearest};

/// Builds the game of a file. Errs with the problem and the help.
pub type LoadGame = fn(&GameText) -> Result<Box<dyn GameEntry>, (String, String)>;

/// All games by name.
#[derive(Clone, Default)]
pub struct Registry {
    games: Vec<Arc<dyn GameEntry>>,
    load: Option<LoadGame>,
    /// Games of files, loaded so far.
    loaded: Arc<FrozenVec<Box<Loaded>>>,
}

/// A game of a file.
struct Loaded {
    file: GameText,
    game: Box<dyn GameEntry>,
}

impl Registry {
    /// With one more game.
    #[must_use]
    pub fn with(mut self, game: impl GameEntry + 'static) -> Self {
        self.games.push(Arc::new(game));
        self
    }

    /// With games of files, which this function builds.
    #[must_use]
    pub fn loading(self, load: LoadGame) -> Self {
        Self { load: Some(load), ..self }
    }

    /// Returns the game of this name: of the program, or of a file that was loaded.
    pub fn game(&self, name: &str) -> Option<&dyn GameEntry> {
        let own = self.games.iter().find(|game| game.sheet().name == name).map(AsRef::as_ref);
        own.or_else(|| self.loaded().find(|loaded| loaded.file.name == name).map(|loaded| loaded.game.as_ref()))
    }

    /// Returns the game of this source; one of a file is loaded once. Errs if there is none.
    pub fn find(&self, source: &GameSource) -> Result<&dyn GameEntry, NoSuchGame> {
        match source {
            GameSource::Named(name) => self.game(name).ok_or_else(|| NoSuchGame::Unknown {
                name: name.clone(),
                known: self.games().map(|game| game.sheet().name.clone()).collect(),
            }),
            GameSource::File(file) => self.of_file(file),
        }
    }

    fn of_file(&self, file: &GameText) -> Result<&dyn GameEntry, NoSuchGame> {
        if let Some(loaded) = self.loaded().find(|loaded| loaded.file == *file) {
            return Ok(loaded.game.as_ref());
        }
        let wrong = |(what, help)| NoSuchGame::Wrong { file: file.file.display().to_string(), what, help };
        let load = self.load.ok_or_else(|| wrong(("no game files are read here".into(), "name a game".into())))?;
        let game = load(file).map_err(wrong)?;
        Ok(self.loaded.push_get(Box::new(Loaded { file: file.clone(), game })).game.as_ref())
    }

    fn loaded(&self) -> impl Iterator<Item = &Loaded> {
        (0..self.loaded.len()).filter_map(|place| self.loaded.get(place))
    }

    /// Returns all games of the program in the order of registration.
    pub fn games(&self) -> impl Iterator<Item = &dyn GameEntry> {
        self.games.iter().map(AsRef::as_ref)
    }
}

/// An error: there is no game of this source.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum NoSuchGame {
    /// No game has this name.
    #[error("there is no game `{name}`")]
    #[expect(missing_docs, reason = "the name that was looked for, and all names")]
    Unknown { name: String, known: Vec<String> },
    /// The file does not describe a game.
    #[error("{file}: {what}")]
    #[expect(missing_docs, reason = "the file, the problem and the help")]
    Wrong { file: String, what: String, help: String },
}

impl NoSuchGame {
    /// Returns advice for the user.
    pub fn help(&self) -> String {
        match self {
            Self::Wrong { help, .. } => help.clone(),
            Self::Unknown { name, known } => {
                let all = known.join(", ");
                match nearest(name, known.iter().map(String::as_str)) {
                    Some(near) => format!("did you mean `{near}`? Available: {all}"),
                    None if known.is_empty() => "there are none here".into(),
                    None => format!("available: {all}"),
                }
            }
        }
    }
}
