//! The tests of this crate from outside, in one program: it is linked once, and its tests share the cores.

mod berths;
mod held;
mod lessons;
mod piste;
mod promises;
mod sowing;
