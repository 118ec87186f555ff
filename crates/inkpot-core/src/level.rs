//! Levels as values: a name with the knobs of its generator, or the bytes of a file.

use std::fmt;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::{Bytes, GameSheet, KnobError, KnobValue, Knobs, nearest};

/// One concrete layout, map or start position of a game.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum Level {
    /// A level that the game's sheet names.
    Named {
        /// Its name.
        name: String,
        /// Knobs of its generator that are set.
        #[serde(default, skip_serializing_if = "Knobs::is_empty")]
        given: Knobs,
        /// Every knob of its generator, once it is resolved.
        #[serde(default, skip_serializing_if = "Knobs::is_empty")]
        knobs: Knobs,
    },
    /// A level that somebody else wrote.
    File {
        /// The file's name.
        file: String,
        /// The file's contents.
        bytes: Bytes,
    },
}

/// An error: the level cannot be played.
#[derive(Clone, Debug, PartialEq)]
#[expect(missing_docs, reason = "the fields are the names they are called by")]
pub enum LevelError {
    /// The game has no level of this name.
    Unknown { name: String, known: Vec<String>, nearest: Option<String> },
    /// Knobs of the level cannot stand so.
    Knobs(Vec<KnobError>),
    /// The game reads no level files.
    NoFiles { file: String },
}

impl Level {
    /// The level of this name, with these knobs of its generator set.
    pub fn named(name: impl Into<String>, given: Knobs) -> Self {
        Self::Named { name: name.into(), given, knobs: Knobs::default() }
    }

    /// The level that a file holds.
    pub fn file(file: impl Into<String>, bytes: impl Into<Arc<[u8]>>) -> Self {
        Self::File { file: file.into(), bytes: Bytes(bytes.into()) }
    }

    /// Its name, or that of its file.
    pub fn name(&self) -> &str {
        match self {
            Self::Named { name, .. } => name,
            Self::File { file, .. } => file,
        }
    }

    /// Whether it is laid like another: the same name and values, however they came about, or the same bytes.
    pub fn same_as(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Named { name, knobs, .. }, Self::Named { name: other, knobs: theirs, .. }) => {
                name == other && knobs == theirs
            }
            (Self::File { bytes, .. }, Self::File { bytes: theirs, .. }) => bytes == theirs,
            _ => false,
        }
    }

    /// Returns the text of a level file. Errs with the problem for its author.
    pub fn text(&self) -> Result<&str, String> {
        match self {
            Self::Named { name, .. } => Err(format!("the level `{name}` is not a file")),
            Self::File { bytes, .. } => {
                std::str::from_utf8(&bytes.0).map_err(|error| format!("it is not text in UTF-8: {error}"))
            }
        }
    }

    /// With every knob of its generator, the others at their defaults.
    pub fn resolve(&self, sheet: &GameSheet) -> Result<Self, LevelError> {
        match self {
            Self::File { file, .. } if sheet.level_file.is_none() => Err(LevelError::NoFiles { file: file.clone() }),
            Self::File { .. } => Ok(self.clone()),
            Self::Named { name, given, .. } => {
                let Some(level) = sheet.levels.iter().find(|level| level.name == *name) else {
                    let known: Vec<String> = sheet.levels.iter().map(|level| level.name.clone()).collect();
                    let nearest = nearest(name, known.iter().map(String::as_str));
                    return Err(LevelError::Unknown { name: name.clone(), known, nearest });
                };
                let knobs = given.resolve(&level.knobs).map_err(LevelError::Knobs)?;
                Ok(Self::Named { name: name.clone(), given: given.clone(), knobs })
            }
        }
    }

    /// With one knob set to another value, to be resolved again; a file stays as it is.
    #[must_use]
    pub fn with(&self, knob: &str, value: KnobValue) -> Self {
        match self {
            Self::File { .. } => self.clone(),
            Self::Named { name, given, .. } => {
                let mut given = given.clone();
                given.set(knob, value);
                Self::named(name.as_str(), given)
            }
        }
    }
}

impl fmt::Display for Level {
    /// Writes the typed form: `NAME`, `NAME:knob=value,knob=value`, or the file's name.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())?;
        let Self::Named { given, .. } = self else { return Ok(()) };
        for (place, (knob, value)) in given.iter().enumerate() {
            write!(f, "{}{knob}={value}", if place == 0 { ":" } else { "," })?;
        }
        Ok(())
    }
}
