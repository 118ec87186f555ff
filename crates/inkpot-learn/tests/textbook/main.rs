//! Textbook problems, with the evaluations that papers report for them.

mod balance;
mod cliff;
mod functions;
mod poles;
mod xor;
