//! The house games of the Quayside Fair, their scripted agents, and the registry of both.

pub mod berths;
pub mod piste;
pub mod regatta;
pub mod sowing;

mod opening;
mod standin;
mod thumb;

use inkpot_core::Registry;

/// Every house game with its agents.
pub fn registry() -> Registry {
    Registry::default().with(piste::entry()).with(sowing::entry()).with(berths::entry()).with(regatta::entry())
}
