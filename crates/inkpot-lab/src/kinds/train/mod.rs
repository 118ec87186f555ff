//! Training: agents that learn by reward.
//!
//! A learner (a network or a table) decides in matches and is paid by named terms. Several repetitions with seeds of their
//! own learn side by side; each is looked at now and then on a yardstick that it never learns from, and the best of what
//! was looked at is proved on fresh blocks, as in an evolution.
//!
//! Each repetition learns as a piece of work (`Ask::Work`): `SearchWork::go_on` takes a state to the next, on any worker. Rewards are terms read off the rows of a
//! `core::Lessons` (`Lesson`). On a course a repetition also looks at its present leg; a match under way keeps the leg on which it began (`UnderWay`).

mod asked;
mod course;
mod draft;
mod files;
mod gathered;
mod history;
mod learner;
mod lesson;
mod method;
mod notes;
mod past;
mod paths;
mod repetition;
mod resolve;
mod search;
#[cfg(test)]
mod tests;

pub use asked::{Foresight, Leg, Train};
pub use draft::{LegDraft, TrainDraft};
pub use method::{LearnedGame, Training};
pub use resolve::resolve_train;

pub(crate) use method::MOST_POSITIONS;
pub(crate) use paths::paths;
