//! The tests of this crate from outside, in one program: it is linked once, and its tests share the cores.

mod conformance;
mod falls;
mod playing;
mod race;
