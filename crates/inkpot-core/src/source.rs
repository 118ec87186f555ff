//! Sources of games.

use std::fmt;

use serde::{Deserialize, Serialize};

/// The source of a game: a plan stores it, so that every worker finds the same game.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum GameSource {
    /// A game that the program has, a house game or one of a crate, by its name.
    Named(String),
}

impl GameSource {
    /// The name of the game.
    pub fn name(&self) -> &str {
        match self {
            Self::Named(name) => name,
        }
    }
}

impl From<&str> for GameSource {
    fn from(name: &str) -> Self {
        Self::Named(name.into())
    }
}

impl From<String> for GameSource {
    fn from(name: String) -> Self {
        Self::Named(name)
    }
}

impl From<&String> for GameSource {
    fn from(name: &String) -> Self {
        Self::Named(name.clone())
    }
}

impl From<&Self> for GameSource {
    fn from(source: &Self) -> Self {
        source.clone()
    }
}

impl Default for GameSource {
    /// No game, in a draft without one.
    fn default() -> Self {
        Self::Named(String::new())
    }
}

impl fmt::Display for GameSource {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}
