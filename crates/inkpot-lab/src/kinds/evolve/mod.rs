//! Evolution: agents that are found, not written.
//!
//! What is sought (knobs, a network, a tape) becomes a space of genomes; a method asks for candidates, these play, and
//! what they come to is their worth: named terms with weights. Several repetitions with seeds of their own run side by
//! side, each is looked at on a yardstick that it never learns from, and what each found is proved on fresh blocks.
//!
//! A genome becomes an agent by knob values alone, a network being a file in the knob `file`. So a candidate is an ordinary `Setting`, and loop, rows and the
//! champion's agent file need nothing special. Where candidates learn against each other, each `Population` has a `Hall` of past champions; the generation's number
//! draws the opponents, so no draw is state. A fitness that is not a number is a brief error (`Ask::Stuck`), and the study is removed.

mod asked;
mod draft;
mod history;
mod map;
mod method;
mod notes;
mod paths;
mod repetition;
mod resolve;
mod rivals;
mod search;
#[cfg(test)]
mod tests;

pub use asked::{Evolve, Rivals};
pub use draft::{EvolveDraft, NicheDraft, RivalsDraft};
pub use method::Method;
pub use resolve::resolve_evolve;

pub(crate) use resolve::BLOCKS;

pub(crate) use paths::paths;
