//! Evolutions: agents that are found by mutation and choice.

mod brief;
mod check;

pub(super) use self::brief::read;
