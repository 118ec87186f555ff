//! Tests that need the inside of a tuning.

mod choosing;
mod made;
mod rivals;
