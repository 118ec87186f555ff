//! The tests of this crate from outside, in one program: it is linked once, and its tests share the cores.

mod failing;
mod searching;
mod shares;
mod toys;
