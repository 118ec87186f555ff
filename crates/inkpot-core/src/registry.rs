//! All games by name.

use std::sync::Arc;

use crate::{GameEntry, nearest};

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

    /// All games in the order of registration.
    pub fn games(&self) -> impl Iterator<Item = &dyn GameEntry> {
        self.games.iter().map(AsRef::as_ref)
    }

    /// The registered name nearest to a misspelt one.
    pub fn nearest(&self, typed: &str) -> Option<String> {
        nearest(typed, self.games.iter().map(|game| game.sheet().name.as_str()))
    }
}
