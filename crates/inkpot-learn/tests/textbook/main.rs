//! Textbook problems, with the evaluations that papers report for them.

mod functions;
mod poles;
mod xor;
