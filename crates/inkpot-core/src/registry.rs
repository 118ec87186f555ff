//! All games by name.

use std::sync::Arc;

use thiserror::Error;

use crate::{GameEntry, GameSource, nearest};

/// All games by name.
#[derive(Clone, Default)]
pub struct Registry {
    games: Vec<Arc<dyn GameEntry>>,
}

impl Registry {
    /// With one more game.
    #[must_use]
    pub fn with(mut self, game: impl GameEntry + 'static) -> Self {
        self.games.push(Arc::new(game));
        self
    }

    /// The game of this name.
    pub fn game(&self, name: &str) -> Option<&dyn GameEntry> {
        self.games.iter().find(|game| game.sheet().name == name).map(AsRef::as_ref)
    }

    /// The game that comes from there. Errs where there is none.
    pub fn find(&self, source: &GameSource) -> Result<&dyn GameEntry, NoSuchGame> {
        self.game(source.name()).ok_or_else(|| NoSuchGame {
            name: source.name().into(),
            known: self.games().map(|game| game.sheet().name.clone()).collect(),
        })
    }

    /// All games in the order of registration.
    pub fn games(&self) -> impl Iterator<Item = &dyn GameEntry> {
        self.games.iter().map(AsRef::as_ref)
    }
}

/// No game comes from where one was looked for.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("there is no game `{name}`")]
pub struct NoSuchGame {
    /// The name that was looked for.
    pub name: String,
    /// Names of those that there are.
    pub known: Vec<String>,
}

impl NoSuchGame {
    /// Returns advice for the user.
    pub fn help(&self) -> String {
        let known = self.known.join(", ");
        match nearest(&self.name, self.known.iter().map(String::as_str)) {
            Some(near) => format!("did you mean `{near}`? Available: {known}"),
            None if known.is_empty() => "there are none here".into(),
            None => format!("available: {known}"),
        }
    }
}
