//! The tests of this crate from outside, in one program: it is linked once, and its tests share the cores.

mod coverage;
mod made;
mod people;
mod ratings;
mod sequence;
