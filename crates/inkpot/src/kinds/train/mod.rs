//! Trainings: agents that learn by reward.

mod brief;
mod check;

pub(super) use self::brief::read;
