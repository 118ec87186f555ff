//! The tests of this crate from outside, in one program: it is linked once, and its tests share the cores.

mod begin;
mod by_value;
mod fitting;
mod notes;
mod searches;
mod studies;
mod suspense;
mod three;
mod tiny;
mod tournaments;
mod tuning;
