//! The tests of this crate from outside, in one program: it is linked once, and its tests share the cores.

mod common;
mod crashes;
mod export;
mod studies;
