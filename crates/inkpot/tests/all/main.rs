//! The tests of this crate from outside, in one program: it is linked once, and its tests share the cores.

mod advice;
mod bad_input;
mod common;
mod demo;
mod evolving;
mod exchange;
mod exploiting;
mod fitting;
mod hard;
mod keys;
mod live;
mod numbers;
mod outputs;
mod pages;
mod processes;
mod prose;
mod ranking;
mod replaying;
mod report;
mod searching;
mod structure;
mod studies;
mod training;
mod tuning;
mod views;
mod watching;
