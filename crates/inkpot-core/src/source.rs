//! Sources of games.

use std::fmt;
use std::path::PathBuf;

use serde::{Deserialize, Serialize};

/// The source of a game: a plan stores it, so that every worker finds the same game.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum GameSource {
    /// A game of the program, a house game or one of a crate, by its name.
    Named(String),
    /// A game in another process, described by a file.
    File(GameText),
}

/// A game file with its contents.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct GameText {
    /// The name that the file gives the game.
    pub name: String,
    /// The path of the file.
    pub file: PathBuf,
    /// Its text.
    pub text: String,
}

impl GameSource {
    /// Returns the name of the game.
    pub fn name(&self) -> &str {
        match self {
            Self::Named(name) => name,
            Self::File(file) => &file.name,
        }
    }

    /// Returns the text by which a brief or a command names it: the name, or the path of its file.
    pub fn typed(&self) -> String {
        match self {
            Self::Named(name) => name.clone(),
            Self::File(file) => file.file.display().to_string(),
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
